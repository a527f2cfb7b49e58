package find

import (
	"regexp"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

var (
	agoOf    = regexp.MustCompile(`^(a|an|one|two|three|\d{1,4}) (day|week|month|year)s? ago$`)
	lastOf   = regexp.MustCompile(`^(?:last|past) (\d{1,4}) (day|week|month|year)s?$`)
	isoDay   = regexp.MustCompile(`^(\d{4})-(\d{1,2})-(\d{1,2})$`)
	isoMonth = regexp.MustCompile(`^(\d{4})-(\d{1,2})$`)
	year     = regexp.MustCompile(`^(19|20)\d\d$`)
	// Days with their month.
	dotted     = regexp.MustCompile(`^(\d{1,2})\.(\d{1,2})\.(\d{4})?$`)
	dayFirst   = regexp.MustCompile(`^(\d{1,2})(?:st|nd|rd|th|\.)? (?:of )?([a-z]{3,9})\.?(?:,? (\d{4}))?$`)
	monthFirst = regexp.MustCompile(`^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?(?:,? (\d{4}))?$`)
	monthOf    = regexp.MustCompile(`^(?:(last) )?([a-z]{3,9})\.?(?: (\d{4}))?$`)
)

var numbers = map[string]int{"a": 1, "an": 1, "one": 1, "two": 2, "three": 3}

// Days reads the days of a phrase as it is said of what has come: “monday” is the last one, “24 nov” that
// of the last twelve months. They are [since, until). Else it is a phrase of the time box.
func Days(phrase string, now time.Time, c when.Calendar) (since, until time.Time, ok bool) {
	phrase = strings.TrimPrefix(strings.ToLower(strings.Join(strings.Fields(phrase), " ")), "the ")
	today := c.Today(now)
	start := func(d when.Date) time.Time { return c.Instant(d, 0) }
	span := func(from, to when.Date) (time.Time, time.Time, bool) { return start(from), start(to), true }
	months := func(y int, m time.Month, n int) (time.Time, time.Time, bool) {
		return span(date(y, m, 1), date(y, m+time.Month(n), 1))
	}
	week := today.Add(-(int(today.Weekday()) - int(c.WeekStart) + 7) % 7)
	switch phrase {
	case "today":
		return span(today, today.Add(1))
	case "yesterday":
		return span(today.Add(-1), today)
	case "this week":
		return span(week, week.Add(7))
	case "last week":
		return span(week.Add(-7), week)
	case "this month":
		return months(today.Year, today.Month, 1)
	case "last month":
		return months(today.Year, today.Month-1, 1)
	case "this year":
		return months(today.Year, 1, 12)
	case "last year":
		return months(today.Year-1, 1, 12)
	}
	if m := isoDay.FindStringSubmatch(phrase); m != nil {
		d := date(number(m[1]), time.Month(number(m[2])), number(m[3]))
		if d.Day != number(m[3]) || int(d.Month) != number(m[2]) {
			return since, until, false
		}
		return span(d, d.Add(1))
	}
	if m := isoMonth.FindStringSubmatch(phrase); m != nil {
		if number(m[2]) < 1 || number(m[2]) > 12 {
			return since, until, false
		}
		return months(number(m[1]), time.Month(number(m[2])), 1)
	}
	if year.MatchString(phrase) {
		return months(number(phrase), 1, 12)
	}
	if m := agoOf.FindStringSubmatch(phrase); m != nil {
		d := back(today, number(m[1]), m[2])
		return span(d, d.Add(1))
	}
	if m := lastOf.FindStringSubmatch(phrase); m != nil {
		return span(back(today, number(m[1]), m[2]), today.Add(1))
	}
	if m := monthOf.FindStringSubmatch(phrase); m != nil {
		if day, ok := weekday(m[2]); ok && m[3] == "" {
			d := today.Add(-(int(today.Weekday()) - int(day) + 7) % 7)
			if d == today && m[1] != "" {
				d = d.Add(-7)
			}
			return span(d, d.Add(1))
		}
		if month, ok := monthNamed(m[2]); ok {
			y := today.Year
			if m[3] != "" {
				y = number(m[3])
			} else if month > today.Month || month == today.Month && m[1] != "" {
				y--
			}
			return months(y, month, 1)
		}
	}
	if d, ok := written(phrase, today); ok {
		return span(d, d.Add(1))
	}
	return said(phrase, now, c)
}

// written reads a day with its month, “24 nov” or “24.11.2025”: without a year the last one.
func written(phrase string, today when.Date) (d when.Date, ok bool) {
	var day, year int
	var month time.Month
	if m := dotted.FindStringSubmatch(phrase); m != nil {
		day, month, year = number(m[1]), time.Month(number(m[2])), number(m[3])
	} else if m := dayFirst.FindStringSubmatch(phrase); m != nil {
		day, year = number(m[1]), number(m[3])
		month, _ = monthNamed(m[2])
	} else if m := monthFirst.FindStringSubmatch(phrase); m != nil {
		day, year = number(m[2]), number(m[3])
		month, _ = monthNamed(m[1])
	}
	last := year
	if year == 0 {
		year, last = today.Year, today.Year-8 // the 29th of February is not in every year
	}
	for ; year >= last; year-- {
		if d = date(year, month, day); d.Month == month && d.Day == day && (year == last || !d.After(today)) {
			return d, true
		}
	}
	return d, false
}

// said reads a phrase of the time box.
func said(phrase string, now time.Time, c when.Calendar) (since, until time.Time, ok bool) {
	r, err := when.Read(phrase, now, c)
	if err != nil || r.Precision == when.Open {
		return since, until, false
	}
	d := when.DateOf(r.UTC.In(c.Zone))
	return c.Instant(d, 0), c.Instant(d.Add(1), 0), true
}

func date(y int, m time.Month, d int) when.Date {
	return when.DateOf(time.Date(y, m, d, 0, 0, 0, 0, time.UTC))
}

// back is so many days, weeks, months or years before a day; of a month that is too short, its last.
func back(d when.Date, n int, unit string) when.Date {
	switch unit {
	case "day":
		return d.Add(-n)
	case "week":
		return d.Add(-7 * n)
	case "year":
		n *= 12
	}
	there := date(d.Year, d.Month-time.Month(n), 1)
	last := date(there.Year, there.Month+1, 1).Add(-1)
	return date(there.Year, there.Month, min(d.Day, last.Day))
}

func number(text string) int {
	if n, ok := numbers[text]; ok {
		return n
	}
	n, _ := strconv.Atoi(text)
	return n
}

func weekday(word string) (time.Weekday, bool) {
	for d := time.Sunday; d <= time.Saturday; d++ {
		if whole := strings.ToLower(d.String()); len(word) >= 3 && strings.HasPrefix(whole, word) {
			return d, true
		}
	}
	return 0, false
}

func monthNamed(word string) (time.Month, bool) {
	for m := time.January; m <= time.December; m++ {
		if whole := strings.ToLower(m.String()); len(word) >= 3 && strings.HasPrefix(whole, word) {
			return m, true
		}
	}
	return 0, false
}
