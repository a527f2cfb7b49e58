package when

import (
	"regexp"
	"strconv"
)

var (
	clockWord  = regexp.MustCompile(`^(\d{1,2})[:.](\d{2})(am|pm|h)?$`)
	hourSuffix = regexp.MustCompile(`^(\d{1,2})(am|pm|a\.m|p\.m|h)$`)
	militaryAt = regexp.MustCompile(`^([01]\d|2[0-3])([0-5]\d)h?$`)
	offsetWord = regexp.MustCompile(`^[+-]\d{2}:?\d{2}$`)
	halves     = map[string]string{"am": "am", "pm": "pm", "a.m": "am", "p.m": "pm"}
)

// time reads "14:00", "2pm", "2 p.m.", "half past two", "quarter to 5", and a
// bare hour after a day ("fri 10").
func (p *parser) time() (int, error) {
	w := p.peek(0)
	half, used := halves[p.peek(1)], 1
	if half != "" {
		used = 2
	}
	if offsetWord.MatchString(w) && p.clock != nil && p.offset == nil {
		return 1, p.setOffset(w)
	}
	if w == "utc" && p.clock != nil && p.offset == nil {
		return 1, p.setOffset("z")
	}
	if m, n, ok := p.spokenClock(); ok {
		half := halves[p.peek(n)]
		if half != "" {
			n++
		}
		return n, p.take(m, half)
	}
	if m := clockWord.FindStringSubmatch(w); m != nil {
		if m[3] != "" {
			half, used = map[string]string{"h": ""}[m[3]], 1
			if m[3] != "h" {
				half = m[3]
			}
		}
		return used, p.takeText(m[1]+":"+m[2], half)
	}
	if m := hourSuffix.FindStringSubmatch(w); m != nil {
		text := m[1] + ":00"
		if m[2] == "h" && len(m[1]) == 1 {
			text = "0" + text // "5h" is the fifth hour
		}
		return 1, p.takeText(text, halves[m[2]])
	}
	if half != "" {
		if number, n := p.number(0); n == 1 {
			return 2, p.takeText(strconv.Itoa(number)+":00", half)
		}
	}
	if n, ok := (&cursor{p.words[1:]}).starts("o'clock"); ok {
		if number, used := p.number(0); used == 1 {
			return used + n, p.takeText(strconv.Itoa(number)+":00", "")
		}
	}
	if _, n := (&cursor{p.words[1:]}).startsAny(partWords); n > 0 && p.clock == nil {
		if m, ok := p.bareHour(0); ok { // "9 in the morning"
			return 1, p.setClock(m, "")
		}
	}
	if p.clock == nil && p.day != nil {
		if m := militaryAt.FindStringSubmatch(w); m != nil {
			hour, _ := strconv.Atoi(m[1])
			minute, _ := strconv.Atoi(m[2])
			return 1, p.setClock(At(hour, minute), "am")
		}
		if m, ok := p.bareHour(0); ok {
			return 1, p.setClock(m, "")
		}
	}
	return 0, nil
}

func (p *parser) takeText(text, half string) error {
	m, err := clockOf(text, half)
	if err != nil {
		return err
	}
	if m >= At(13, 0) || m < At(1, 0) || len(text) == 5 && text[0] == '0' {
		half = "am" // it is plain which half of the day is meant
	}
	return p.setClock(m, half)
}

// take takes a clock time that was spoken as one below twelve.
func (p *parser) take(m Minute, half string) error {
	switch {
	case half == "am" && m >= At(12, 0):
		m -= At(12, 0)
	case half == "pm" && m < At(12, 0), half == "" && p.part == "" && m >= At(1, 0) && m < At(7, 0):
		m += At(12, 0)
	}
	return p.setClock(m, half)
}

// spokenClock reads "half past two", "quarter to five", "ten past 4", "ten to
// six".
func (p *parser) spokenClock() (m Minute, n int, ok bool) {
	var minutes, used int
	switch {
	case p.peek(0) == "half":
		minutes, used = 30, 1
	case p.peek(0) == "quarter":
		minutes, used = 15, 1
	case p.peek(0) == "a" && p.peek(1) == "quarter":
		minutes, used = 15, 2
	default:
		if minutes, used = p.number(0); used == 0 || minutes < 1 || minutes > 59 {
			return 0, 0, false
		}
		if w := p.peek(used); w == "minutes" || w == "min" || w == "minute" {
			used++
		}
	}
	joint := p.peek(used)
	if joint != "past" && joint != "to" {
		return 0, 0, false
	}
	hour, more := p.number(used + 1)
	if more == 0 && p.peek(used+1) == "noon" {
		hour, more = 12, 1
	}
	if more == 0 || hour < 1 || hour > 24 {
		return 0, 0, false
	}
	if joint == "to" {
		minutes = -minutes
	}
	return (At(hour, minutes) + At(24, 0)) % At(24, 0), used + 1 + more, true
}

// bareHour reads "10" or "3" at word i as an hour: 1 to 6 are in the
// afternoon, "03" is at night.
func (p *parser) bareHour(i int) (Minute, bool) {
	w := p.peek(i)
	if number, n := spelt(&p.cursor, i, ones); n == 1 && number <= 12 {
		w = strconv.Itoa(number)
	}
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
	if hour > 23 || minute > 59 || half != "" && (hour > 12 || hour == 0) {
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
	return At(hour, minute), nil
}
