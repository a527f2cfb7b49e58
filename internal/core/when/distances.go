package when

import (
	"math"
	"regexp"
	"strconv"
	"time"
)

var (
	distanceWord = regexp.MustCompile(`^(\d{1,5})(?:[.](\d))?([a-z]+)$`)
	hoursMinutes = regexp.MustCompile(`^(\d{1,3})h(\d{1,2})(?:m|min)?$`)
	decimal      = regexp.MustCompile(`^(\d{1,4})[.](\d)$`)
	units        = map[string]string{
		"m": "minute", "min": "minute", "mins": "minute", "minute": "minute", "minutes": "minute",
		"h": "hour", "hr": "hour", "hrs": "hour", "hour": "hour", "hours": "hour",
		"d": "day", "day": "day", "days": "day", "night": "day", "nights": "day",
		"wd": "workday", "workday": "workday", "workdays": "workday",
		"w": "week", "wk": "week", "wks": "week", "week": "week", "weeks": "week", "fortnight": "fortnight", "fortnights": "fortnight",
		"mo": "month", "mth": "month", "month": "month", "months": "month", "quarter": "quarter", "quarters": "quarter", "y": "year", "yr": "year", "year": "year", "years": "year",
	}
)

// span is a length of time: in the calendar's units, or on the clock.
type span struct {
	months, days, workdays int
	clock                  time.Duration
}

// length reads a length of time at the words ahead: "3d", "two and a half
// hours", "half an hour", "1h30", "5 working days".
func (p *parser) length() (s span, n int, err error) {
	if m := hoursMinutes.FindStringSubmatch(p.peek(0)); m != nil {
		hours, _ := strconv.Atoi(m[1])
		minutes, _ := strconv.Atoi(m[2])
		s.clock = time.Duration(hours)*time.Hour + time.Duration(minutes)*time.Minute
		return s, 1, nil
	}
	count, unit, half, n := p.counted()
	if unit == "" {
		return span{}, 0, nil
	}
	if used, ok := (&cursor{p.words[n:]}).starts("and a half"); ok && !half {
		half, n = true, n+used
	}
	if count == 0 && !half {
		return span{}, 0, refuse("That is now. Name a time that is still to come.")
	}
	switch unit {
	case "minute":
		s.clock = time.Duration(count) * time.Minute
	case "hour":
		s.clock = time.Duration(count) * time.Hour
		if half {
			s.clock += 30 * time.Minute
		}
		half = false
	case "day":
		s.days = count
	case "workday":
		s.workdays = count
	case "week":
		s.days = 7 * count
	case "fortnight":
		s.days = 14 * count
	case "month":
		s.months = count
	case "quarter":
		s.months = 3 * count
	case "year":
		s.months = 12 * count
		if half {
			s.months += 6
		}
		half = false
	}
	if half {
		return span{}, 0, refuse("Half a %s is not read. Name days, hours or minutes.", unit)
	}
	return s, n, nil
}

// counted reads a count with its unit.
func (p *parser) counted() (count int, unit string, half bool, n int) {
	if m := distanceWord.FindStringSubmatch(p.peek(0)); m != nil && units[m[3]] != "" && (m[2] == "" || m[2] == "5" || m[2] == "0") {
		count, _ = strconv.Atoi(m[1])
		return count, units[m[3]], m[2] == "5", 1
	}
	if m := decimal.FindStringSubmatch(p.peek(0)); m != nil && units[p.peek(1)] != "" && (m[2] == "5" || m[2] == "0") {
		count, _ = strconv.Atoi(m[1])
		return count, units[p.peek(1)], m[2] == "5", 2
	}
	for text, minutes := range map[string]int{
		"half an hour": 30, "half hour": 30, "a half hour": 30, "half a hour": 30, "a quarter of an hour": 15, "quarter of an hour": 15, "a quarter hour": 15,
		"three quarters of an hour": 45, "a quarter of a hour": 15,
	} {
		if used, ok := p.starts(text); ok {
			return minutes, "minute", false, used
		}
	}
	count, n = p.number(0)
	if n == 0 {
		return 0, "", false, 0
	}
	if used, ok := (&cursor{p.words[n:]}).starts("and a half"); ok {
		half, n = true, n+used
	}
	switch w := p.peek(n); {
	case w == "working" || w == "business" || w == "work":
		if units[p.peek(n+1)] == "day" {
			return count, "workday", half, n + 2
		}
	case units[w] != "":
		return count, units[w], half, n + 1
	}
	return 0, "", false, 0
}

// distance reads how far away something is: "in 3 days", "two weeks from
// now", "a week on friday", "2 days after the 13th".
func (p *parser) distance() (int, error) {
	if _, _, ok := p.spokenClock(); ok || p.day != nil && hourSuffix.MatchString(p.peek(0)) {
		return 0, nil // "a quarter past two", "fri 14h"
	}
	s, n, err := p.length()
	if n == 0 || err != nil {
		return 0, err
	}
	if s.clock != 0 {
		p.elapsed += s.clock
		if p.elapsed > farthest || p.elapsed < 0 {
			return 0, refuse("That is more than a hundred years away. Use “someday”.")
		}
		for _, joint := range []string{"and", "from now", "from today"} {
			if used, ok := (&cursor{p.words[n:]}).starts(joint); ok {
				n += used
				break
			}
		}
		return n, nil
	}
	from := p.today()
	base := cursor{p.words[n:]}
	switch w := base.peek(0); {
	case w == "from" && (base.peek(1) == "now" || base.peek(1) == "today"):
		n += 2
	case w == "from" || w == "after" || w == "on" || w == "past" || w == "later" && base.peek(1) == "than", weekdayOf(w) != nil, w == "tomorrow":
		skip := 0
		if w == "from" || w == "after" || w == "on" || w == "past" {
			skip = 1
		}
		if w == "later" {
			skip = 2
		}
		inner := &parser{cursor: cursor{base.words[skip:]}, cal: p.cal, now: p.now}
		used, err := inner.oneDay()
		if err != nil {
			return 0, err
		}
		if used > 0 {
			from, n = *inner.day, n+skip+used
			p.notes = append(p.notes, inner.notes...)
		}
	}
	if s.days > math.MaxInt32 || s.months > 12*1000 || s.days > 366*1000 || s.workdays > 366*100 {
		return 0, refuse("That is more than a hundred years away. Use “someday”.")
	}
	d := addMonths(from, s.months).Add(s.days)
	for range s.workdays {
		d = p.cal.firstWorkday(d.Add(1))
	}
	return n, p.setDay(d)
}

// oneDay reads a single day at the words ahead, without a time.
func (p *parser) oneDay() (int, error) {
	before := len(p.words)
	for len(p.words) > 0 && p.day == nil {
		took := 0
		for _, step := range []func() (int, error){p.article, p.fixed, p.edge, p.nth, p.named, p.date} {
			n, err := step()
			if err != nil {
				return 0, err
			}
			if n > 0 {
				took = n
				break
			}
		}
		if took == 0 {
			break
		}
		p.words = p.words[took:]
	}
	if p.day == nil {
		return 0, nil
	}
	return before - len(p.words), nil
}

func (p *parser) article() (int, error) {
	if p.peek(0) == "the" {
		return 1, nil
	}
	return 0, nil
}

// addMonths keeps the day of the month, or takes the month's last day where
// the month is shorter.
func addMonths(d Date, n int) Date {
	first := dateOf(time.Date(d.Year, d.Month+time.Month(n), 1, 0, 0, 0, 0, time.UTC))
	last := dateOf(time.Date(first.Year, first.Month+1, 0, 0, 0, 0, 0, time.UTC))
	return Date{first.Year, first.Month, min(d.Day, last.Day)}
}
