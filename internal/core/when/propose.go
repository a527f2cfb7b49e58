package when

import "time"

// Proposal is a named time, as it reads now.
type Proposal struct {
	Named
	Reading
}

// Propose reads the person's named times, in their order. What has passed
// today, or means the same as one before it, is left out.
func Propose(now time.Time, c Calendar) []Proposal {
	var out []Proposal
	seen := map[time.Time]bool{}
	for _, n := range c.Named {
		r, err := Read(n.Name, now, c)
		if err != nil || seen[r.UTC] || !sameDay(n, r, now, c) {
			continue
		}
		seen[r.UTC] = true
		out = append(out, Proposal{n, r})
	}
	return out
}

// sameDay keeps what is named after today from meaning another day: "later
// today" late in the evening.
func sameDay(n Named, r Reading, now time.Time, c Calendar) bool {
	for _, w := range split(n.Name + " " + n.Phrase) {
		if (w == "today" || w == "tonight") && r.Precision != Open && r.Day(c) != c.Today(now) {
			return false
		}
	}
	return true
}

// Speak prints a moment for people, as short as the distance from now allows:
// "today 14:00", "tomorrow 08:30", "Fri 27 Nov, 14:00", "Mon 4 Jan 2027".
func Speak(m Moment, now time.Time, c Calendar) string {
	if m.Precision == Open {
		return "someday"
	}
	local, day, today := m.UTC.In(c.Zone), m.Day(c), c.Today(now)
	clock := local.Format("15:04") + Which(local)
	switch today.DaysUntil(day) {
	case 0:
		return "today " + clock
	case 1:
		return "tomorrow " + clock
	case -1:
		return "yesterday " + clock
	}
	layout := "Mon 2 Jan, 15:04"
	if day.Year != today.Year {
		layout = "Mon 2 Jan 2006, 15:04"
	}
	return local.Format(layout) + Which(local)
}

// InFull prints a moment for somebody else to read, at another time: “Friday 27 November”,
// “Friday 27 November at 10:00”; with its year where that is not this one.
func InFull(m Moment, now time.Time, c Calendar) string {
	local, layout := m.UTC.In(c.Zone), "Monday 2 January"
	if m.Day(c).Year != c.Today(now).Year {
		layout += " 2006"
	}
	if m.Precision == ToMinute {
		return local.Format(layout+" at 15:04") + Which(local)
	}
	return m.Day(c).utc().Format(layout)
}

// Which tells the two readings of a doubled hour apart, in words; "" for any
// other time.
func Which(t time.Time) string {
	twin, ok := twinOf(t)
	switch {
	case !ok:
		return ""
	case twin.Before(t):
		return ", the second time"
	}
	return ", the first time"
}
