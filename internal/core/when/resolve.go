package when

import (
	"time"
)

// farthest keeps a typing slip ("99999d") from putting a letter off for ever.
const farthest = 100 * 366 * 24 * time.Hour

// resolve turns what the words said into a Reading, and refuses the past.
func (p *parser) resolve() (Reading, error) {
	if p.someday {
		if p.said() {
			return Reading{}, refuse("Someday has no date. Take one or the other.")
		}
		return Reading{Moment: Moment{Precision: Open}, Canonical: "someday"}, nil
	}
	r, err := Reading{}, error(nil)
	switch {
	case !p.said():
		return Reading{}, refuse("That names no time. Try “fri 2pm”, “3d” or “end of month”.")
	case p.elapsed != 0:
		r, err = p.resolveElapsed()
	default:
		r, err = p.resolveWall()
	}
	switch {
	case err != nil:
		return Reading{}, err
	case r.UTC.Sub(p.now) > farthest:
		return Reading{}, refuse("That is more than a hundred years away. Use “someday”.")
	case p.round && r.Precision == ToMinute:
		r = r.around(p.cal)
	}
	return r, nil
}

func (p *parser) resolveElapsed() (Reading, error) {
	if p.day != nil || p.clock != nil || p.part != "" {
		return Reading{}, refuse("Name either how long from now, or a day and a time.")
	}
	m := Exact(p.now.Add(p.elapsed), p.cal)
	return Reading{Moment: m, Canonical: m.Phrase}, nil
}

func (p *parser) resolveWall() (Reading, error) {
	c, today := p.cal, p.today()
	m, precision, part := c.DayStart, ToDay, p.part
	switch {
	case p.clock != nil:
		m, precision = *p.clock, ToMinute
	case part != "":
		m = c.parts()[part]
	}
	day, named := today, p.day != nil
	if named {
		day = *p.day
	}
	if !named && p.clock != nil {
		// A bare clock time means the calendar day we are in, also between
		// midnight and the turn of the day.
		day = dateOf(p.now)
	}
	t := p.instant(day, m)
	for i := 0; !named && !t.After(p.now) && i < 2; i++ {
		day = day.Add(1)
		t = p.instant(day, m)
		if i == 0 {
			p.note("that has passed today: tomorrow")
		}
	}
	if !t.After(p.now) && day == today && p.clock == nil && p.part == "" {
		// "today" without a time, after the day's start: its end, if still ahead.
		m, part = c.DayEnd, "end of day"
		t = p.instant(day, m)
	}
	if !t.After(p.now) && p.dayIsDate && !p.hadYear && day == today {
		if p.clock == nil && p.part == "" {
			m, part = c.DayStart, ""
		}
		day = p.nextYear(day)
		t = p.instant(day, m)
		p.note("that has passed today: next year")
	}
	if !t.After(p.now) {
		return Reading{}, refuse("That has passed. Name a time that is still to come.")
	}
	if wall := day.utc().Add(time.Duration(m) * time.Minute); p.offset == nil && !sameWall(t, wall) {
		p.note("the clock jumps over " + m.String() + " that day: " + t.Format("15:04"))
		if precision == ToMinute {
			m = At(t.Hour(), t.Minute())
		}
	}
	moment := Moment{Wall: day.String() + "T" + m.String(), Zone: Mine, Precision: precision, UTC: t.UTC()}
	if p.offset != nil {
		moment = Exact(t, c)
	}
	r := Reading{Moment: moment}
	switch {
	case precision == ToMinute:
		r.Canonical = canonical(t.In(c.Zone))
	case part == "" || part == "morning":
		r.Canonical = day.utc().Format(dateLayout) + " morning"
	default:
		r.Canonical = day.utc().Format(dateLayout) + " " + part
	}
	return r, nil
}

// around makes the reading mean the part of the day about its minute.
func (r Reading) around(c Calendar) Reading {
	r.Precision = ToDay
	r.Canonical = r.Moment.Canonical(c)
	return r
}

func (p *parser) nextYear(d Date) Date {
	for d.Year++; !d.exists(); d.Year++ {
	}
	return d
}

func (p *parser) instant(d Date, m Minute) time.Time {
	if p.offset != nil {
		return time.Date(d.Year, d.Month, d.Day, int(m)/60, int(m)%60, 0, 0, p.offset)
	}
	return p.cal.Instant(d, m)
}
