package when

import (
	"regexp"
	"strconv"
	"time"
)

var (
	isoDate     = regexp.MustCompile(`^(\d{4})-(\d{1,2})-(\d{1,2})(?:t(\d{1,2}:\d{2})(?::\d{2})?(z|[+-]\d{2}:?\d{2})?)?$`)
	dottedDate  = regexp.MustCompile(`^(\d{1,2})\.(\d{1,2})\.(\d{4}|\d{2})?$`)
	slashedDate = regexp.MustCompile(`^(\d{1,2})[/-](\d{1,2})(?:[/-](\d{4}|\d{2}))?$`)
	dayWord     = regexp.MustCompile(`^(\d{1,2})(st|nd|rd|th)?\.?$`)
	yearWord    = regexp.MustCompile(`^\d{4}$`)
	months      = map[string]time.Month{
		"jan": 1, "january": 1, "feb": 2, "february": 2, "mar": 3, "march": 3, "apr": 4, "april": 4, "may": 5, "jun": 6, "june": 6,
		"jul": 7, "july": 7, "aug": 8, "august": 8, "sep": 9, "sept": 9, "september": 9, "oct": 10, "october": 10, "nov": 11, "november": 11, "dec": 12, "december": 12,
	}
)

// writtenDate recognises "27 nov 2026", "nov 27", "third of december",
// "2026-11-27", "27.11." and "27/11" at word i. A Year of 0 means that none
// was given. n is the number of words used.
func (p *parser) writtenDate(i int) (d Date, n int) {
	w := p.peek(i)
	if m := isoDate.FindStringSubmatch(w); m != nil {
		return numbers(m[1], m[2], m[3]), 1
	}
	if m := dottedDate.FindStringSubmatch(w); m != nil {
		return numbers(m[3], m[2], m[1]), 1
	}
	if m := slashedDate.FindStringSubmatch(w); m != nil {
		if p.cal.MonthFirst {
			return numbers(m[3], m[1], m[2]), 1
		}
		return numbers(m[3], m[2], m[1]), 1
	}
	if m := months[w]; m != 0 {
		day, used := p.dayAt(p.pastThe(i + 1))
		if used == 0 {
			return Date{}, 0
		}
		return p.withYear(Date{Month: m, Day: day}, i, p.pastThe(i+1)+used)
	}
	day, used := p.dayAt(i)
	if used == 0 {
		return Date{}, 0
	}
	m := months[p.peek(p.past(i+used, "of"))]
	if m == 0 {
		return Date{}, 0
	}
	return p.withYear(Date{Month: m, Day: day}, i, p.past(i+used, "of")+1)
}

func (p *parser) pastThe(i int) int { return p.past(i, "the") }

// dayAt reads a day of the month at word i: "3", "3rd", "third".
func (p *parser) dayAt(i int) (day, n int) {
	if m := dayWord.FindStringSubmatch(p.peek(i)); m != nil {
		day, _ = strconv.Atoi(m[1])
		return day, 1
	}
	return p.ordinalAt(i)
}

// withYear takes the year at word next, if one stands there.
func (p *parser) withYear(d Date, i, next int) (Date, int) {
	if y := p.peek(next); yearWord.MatchString(y) && p.peek(next+1) != "am" && p.peek(next+1) != "pm" {
		if year, _ := strconv.Atoi(y); year >= 1900 {
			d.Year = year
			next++
		}
	}
	return d, next - i
}

func numbers(year, month, day string) Date {
	var d Date
	d.Year, _ = strconv.Atoi(year)
	if len(year) == 2 {
		d.Year += 2000
	}
	m, _ := strconv.Atoi(month)
	d.Month = time.Month(m)
	d.Day, _ = strconv.Atoi(day)
	return d
}

func (p *parser) date() (int, error) {
	today := p.today()
	if d, n := p.writtenDate(0); n > 0 {
		if m := isoDate.FindStringSubmatch(p.peek(0)); m != nil && m[4] != "" {
			if err := p.isoTime(m[4], m[5]); err != nil {
				return 0, err
			}
		}
		p.dayIsDate, p.hadYear = true, d.Year != 0
		if d.Month < 1 || d.Month > 12 {
			return 0, refuse("There is no month %d.", d.Month)
		}
		if !p.hadYear {
			d.Year = today.Year
			// 29 February waits for the next leap year.
			for d.Before(today) || !d.exists() {
				if d.Year > today.Year+8 {
					return 0, refuse("There is no %d %s.", d.Day, d.Month)
				}
				d.Year++
			}
			if d.Year != today.Year {
				p.note("no year given: " + strconv.Itoa(d.Year))
			}
		}
		if !d.exists() || d.Year < 1970 || d.Year > 9000 {
			return 0, refuse("There is no such day.")
		}
		if p.weekday != nil && d.Weekday() != *p.weekday {
			p.note(d.utc().Format("2 January 2006 is a Monday"))
		}
		return n, p.setDay(d)
	}
	// "the 13th": the next month that has one.
	if number, n := p.ordinalAt(0); n > 0 && p.day == nil {
		d, err := p.dayNumber(number, nil)
		if err != nil {
			return 0, err
		}
		return n, p.setDay(d)
	}
	return 0, nil
}

// dayNumber is the next day of the month with this number, and, where one was
// named, on this weekday.
func (p *parser) dayNumber(number int, weekday *time.Weekday) (Date, error) {
	if number < 1 || number > 31 {
		return Date{}, refuse("There is no such day.")
	}
	today := p.today()
	d := Date{today.Year, today.Month, number}
	for range 12 * 30 {
		if !d.Before(today) && d.exists() && (weekday == nil || d.Weekday() == *weekday) {
			return d, nil
		}
		d.Month++
		if d.Month > time.December {
			d.Month, d.Year = time.January, d.Year+1
		}
	}
	return Date{}, refuse("There is no such day.")
}

func (p *parser) isoTime(clock, zone string) error {
	m, err := clockOf(clock, "")
	if err != nil {
		return err
	}
	if zone != "" {
		if err := p.setOffset(zone); err != nil {
			return err
		}
	}
	return p.setClock(m, "am")
}

func (p *parser) setOffset(zone string) error {
	if zone == "z" {
		p.offset = time.UTC
		return nil
	}
	t, err := time.Parse("-0700", zone[:3]+zone[len(zone)-2:])
	if err != nil {
		return refuse("“%s” is not an offset from UTC.", zone)
	}
	p.offset = t.Location()
	return nil
}
