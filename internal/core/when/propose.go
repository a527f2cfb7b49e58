package when

import (
	"fmt"
	"time"
)

// Proposal is a time worth offering, with why.
type Proposal struct {
	Reading
	Why string
}

// Propose offers a few times for putting a letter off at the instant now,
// nearest first. What has passed today is not offered.
func Propose(now time.Time, c Calendar) []Proposal {
	phrases := []struct{ phrase, why string }{
		{"later today", "in three hours"},
		{"this evening", "after the working day"},
		{"tomorrow morning", ""},
		{"weekend", "the first free morning"},
		{"next week", "its first working day"},
		{"next month", "its first working day"},
		{"someday", "no date; it waits in Ahead"},
	}
	today := c.Today(now)
	var out []Proposal
	seen := map[time.Time]bool{}
	for _, p := range phrases {
		r, err := Read(p.phrase, now, c)
		if err != nil || seen[r.UTC] {
			continue
		}
		if p.phrase == "later today" && (c.Today(r.UTC) != today || r.UTC.After(c.Instant(today, c.DayEnd))) {
			continue
		}
		if p.phrase == "this evening" && r.Day(c) != today {
			continue
		}
		if p.phrase == "tomorrow morning" {
			p.why = "in " + days(today.DaysUntil(r.Day(c)))
			if !c.works(r.Day(c)) {
				p.why = "not a working day"
			}
		}
		seen[r.UTC] = true
		out = append(out, Proposal{Reading: r, Why: p.why})
	}
	return out
}

func days(n int) string {
	if n == 1 {
		return "one day"
	}
	return fmt.Sprintf("%d days", n)
}

// Speak prints a moment for people, as short as the distance from now allows:
// "today 14:00", "tomorrow 08:30", "Fri 27 Nov, 14:00", "Mon 4 Jan 2027".
func Speak(m Moment, now time.Time, c Calendar) string {
	if m.Precision == Open {
		return "someday"
	}
	local, day, today := m.UTC.In(c.Zone), m.Day(c), c.Today(now)
	clock := local.Format("15:04")
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
	return local.Format(layout)
}
