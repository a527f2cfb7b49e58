// Package when reads the phrases with which people name a time, and computes
// with days as people live them: days that turn at four in the morning, weeks
// that start where the person says, working days, and clocks that jump twice
// a year. It is pure: every function takes "now" and the person's Calendar.
package when

import (
	"fmt"
	"time"
)

// Minute is a time of day, in minutes after midnight (0 to 1439).
type Minute int

// At makes a Minute of an hour and a minute.
func At(hour, minute int) Minute { return Minute(hour*60 + minute) }

// String prints the time of day as 15:04.
func (m Minute) String() string { return fmt.Sprintf("%02d:%02d", int(m)/60, int(m)%60) }

// Calendar is how one person's days and weeks run. The zero value is not
// useful; start from Standard.
type Calendar struct {
	Zone      *time.Location
	WeekStart time.Weekday
	// DayTurn is when a new day begins for phrases, overdue and low water.
	DayTurn Minute
	// DayStart and DayEnd bound the working day; a phrase that names only a
	// day means its DayStart.
	DayStart, DayEnd Minute
	// Evening is when evenings begin; 0 for 18:00, or the end of a later
	// working day.
	Evening Minute
	// Workdays is indexed by time.Weekday.
	Workdays [7]bool
	// MonthFirst reads 3/4 as 4 March rather than 3 April.
	MonthFirst bool
	// Named are the person's own names for times, in their order.
	Named []Named
}

// Named is a time with a name of the person's own. It means a part of a day,
// also where its phrase names a minute.
type Named struct {
	Name   string `json:"name"`
	Phrase string `json:"phrase"`
	// Key takes it in one stroke while a time is asked for; "" for none.
	Key string `json:"key,omitempty"`
}

// UsualTimes are the named times that a new person starts with.
var UsualTimes = []Named{
	{Name: "later today", Phrase: "in 3 hours"}, {Name: "this evening", Phrase: "today evening"}, {Name: "tomorrow morning", Phrase: "tomorrow morning"},
	{Name: "weekend", Phrase: "weekend"}, {Name: "next week", Phrase: "next week"}, {Name: "next month", Phrase: "next month"}, {Name: "someday", Phrase: "someday"},
}

// Standard is the calendar a new person starts with: Monday to Friday,
// 08:30 to 17:30, the day turning at 04:00.
func Standard(zone *time.Location) Calendar {
	return Calendar{
		Zone: zone, WeekStart: time.Monday, DayTurn: At(4, 0),
		DayStart: At(8, 30), DayEnd: At(17, 30),
		Workdays: [7]bool{time.Monday: true, time.Tuesday: true, time.Wednesday: true, time.Thursday: true, time.Friday: true},
		Named:    UsualTimes,
	}
}

// Date is a day of the civil calendar, without a zone.
type Date struct {
	Year  int
	Month time.Month
	Day   int
}

// DateOf is the day that t's own clock shows.
func DateOf(t time.Time) Date { return dateOf(t) }

func dateOf(t time.Time) Date {
	y, m, d := t.Date()
	return Date{y, m, d}
}

func (d Date) utc() time.Time { return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC) }

// Add returns the day n days later (earlier when n is negative).
func (d Date) Add(n int) Date { return dateOf(d.utc().AddDate(0, 0, n)) }

// Weekday is the day of the week.
func (d Date) Weekday() time.Weekday { return d.utc().Weekday() }

// After tells whether d comes after other.
func (d Date) After(other Date) bool { return d.utc().After(other.utc()) }

// Before tells whether d comes before other.
func (d Date) Before(other Date) bool { return d.utc().Before(other.utc()) }

// DaysUntil counts the days from d to other.
func (d Date) DaysUntil(other Date) int { return int(other.utc().Sub(d.utc()).Hours() / 24) }

// String prints the day as 2006-01-02.
func (d Date) String() string { return d.utc().Format(time.DateOnly) }

// exists tells whether the day is on the calendar: 31 November is not.
func (d Date) exists() bool { return dateOf(d.utc()) == d }

// Today is the person's day at the instant now: before DayTurn it is still
// yesterday.
func (c Calendar) Today(now time.Time) Date {
	local := now.In(c.Zone)
	today := dateOf(local)
	if At(local.Hour(), local.Minute()) < c.DayTurn {
		return today.Add(-1)
	}
	return today
}

// Begins is the instant at which the person's day d begins (its DayTurn).
func (c Calendar) Begins(d Date) time.Time { return c.Instant(d, c.DayTurn) }

// WeekEnd is the last day of the week that holds d.
func (c Calendar) WeekEnd(d Date) Date {
	ahead := (int(c.WeekStart) - int(d.Weekday()) + 7) % 7
	if ahead == 0 {
		ahead = 7
	}
	return d.Add(ahead - 1)
}

// MonthEnd is the last day of the month that holds d.
func (c Calendar) MonthEnd(d Date) Date {
	return dateOf(time.Date(d.Year, d.Month+1, 0, 0, 0, 0, 0, time.UTC))
}

// NextOn is the first time after an instant that the clock shows m on a day of
// the week.
func (c Calendar) NextOn(day time.Weekday, m Minute, after time.Time) time.Time {
	d := dateOf(after.In(c.Zone))
	for range 9 { // today may have passed, and a clock change may move it
		if at := c.Instant(d, m); d.Weekday() == day && at.After(after) {
			return at
		}
		d = d.Add(1)
	}
	return c.Instant(d, m)
}

// Works tells whether d is a working day. Somebody with no working days at
// all is taken to work on every day, so that every search for one ends.
func (c Calendar) Works(d Date) bool {
	return c.Workdays == [7]bool{} || c.Workdays[d.Weekday()]
}

func (c Calendar) firstWorkday(d Date) Date {
	for !c.Works(d) {
		d = d.Add(1)
	}
	return d
}

func (c Calendar) lastWorkday(d Date) Date {
	for !c.Works(d) {
		d = d.Add(-1)
	}
	return d
}

// Instant is the instant of the wall-clock time m on day d. A time that does
// not exist (the clock jumps over it) moves forward by the length of the gap;
// of a time that comes twice, it is the first.
func (c Calendar) Instant(d Date, m Minute) time.Time { return resolve(d, m, c.Zone) }

// Boundary is the instant at which a stretch of the day begins or ends by the
// wall clock: as Instant, but a boundary that the clock jumps over lies at the
// end of the gap. m may be 1440, which is midnight at the day's end.
func (c Calendar) Boundary(d Date, m Minute) time.Time {
	at := c.Instant(d, m)
	wall := d.utc().Add(time.Duration(m) * time.Minute)
	if sameWall(at, wall) {
		return at
	}
	jump, _ := at.ZoneBounds()
	return jump
}

func resolve(d Date, m Minute, zone *time.Location) time.Time {
	wall := d.utc().Add(time.Duration(m) * time.Minute)
	// The offsets in force a day before and after bracket any single change.
	_, before := wall.Add(-24 * time.Hour).In(zone).Zone()
	_, after := wall.Add(24 * time.Hour).In(zone).Zone()
	first := wall.Add(-time.Duration(before) * time.Second).In(zone)
	if sameWall(first, wall) {
		return first
	}
	second := wall.Add(-time.Duration(after) * time.Second).In(zone)
	if sameWall(second, wall) {
		return second
	}
	// In a gap, reading the wall with the older offset lands past it, moved
	// forward by exactly the gap's length.
	return first
}

// doubled tells whether the wall-clock time of t comes twice that day.
func doubled(t time.Time) bool {
	_, ok := twinOf(t)
	return ok
}

// twinOf is the other instant that has the same wall-clock time.
func twinOf(t time.Time) (time.Time, bool) {
	_, offset := t.Zone()
	for _, probe := range []time.Duration{-24 * time.Hour, 24 * time.Hour} {
		_, other := t.Add(probe).Zone()
		twin := t.Add(time.Duration(offset-other) * time.Second)
		if other != offset && sameWall(twin, t) {
			return twin, true
		}
	}
	return time.Time{}, false
}

func sameWall(a, b time.Time) bool {
	return dateOf(a) == dateOf(b) && a.Hour() == b.Hour() && a.Minute() == b.Minute()
}
