package when

import (
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Read understands a phrase such as "fri 2pm", "3d", "tomorrow morning",
// "end of month" or "2026-11-27T14:00". The error, if any, is an *Error whose
// text is meant for the person.
func Read(phrase string, now time.Time, c Calendar) (Reading, error) {
	p := &parser{cal: c, now: now.In(c.Zone), words: split(phrase)}
	if len(p.words) == 0 {
		return Reading{}, refuse("Type a time, such as “fri 2pm”, “3d” or “end of month”.")
	}
	r, err := p.read()
	if err != nil {
		return Reading{}, err
	}
	r.Phrase = strings.TrimSpace(phrase)
	r.Notes = p.notes
	return r, nil
}

// parser collects what the words say: at most one day, and at most one time
// or part of the day.
type parser struct {
	cal   Calendar
	now   time.Time
	words []string
	notes []string

	day       *Date
	dayIsDate bool // a written date rather than a weekday or a distance
	hadYear   bool
	dayIsSlot bool // the day carries its own time ("end of week")
	clock     *Minute
	part      string
	offset    *time.Location
	elapsed   time.Duration
	someday   bool
}

var splitter = regexp.MustCompile(`[\s,;]+`)

func split(phrase string) []string {
	phrase = strings.ToLower(strings.Map(func(r rune) rune {
		if r == '–' || r == '−' {
			return '-'
		}
		return r
	}, phrase))
	var words []string
	for _, w := range splitter.Split(phrase, -1) {
		if w = strings.Trim(w, ".?!“”\"'"); w != "" {
			words = append(words, w)
		}
	}
	return words
}

func (p *parser) note(text string) { p.notes = append(p.notes, text) }

// peek returns the i-th word ahead, or "".
func (p *parser) peek(i int) string {
	if i < len(p.words) {
		return p.words[i]
	}
	return ""
}

func (p *parser) take(n int) { p.words = p.words[n:] }

func (p *parser) read() (Reading, error) {
	for len(p.words) > 0 {
		before := len(p.words)
		for _, step := range []func() (int, error){p.filler, p.fixed, p.distance, p.named, p.date, p.time} {
			n, err := step()
			if err != nil {
				return Reading{}, err
			}
			if n > 0 {
				p.take(n)
				break
			}
		}
		if len(p.words) == before {
			return Reading{}, refuse("“%s” is not a time that Ebbe reads. Try “fri 2pm”, “3d” or “end of month”.", p.words[0])
		}
	}
	return p.resolve()
}

func (p *parser) setDay(d Date) error {
	if p.day != nil {
		return refuse("Two days are named. Name one.")
	}
	p.day = &d
	return nil
}

func (p *parser) setClock(m Minute) error {
	if p.clock != nil || p.part != "" {
		return refuse("Two times of day are named. Name one.")
	}
	p.clock = &m
	return nil
}

func (p *parser) setPart(name string) error {
	if p.clock != nil || p.part != "" {
		return refuse("Two times of day are named. Name one.")
	}
	p.part = name
	return nil
}

var fillers = map[string]bool{"at": true, "on": true, "by": true, "until": true, "till": true, "the": true, "this": true, "in": true, "of": true, "from": true, "now": true}

func (p *parser) filler() (int, error) {
	w := p.peek(0)
	if w == "at" {
		if hour, ok := bareHour(p.peek(1)); ok && p.peek(2) != "am" && p.peek(2) != "pm" {
			return 2, p.setClock(hour)
		}
	}
	if !fillers[w] || len(p.words) == 1 && p.day == nil && p.clock == nil && p.part == "" && p.elapsed == 0 {
		return 0, nil
	}
	return 1, nil
}

// parts are the times of day that have a name. They follow the person's
// working day where they can.
func (c Calendar) parts() map[string]Minute {
	return map[string]Minute{
		"morning": c.DayStart, "noon": At(12, 0), "afternoon": At(14, 0),
		"end of day": c.DayEnd, "evening": max(At(18, 0), c.DayEnd), "night": At(21, 0),
	}
}

var partWords = map[string]string{
	"morning": "morning", "noon": "noon", "midday": "noon", "lunch": "noon", "lunchtime": "noon",
	"afternoon": "afternoon", "evening": "evening", "night": "night", "eod": "end of day",
}

// fixed reads the named days and parts.
func (p *parser) fixed() (int, error) {
	today := p.cal.Today(p.now)
	switch w := p.peek(0); w {
	case "someday", "sometime":
		p.someday = true
		return 1, nil
	case "today":
		return 1, p.setDay(today)
	case "tonight":
		if err := p.setDay(today); err != nil {
			return 0, err
		}
		return 1, p.setPart("evening")
	case "tomorrow", "tmrw", "tmr":
		return 1, p.setDay(today.Add(1))
	case "later":
		if p.peek(1) == "today" {
			p.elapsed = 3 * time.Hour
			return 2, nil
		}
	case "day":
		if p.peek(1) == "after" && p.peek(2) == "tomorrow" {
			return 3, p.setDay(today.Add(2))
		}
	default:
		if name, ok := partWords[w]; ok {
			return 1, p.setPart(name)
		}
	}
	return 0, nil
}

var (
	distanceWord = regexp.MustCompile(`^(\d{1,5})([a-z]+)$`)
	digits       = regexp.MustCompile(`^\d{1,5}$`)
	numberWords  = map[string]int{"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12}
	units        = map[string]string{
		"m": "minute", "min": "minute", "mins": "minute", "minute": "minute", "minutes": "minute",
		"h": "hour", "hr": "hour", "hrs": "hour", "hour": "hour", "hours": "hour",
		"d": "day", "day": "day", "days": "day", "w": "week", "wk": "week", "week": "week", "weeks": "week",
		"mo": "month", "month": "month", "months": "month", "y": "year", "year": "year", "years": "year",
	}
)

// distance reads "3d", "in 2 weeks", "three hours".
func (p *parser) distance() (int, error) {
	count, unit, used := 0, "", 0
	if m := distanceWord.FindStringSubmatch(p.peek(0)); m != nil {
		count, _ = strconv.Atoi(m[1])
		unit, used = units[m[2]], 1
	} else if n, ok := number(p.peek(0)); ok {
		count, unit, used = n, units[p.peek(1)], 2
	}
	if unit == "" {
		return 0, nil
	}
	if count == 0 {
		return 0, refuse("That is now. Name a time that is still to come.")
	}
	today := p.cal.Today(p.now)
	switch unit {
	case "minute":
		p.elapsed += time.Duration(count) * time.Minute
	case "hour":
		p.elapsed += time.Duration(count) * time.Hour
	case "day":
		return used, p.setDay(today.Add(count))
	case "week":
		return used, p.setDay(today.Add(7 * count))
	case "month":
		return used, p.setDay(addMonths(today, count))
	case "year":
		return used, p.setDay(addMonths(today, 12*count))
	}
	return used, nil
}

func number(w string) (int, bool) {
	if digits.MatchString(w) {
		n, err := strconv.Atoi(w)
		return n, err == nil
	}
	n, ok := numberWords[w]
	return n, ok
}

// addMonths keeps the day of the month, or takes the month's last day where
// the month is shorter.
func addMonths(d Date, n int) Date {
	first := dateOf(time.Date(d.Year, d.Month+time.Month(n), 1, 0, 0, 0, 0, time.UTC))
	last := dateOf(time.Date(first.Year, first.Month+1, 0, 0, 0, 0, 0, time.UTC))
	return Date{first.Year, first.Month, min(d.Day, last.Day)}
}

var weekdays = map[string]time.Weekday{
	"mon": 1, "monday": 1, "tue": 2, "tues": 2, "tuesday": 2, "wed": 3, "weds": 3, "wednesday": 3,
	"thu": 4, "thur": 4, "thurs": 4, "thursday": 4, "fri": 5, "friday": 5, "sat": 6, "saturday": 6, "sun": 0, "sunday": 0,
}

// named reads weekdays, weekends, and the next and the end of something.
func (p *parser) named() (int, error) {
	c, today := p.cal, p.cal.Today(p.now)
	if day, ok := weekdays[p.peek(0)]; ok {
		// A weekday before a written date ("Fri 27 Nov 2026") only names it.
		if _, n := p.writtenDate(1); n > 0 {
			return 1, nil
		}
		return 1, p.setDay(nextWeekday(today, day))
	}
	switch p.peek(0) {
	case "weekend":
		return 1, p.setDay(c.nextWeekend(today))
	case "next":
		next := p.peek(1)
		if day, ok := weekdays[next]; ok {
			d := c.WeekEnd(today)
			return 2, p.setDay(nextWeekday(d, day))
		}
		switch next {
		case "week":
			return 2, p.setDay(c.firstWorkday(c.WeekEnd(today).Add(1)))
		case "month":
			return 2, p.setDay(c.firstWorkday(c.MonthEnd(today).Add(1)))
		case "year":
			return 2, p.setDay(c.firstWorkday(Date{today.Year + 1, time.January, 1}))
		case "weekend":
			return 2, p.setDay(c.nextWeekend(today))
		}
	case "end", "eow", "eom":
		return p.endOf(today)
	}
	return 0, nil
}

func (p *parser) endOf(today Date) (int, error) {
	what, used := map[string]string{"eow": "week", "eom": "month"}[p.peek(0)], 1
	if what == "" {
		rest := p.words[1:]
		for len(rest) > 0 && (rest[0] == "of" || rest[0] == "the" || rest[0] == "this") {
			rest = rest[1:]
			used++
		}
		if len(rest) == 0 {
			return 0, refuse("The end of what? Try “end of week” or “end of month”.")
		}
		what = rest[0]
		used++
	}
	c := p.cal
	if what == "day" || what == "today" {
		return used, p.setPart("end of day")
	}
	next := map[string]func(Date) Date{
		"week":  c.WeekEnd,
		"month": c.MonthEnd,
		"year":  func(d Date) Date { return Date{d.Year, time.December, 31} },
	}[what]
	if next == nil {
		return 0, refuse("Ebbe knows the end of the day, the week, the month and the year.")
	}
	boundary := next(today)
	d := c.lastWorkday(boundary)
	if !c.Instant(d, c.DayEnd).After(p.now) {
		d = c.lastWorkday(next(boundary.Add(1)))
	}
	p.dayIsSlot = true
	if err := p.setPart("end of day"); err != nil {
		return 0, err
	}
	return used, p.setDay(d)
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
		if !c.works(day) && c.works(day.Add(-1)) {
			return day
		}
	}
	return nextWeekday(d, time.Saturday)
}

var (
	isoDate  = regexp.MustCompile(`^(\d{4})-(\d{2})-(\d{2})(?:t(\d{1,2}:\d{2})(?::\d{2})?(z|[+-]\d{2}:?\d{2})?)?$`)
	ordinal  = regexp.MustCompile(`^(\d{1,2})(st|nd|rd|th)?$`)
	yearWord = regexp.MustCompile(`^\d{4}$`)
	months   = map[string]time.Month{
		"jan": 1, "january": 1, "feb": 2, "february": 2, "mar": 3, "march": 3, "apr": 4, "april": 4, "may": 5, "jun": 6, "june": 6,
		"jul": 7, "july": 7, "aug": 8, "august": 8, "sep": 9, "sept": 9, "september": 9, "oct": 10, "october": 10, "nov": 11, "november": 11, "dec": 12, "december": 12,
	}
)

// writtenDate recognises "27 nov 2026", "nov 27" or "2026-11-27" at word i.
// A Year of 0 means that none was given. n is the number of words used.
func (p *parser) writtenDate(i int) (d Date, n int) {
	if m := isoDate.FindStringSubmatch(p.peek(i)); m != nil {
		year, _ := strconv.Atoi(m[1])
		month, _ := strconv.Atoi(m[2])
		day, _ := strconv.Atoi(m[3])
		return Date{year, time.Month(month), day}, 1
	}
	day, month := p.peek(i), p.peek(i+1)
	if _, ok := months[day]; ok {
		day, month = month, day
	} else if month == "of" {
		month = p.peek(i + 2)
		n = 1
	}
	m, ok := months[month]
	o := ordinal.FindStringSubmatch(day)
	if !ok || o == nil {
		return Date{}, 0
	}
	n += 2
	d.Day, _ = strconv.Atoi(o[1])
	d.Month = m
	if y := p.peek(i + n); yearWord.MatchString(y) {
		d.Year, _ = strconv.Atoi(y)
		n++
	}
	return d, n
}

func (p *parser) date() (int, error) {
	today := p.cal.Today(p.now)
	if d, n := p.writtenDate(0); n > 0 {
		if m := isoDate.FindStringSubmatch(p.peek(0)); m != nil && m[4] != "" {
			if err := p.isoTime(m[4], m[5]); err != nil {
				return 0, err
			}
		}
		p.dayIsDate, p.hadYear = true, d.Year != 0
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
		return n, p.setDay(d)
	}
	// "the 13th": the next month that has one.
	if m := ordinal.FindStringSubmatch(p.peek(0)); m != nil && m[2] != "" {
		day, _ := strconv.Atoi(m[1])
		if day < 1 || day > 31 {
			return 0, refuse("There is no such day.")
		}
		d := Date{today.Year, today.Month, day}
		for d.Before(today) || !d.exists() {
			d.Month++
			if d.Month > time.December {
				d.Month, d.Year = time.January, d.Year+1
			}
		}
		return 1, p.setDay(d)
	}
	return 0, nil
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
	return p.setClock(m)
}

func (p *parser) setOffset(zone string) error {
	if zone == "z" {
		p.offset = time.UTC
		return nil
	}
	zone = strings.ReplaceAll(zone, ":", "")
	t, err := time.Parse("-0700", zone)
	if err != nil {
		return refuse("“%s” is not an offset from UTC.", zone)
	}
	p.offset = t.Location()
	return nil
}

var (
	clockWord  = regexp.MustCompile(`^(\d{1,2}):(\d{2})(am|pm)?$`)
	hourSuffix = regexp.MustCompile(`^(\d{1,2})(am|pm)$`)
	offsetWord = regexp.MustCompile(`^[+-]\d{2}:?\d{2}$`)
)

// time reads "14:00", "2pm", "2 pm", and a bare hour after a day ("fri 10").
func (p *parser) time() (int, error) {
	w, next := p.peek(0), p.peek(1)
	half := ""
	if next == "am" || next == "pm" {
		half = next
	}
	used := 1
	if half != "" {
		used = 2
	}
	switch {
	case offsetWord.MatchString(w) && p.clock != nil && p.offset == nil:
		return 1, p.setOffset(w)
	case clockWord.MatchString(w):
		m := clockWord.FindStringSubmatch(w)
		if m[3] != "" {
			half, used = m[3], 1
		}
		clock, err := clockOf(m[1]+":"+m[2], half)
		if err != nil {
			return 0, err
		}
		return used, p.setClock(clock)
	case hourSuffix.MatchString(w):
		m := hourSuffix.FindStringSubmatch(w)
		clock, err := clockOf(m[1]+":00", m[2])
		if err != nil {
			return 0, err
		}
		return 1, p.setClock(clock)
	case half != "" && digits.MatchString(w):
		clock, err := clockOf(w+":00", half)
		if err != nil {
			return 0, err
		}
		return 2, p.setClock(clock)
	case p.day != nil && p.clock == nil && p.part == "":
		if hour, ok := bareHour(w); ok {
			return 1, p.setClock(hour)
		}
	}
	return 0, nil
}

// bareHour reads "10" or "3" as an hour: 1 to 6 are in the afternoon, "03" is
// at night.
func bareHour(w string) (Minute, bool) {
	if !digits.MatchString(w) || len(w) > 2 {
		return 0, false
	}
	m, err := clockOf(w+":00", "")
	return m, err == nil
}

// clockOf reads h:mm with am, pm or neither. Without either, 1 to 6 written
// with one digit is afternoon.
func clockOf(text, half string) (Minute, error) {
	m := clockWord.FindStringSubmatch(text)
	if m == nil {
		return 0, refuse("“%s” is not a time of day.", text)
	}
	hour, _ := strconv.Atoi(m[1])
	minute, _ := strconv.Atoi(m[2])
	if hour > 24 || minute > 59 || hour == 24 && minute > 0 || half != "" && (hour > 12 || hour == 0) {
		return 0, refuse("There is no %s%s.", text, half)
	}
	switch {
	case half == "am" && hour == 12:
		hour = 0
	case half == "pm" && hour < 12:
		hour += 12
	case half == "" && len(m[1]) == 1 && hour >= 1 && hour <= 6:
		hour += 12
	}
	return At(hour%24, minute), nil
}
