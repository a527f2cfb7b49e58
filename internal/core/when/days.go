package when

import (
	"regexp"
	"strconv"
	"time"
)

var weekdays = map[string]time.Weekday{
	"mon": 1, "monday": 1, "tue": 2, "tues": 2, "tuesday": 2, "wed": 3, "weds": 3, "wednesday": 3,
	"thu": 4, "thur": 4, "thurs": 4, "thursday": 4, "fri": 5, "friday": 5, "sat": 6, "saturday": 6, "sun": 0, "sunday": 0,
}

func weekdayOf(w string) *time.Weekday {
	if d, ok := weekdays[w]; ok {
		return &d
	}
	return nil
}

// named reads weekdays, weekends, weeks by number, and the next of something.
func (p *parser) named() (int, error) {
	c, today := p.cal, p.today()
	if day := weekdayOf(p.peek(0)); day != nil {
		return p.ofWeek(*day)
	}
	switch p.peek(0) {
	case "weekend", "weekends":
		return 1, p.setDay(c.nextWeekend(today))
	case "fortnight":
		return 1, p.setDay(today.Add(14))
	case "week":
		if number, n := p.number(1); n > 0 && number >= 1 && number <= 53 {
			return 1 + n, p.isoWeek(number)
		}
	case "next", "following":
		return p.nextOf(today)
	}
	if number, ok := isoWeekWord(p.peek(0)); ok {
		return 1, p.isoWeek(number)
	}
	return 0, nil
}

// ofWeek reads a weekday: "fri", "fri next week", "fri week", "friday the 13th".
func (p *parser) ofWeek(day time.Weekday) (int, error) {
	today := p.today()
	p.weekday = &day
	// Before a written date ("Fri 27 Nov 2026") it only names the day, which
	// is checked at the end.
	skip := 1
	for p.peek(skip) == "the" || p.peek(skip) == "on" {
		skip++
	}
	if _, n := p.writtenDate(skip); n > 0 {
		return skip, nil
	}
	if number, n := p.ordinalAt(skip); n > 0 {
		if _, n := p.writtenDate(skip); n == 0 && p.peek(skip+1) != "of" {
			d, err := p.dayNumber(number, &day)
			if err != nil {
				return 0, err
			}
			return skip + n1(p, skip), p.setDay(d)
		}
		return skip, nil
	}
	d := nextWeekday(today, day)
	if n, ok := (&cursor{p.words[1:]}).starts("this week"); ok {
		if d.After(p.cal.WeekEnd(today)) {
			return 0, refuse("That day of this week has passed. Name a time that is still to come.")
		}
		return 1 + n, p.setDay(d)
	}
	for text, from := range map[string]Date{"next week": p.cal.WeekEnd(today), "of next week": p.cal.WeekEnd(today), "in a week": d.Add(0), "week": d} {
		n, ok := (&cursor{p.words[1:]}).starts(text)
		if !ok {
			continue
		}
		if text == "week" { // "monday week" is the one after the next
			if number, used := p.number(2); used > 0 && number > 0 {
				continue
			}
			return 1 + n, p.setDay(d.Add(7))
		}
		return 1 + n, p.setDay(nextWeekday(from, day))
	}
	// A bare number that is no hour is the day of the month: "fri 27".
	if w := p.peek(1); digits.MatchString(w) && len(w) == 2 && p.peek(2) != "am" && p.peek(2) != "pm" && units[p.peek(2)] == "" {
		if number, _ := strconv.Atoi(w); number > 24 && number <= 31 {
			d, err := p.dayNumber(number, &day)
			if err != nil {
				return 0, err
			}
			return 2, p.setDay(d)
		}
	}
	return 1, p.setDay(d)
}

// n1 is how many words the ordinal at i takes.
func n1(p *parser, i int) int {
	_, n := p.ordinalAt(i)
	return n
}

func (p *parser) nextOf(today Date) (int, error) {
	c, next := p.cal, p.peek(1)
	if day := weekdayOf(next); day != nil {
		return 2, p.setDay(nextWeekday(c.WeekEnd(today), *day))
	}
	if m := months[next]; m != 0 {
		d := Date{today.Year, m, 1}
		if !today.Before(d) {
			d.Year++
		}
		return 2, p.setDay(c.firstWorkday(d))
	}
	switch next {
	case "week":
		return 2, p.setDay(c.firstWorkday(c.WeekEnd(today).Add(1)))
	case "month":
		return 2, p.setDay(c.firstWorkday(c.MonthEnd(today).Add(1)))
	case "quarter":
		return 2, p.setDay(c.firstWorkday(quarterEnd(today).Add(1)))
	case "year":
		return 2, p.setDay(c.firstWorkday(Date{today.Year + 1, time.January, 1}))
	case "weekend":
		return 2, p.setDay(c.nextWeekend(today))
	case "day":
		return 2, p.setDay(today.Add(1))
	case "workday":
		return 2, p.setDay(c.firstWorkday(today.Add(1)))
	case "working", "business":
		if p.peek(2) == "day" {
			return 3, p.setDay(c.firstWorkday(today.Add(1)))
		}
	}
	return 0, nil
}

// nextWeekday is the first such weekday after d, never d itself.
func nextWeekday(d Date, day time.Weekday) Date {
	ahead := (int(day) - int(d.Weekday()) + 7) % 7
	if ahead == 0 {
		ahead = 7
	}
	return d.Add(ahead)
}

// nextWeekend is the first day off after a working day, after d.
func (c Calendar) nextWeekend(d Date) Date {
	for i := 1; i <= 7; i++ {
		day := d.Add(i)
		if !c.Works(day) && c.Works(day.Add(-1)) {
			return day
		}
	}
	return nextWeekday(d, time.Saturday)
}

var weekWord = regexp.MustCompile(`^w(?:k|eek)?(\d{1,2})$`)

func isoWeekWord(w string) (int, bool) {
	m := weekWord.FindStringSubmatch(w)
	if m == nil {
		return 0, false
	}
	n, _ := strconv.Atoi(m[1])
	return n, n >= 1 && n <= 53
}

// isoWeek takes the first working day of a week by its number (ISO 8601).
func (p *parser) isoWeek(number int) error {
	today := p.today()
	for year := today.Year; year < today.Year+8; year++ {
		// 4 January is always in week 1.
		first := Date{year, time.January, 4}
		first = first.Add(-(int(first.Weekday()) + 6) % 7)
		monday := first.Add(7 * (number - 1))
		if _, week := monday.utc().ISOWeek(); week != number || !today.Before(monday.Add(6)) {
			continue
		}
		d := p.cal.firstWorkday(monday)
		if !d.After(today) {
			d = p.cal.firstWorkday(today.Add(1))
		}
		p.note("week " + strconv.Itoa(number) + " begins " + monday.utc().Format("2 Jan 2006"))
		return p.setDay(d)
	}
	return refuse("There is no week %d.", number)
}

// periods are what "end of …" and "start of …" know.
var periods = map[string]string{
	"day": "day", "today": "day", "tomorrow": "tomorrow", "week": "week", "month": "month", "quarter": "quarter", "year": "year",
	"next week": "next week", "next month": "next month", "next quarter": "next quarter", "next year": "next year",
}

func quarterEnd(d Date) Date {
	last := (d.Month-1)/3*3 + 3
	return Date{d.Year, last + 1, 1}.norm().Add(-1)
}

// norm brings a month over December into the next year.
func (d Date) norm() Date { return dateOf(d.utc()) }

// edge reads the start, the middle and the end of something.
func (p *parser) edge() (int, error) {
	which := map[string]string{
		"end": "end", "close": "end", "eow": "end", "eom": "end", "eoy": "end", "eoq": "end",
		"start": "start", "beginning": "start", "begin": "start", "early": "start", "mid": "middle", "middle": "middle", "late": "end",
	}[p.peek(0)]
	if which == "" {
		return 0, nil
	}
	if what := map[string]string{"eow": "week", "eom": "month", "eoy": "year", "eoq": "quarter"}[p.peek(0)]; what != "" {
		return 1, p.edgeOf(which, what)
	}
	n := 1
	for w := p.peek(n); w == "of" || w == "the" || w == "this" || w == "in"; w = p.peek(n) {
		n++
	}
	rest := cursor{p.words[n:]}
	if m := months[rest.peek(0)]; m != 0 {
		return n + 1, p.edgeOfMonth(which, m)
	}
	what, used := rest.startsAny(periods)
	if used == 0 {
		if p.peek(0) == "early" || p.peek(0) == "late" || p.peek(0) == "close" {
			return 0, nil
		}
		if len(rest.words) == 0 {
			return 0, refuse("The %s of what? Try “%s of week” or “%s of month”.", p.peek(0), p.peek(0), p.peek(0))
		}
		return 0, refuse("Ebbe knows the start, the middle and the end of the day, the week, the month, the quarter and the year.")
	}
	return n + used, p.edgeOf(which, what)
}

func (p *parser) edgeOf(which, what string) error {
	c, today := p.cal, p.today()
	switch what {
	case "day":
		if which == "end" {
			return p.setPart("end of day")
		}
		return p.setPart(map[string]string{"start": "morning", "middle": "noon"}[which])
	case "tomorrow":
		if err := p.setDay(today.Add(1)); err != nil {
			return err
		}
		return p.edgeOf(which, "day")
	}
	last := map[string]func(Date) Date{
		"week": c.WeekEnd, "month": c.MonthEnd, "quarter": quarterEnd, "year": func(d Date) Date { return Date{d.Year, time.December, 31} },
		"next week":    func(d Date) Date { return c.WeekEnd(c.WeekEnd(d).Add(1)) },
		"next month":   func(d Date) Date { return c.MonthEnd(c.MonthEnd(d).Add(1)) },
		"next quarter": func(d Date) Date { return quarterEnd(quarterEnd(d).Add(1)) },
		"next year":    func(d Date) Date { return Date{d.Year + 1, time.December, 31} },
	}[what]
	boundary := last(today)
	first := func(boundary Date) Date {
		switch what {
		case "week", "next week":
			return boundary.Add(-6)
		case "month", "next month":
			return Date{boundary.Year, boundary.Month, 1}
		case "quarter", "next quarter":
			return Date{boundary.Year, boundary.Month - 2, 1}
		}
		return Date{boundary.Year, time.January, 1}
	}
	return p.edgeBetween(which, first(boundary), boundary, func() (Date, Date) {
		next := last(boundary.Add(1))
		return first(next), next
	})
}

func (p *parser) edgeOfMonth(which string, m time.Month) error {
	d := Date{p.today().Year, m, 1}
	return p.edgeBetween(which, d, p.cal.MonthEnd(d), func() (Date, Date) {
		d.Year++
		return d, p.cal.MonthEnd(d)
	})
}

// edgeBetween takes the first or last working day of a stretch of days, or one
// in its middle; of the next such stretch if that has passed.
func (p *parser) edgeBetween(which string, from, to Date, next func() (Date, Date)) error {
	c := p.cal
	for range 2 {
		d, part := c.firstWorkday(from), "morning"
		switch which {
		case "end":
			d, part = c.lastWorkday(to), "end of day"
		case "middle":
			d = c.firstWorkday(from.Add(from.DaysUntil(to) / 2))
		}
		if c.Instant(d, c.parts()[part]).After(p.now) {
			if part == "end of day" {
				if err := p.setPart(part); err != nil {
					return err
				}
			}
			return p.setDay(d)
		}
		from, to = next()
	}
	return refuse("That has passed. Name a time that is still to come.")
}

// nth reads "first monday in december", "last friday of the month", "last day
// of next month", "1st of next month".
func (p *parser) nth() (int, error) {
	number, n := p.ordinalAt(0)
	if p.peek(0) == "last" {
		number, n = -1, 1
	}
	if n == 0 {
		return 0, nil
	}
	what := p.peek(n)
	day := weekdayOf(what)
	workday := what == "workday"
	used := n + 1
	if (what == "working" || what == "business") && p.peek(n+1) == "day" {
		workday, used = true, n+2
	}
	switch {
	case day == nil && !workday && what != "day" && what != "of":
		return 0, nil
	case what == "of":
		used = n
	}
	for w := p.peek(used); w == "of" || w == "in" || w == "the" || w == "this"; w = p.peek(used) {
		used++
	}
	today := p.today()
	start := Date{today.Year, today.Month, 1}
	again := func(d Date) Date { return addMonths(d, 1) }
	rest := cursor{p.words[min(used, len(p.words)):]}
	if m := months[rest.peek(0)]; m != 0 {
		if day == nil && !workday && what == "of" {
			return 0, nil // "3rd of december" is a written date
		}
		start.Month = m
		again = func(d Date) Date { return addMonths(d, 12) }
		used++
		if y := p.peek(used); yearWord.MatchString(y) {
			start.Year, _ = strconv.Atoi(y)
			again = nil
			used++
		}
	} else if k, ok := rest.starts("next month"); ok {
		start, again = addMonths(start, 1), nil
		used += k
	} else if k, ok := rest.starts("month"); ok {
		used += k
	} else if what == "of" {
		return 0, nil
	}
	for range 60 {
		d, ok := p.cal.nthOf(start, number, day, workday)
		if ok && p.cal.Instant(d, p.cal.DayStart).After(p.now) {
			return used, p.setDay(d)
		}
		if again == nil {
			break
		}
		start = again(start)
	}
	return 0, refuse("There is no such day to come.")
}

// nthOf is the n-th weekday, working day or day of the month that begins at
// start; the last for -1.
func (c Calendar) nthOf(start Date, n int, day *time.Weekday, workday bool) (Date, bool) {
	var found []Date
	for d := start; d.Month == start.Month; d = d.Add(1) {
		if (day == nil || d.Weekday() == *day) && (!workday || c.Works(d)) {
			found = append(found, d)
		}
	}
	if n == -1 {
		n = len(found)
	}
	if n < 1 || n > len(found) {
		return Date{}, false
	}
	return found[n-1], true
}
