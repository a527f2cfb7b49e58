package when

import (
	"fmt"
	"strings"
	"time"
)

// Precision says how exactly a time was meant.
type Precision string

const (
	// ToMinute: "fri 2pm", "in 3 hours". Comes at its minute, through any hold.
	ToMinute Precision = "minute"
	// ToDay: a day or a part of one. Comes with the first delivery at or
	// after its time.
	ToDay Precision = "day"
	// Open: someday. Has no time.
	Open Precision = "open"
)

// Mine is the Zone of a Moment that follows the person's own zone.
const Mine = "mine"

// Moment is a time as it is stored: what was typed, the wall-clock time it
// named and in which zone, how exactly, and the instant that follows from
// these. The instant is recomputed (Moment.In) when the zone or its rules
// change.
type Moment struct {
	Phrase    string    `json:"phrase"`
	Wall      string    `json:"wall,omitempty" doc:"Wall-clock time, 2006-01-02T15:04"`
	Zone      string    `json:"zone,omitempty" doc:"'mine', or an offset such as +02:00"`
	Precision Precision `json:"precision" enum:"minute,day,open"`
	UTC       time.Time `json:"utc,omitzero"`
}

const wallLayout = "2006-01-02T15:04"

// In returns the moment with its instant computed anew for the calendar.
// The second reading of a doubled hour is kept, since it is stored with its
// offset as Zone.
func (m Moment) In(c Calendar) Moment {
	if m.Precision == Open || m.Zone != Mine {
		return m
	}
	wall, err := time.Parse(wallLayout, m.Wall)
	if err != nil {
		return m
	}
	m.UTC = c.Instant(dateOf(wall), At(wall.Hour(), wall.Minute())).UTC()
	return m
}

// Exact makes a moment of minute precision at the instant t.
func Exact(t time.Time, c Calendar) Moment {
	local := t.In(c.Zone).Truncate(time.Minute)
	m := Moment{Wall: local.Format(wallLayout), Zone: Mine, Precision: ToMinute, UTC: local.UTC()}
	// The second of a doubled pair can only be told apart by its offset.
	if !m.In(c).UTC.Equal(m.UTC) {
		m.Zone = local.Format("-07:00")
	}
	m.Phrase = canonical(local)
	return m
}

// OnDay makes a moment of day precision at the start of working day d.
func OnDay(d Date, c Calendar) Moment {
	m := Moment{Wall: d.String() + "T" + c.DayStart.String(), Zone: Mine, Precision: ToDay}.In(c)
	m.Phrase = d.utc().Format(dateLayout)
	return m
}

// Day is the person's day on which the moment falls.
func (m Moment) Day(c Calendar) Date {
	if m.Precision == ToDay {
		if wall, err := time.Parse(wallLayout, m.Wall); err == nil {
			return dateOf(wall)
		}
	}
	return c.Today(m.UTC)
}

const dateLayout = "Mon 2 Jan 2006"

func canonical(t time.Time) string {
	printed := t.Format(dateLayout + " 15:04")
	if doubled(t) {
		printed += " " + t.Format("-07:00")
	}
	return printed
}

// Canonical is a phrase that reads to the moment again, in the same calendar.
func (m Moment) Canonical(c Calendar) string {
	if m.Precision == Open {
		return "someday"
	}
	local := m.UTC.In(c.Zone)
	if m.Precision == ToMinute {
		return canonical(local)
	}
	clock, parts := At(local.Hour(), local.Minute()), c.parts()
	for _, part := range []string{"morning", "end of day", "noon", "afternoon", "evening", "night"} {
		if parts[part] == clock && dateOf(local) == m.Day(c) {
			return local.Format(dateLayout) + " " + part
		}
	}
	return strings.Replace(canonical(local), local.Format(" 15:04"), local.Format(" around 15:04"), 1)
}

// Reading is a phrase as Ebbe understood it.
type Reading struct {
	Moment
	// Canonical is the phrase in full; read again at any earlier now it gives
	// the same instant.
	Canonical string
	// Notes say aloud what was assumed ("no year given: 2027").
	Notes []string
}

// Error is a phrase that can't be taken, with what to do about it.
type Error struct {
	Reason string
	// Spot is the place that a phrase names and nobody has named yet; "" for
	// any other reason.
	Spot string
}

func (e *Error) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &Error{Reason: fmt.Sprintf(format, args...)} }

// MovedTo is the same time of day, as exactly meant, on the person's day d.
func (m Moment) MovedTo(d Date, c Calendar) Moment {
	if m.Precision == Open {
		return m
	}
	local := m.UTC.In(c.Zone)
	clock := At(local.Hour(), local.Minute())
	if m.Precision == ToMinute && clock < c.DayTurn {
		d = d.Add(1) // the small hours belong to the day before
	}
	m.Wall, m.Zone = d.String()+"T"+clock.String(), Mine
	m = m.In(c)
	m.Phrase = m.Canonical(c)
	return m
}

// ReadDate reads a day printed as 2006-01-02; ok is false for anything else.
func ReadDate(text string) (d Date, ok bool) {
	t, err := time.Parse(time.DateOnly, text)
	return dateOf(t), err == nil
}
