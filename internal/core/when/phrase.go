package when

import (
	"slices"
	"strings"
	"time"
)

// Read understands a phrase such as "fri 2pm", "3d", "tomorrow morning",
// "end of month" or "2026-11-27T14:00". The error, if any, is an *Error whose
// text is meant for the person.
func Read(phrase string, now time.Time, c Calendar) (Reading, error) {
	words, exact := c.unname(split(phrase), now)
	r, err := readWords(words, now, c)
	if err != nil {
		return Reading{}, err
	}
	if exact && r.Precision == ToMinute {
		r = r.around(c)
	}
	r.Phrase = strings.TrimSpace(phrase)
	return r, nil
}

func readWords(words []string, now time.Time, c Calendar) (Reading, error) {
	if len(words) == 0 {
		return Reading{}, refuse("Type a time, such as “fri 2pm”, “3d” or “end of month”.")
	}
	p := &parser{cursor: cursor{words}, cal: c, now: now.In(c.Zone)}
	r, err := p.read()
	r.Notes = p.notes
	return r, err
}

// unname puts the phrase of a named time in the place of its name. exact tells
// that it names a minute, which as a named time it does not mean.
func (c Calendar) unname(words []string, now time.Time) (out []string, exact bool) {
	names := make([]string, len(c.Named))
	for i, n := range c.Named {
		names[i] = strings.Join(split(n.Name), " ")
	}
	for i := range words {
		rest := cursor{words[i:]}
		for named, n := range c.Named {
			used, ok := rest.starts(names[named])
			if !ok || used == 0 {
				continue
			}
			meant := split(n.Phrase)
			r, err := readWords(meant, now, c)
			return slices.Concat(words[:i], meant, words[i+used:]), err == nil && r.Precision == ToMinute
		}
	}
	return words, false
}

// parser collects what the words say: at most one day, and at most one time
// or part of the day.
type parser struct {
	cursor
	cal   Calendar
	now   time.Time
	notes []string

	day       *Date
	dayIsDate bool // a written date rather than a weekday or a distance
	hadYear   bool
	weekday   *time.Weekday // a weekday that was named
	clock     *Minute
	half      string // am or pm, where the clock was written with one
	part      string
	round     bool // "around 2pm" means a part of the day, not its minute
	offset    *time.Location
	elapsed   time.Duration
	someday   bool
}

func (p *parser) note(text string) { p.notes = append(p.notes, text) }

func (p *parser) today() Date { return p.cal.Today(p.now) }

func (p *parser) read() (Reading, error) {
	steps := []func() (int, error){p.filler, p.fixed, p.distance, p.edge, p.nth, p.named, p.date, p.time}
	for len(p.words) > 0 {
		before := len(p.words)
		for _, step := range steps {
			n, err := step()
			if err != nil {
				return Reading{}, err
			}
			if n > 0 {
				p.words = p.words[n:]
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

// setClock takes a time of day. Beside a part of the day it says when in it:
// "tonight at 9" is 21:00.
func (p *parser) setClock(m Minute, half string) error {
	if p.clock != nil {
		return refuse("Two times of day are named. Name one.")
	}
	if p.part != "" {
		fitted, ok := fit(m, half, p.part)
		if !ok {
			return refuse("%s is not in the %s.", m, p.part)
		}
		m, p.part = fitted, ""
	}
	p.clock, p.half = &m, half
	return nil
}

func (p *parser) setPart(name string) error {
	if p.part != "" {
		return refuse("Two times of day are named. Name one.")
	}
	if p.clock != nil {
		fitted, ok := fit(*p.clock, p.half, name)
		if !ok {
			return refuse("%s is not in the %s.", *p.clock, name)
		}
		p.clock = &fitted
		return nil
	}
	p.part = name
	return nil
}

// within bounds the parts in which a clock time can lie.
var within = map[string][2]Minute{
	"morning": {At(4, 0), At(12, 0)}, "afternoon": {At(12, 0), At(18, 30)}, "evening": {At(16, 0), At(24, 0)}, "night": {At(18, 0), At(24, 0)},
}

// fit moves a time of day by half a day, where it was written with neither am
// nor pm, so that it lies in a part of the day.
func fit(m Minute, half, part string) (Minute, bool) {
	bounds, ok := within[part]
	if !ok {
		return m, false
	}
	for _, at := range []Minute{m, m + At(12, 0), m - At(12, 0)} {
		if at >= bounds[0] && at < bounds[1] && (at == m || half == "") {
			return at, true
		}
	}
	return m, false
}

var fillers = map[string]bool{
	"at": true, "on": true, "by": true, "until": true, "till": true, "the": true, "this": true, "in": true, "of": true, "from": true, "now": true, "coming": true,
	"o'clock": true, "before": true,
}

// filler passes over words that say nothing by themselves.
func (p *parser) filler() (int, error) {
	switch w := p.peek(0); {
	case w == "around" || w == "about" || w == "circa" || w == "ca":
		p.round = true
		return 1, nil
	case w == "at" || w == "by":
		after := &parser{cursor: cursor{p.words[1:]}}
		if _, _, spoken := after.spokenClock(); spoken {
			return 1, nil
		}
		if m, ok := p.bareHour(1); ok && p.peek(2) != "am" && p.peek(2) != "pm" && units[p.peek(2)] == "" && months[p.peek(2)] == 0 {
			return 2, p.setClock(m, "")
		}
		return 1, nil
	case !fillers[w] || len(p.words) == 1 && !p.said():
		return 0, nil
	}
	return 1, nil
}

// said tells whether anything that names a time has been read.
func (p *parser) said() bool {
	return p.day != nil || p.clock != nil || p.part != "" || p.elapsed != 0
}

// parts are the times of day that have a name. They follow the person's
// working day where they can.
func (c Calendar) parts() map[string]Minute {
	evening := c.Evening
	if evening == 0 {
		evening = max(At(18, 0), c.DayEnd)
	}
	return map[string]Minute{
		"morning": c.DayStart, "noon": At(12, 0), "afternoon": At(14, 0), "end of day": c.DayEnd, "evening": evening, "night": max(At(21, 0), evening),
	}
}

var partWords = map[string]string{
	"morning": "morning", "mornings": "morning", "first thing": "morning", "first thing in the morning": "morning", "in the morning": "morning",
	"noon": "noon", "midday": "noon", "lunch": "noon", "lunchtime": "noon", "lunch time": "noon",
	"afternoon": "afternoon", "in the afternoon": "afternoon", "after lunch": "afternoon",
	"evening": "evening", "in the evening": "evening", "after work": "evening", "night": "night", "at night": "night",
	"eod": "end of day", "cob": "end of day", "close of business": "end of day", "close of day": "end of day",
}

// fixed reads the named days and parts.
func (p *parser) fixed() (int, error) {
	if name, n := p.startsAny(partWords); n > 0 {
		return n, p.setPart(name)
	}
	switch p.peek(0) {
	case "someday", "sometime", "eventually":
		p.someday = true
		return 1, nil
	case "some":
		if n, ok := p.starts("some day"); ok {
			p.someday = true
			return n, nil
		}
	case "one":
		if n, ok := p.starts("one day"); ok && len(p.words) == n && !p.said() {
			return n, p.setDay(p.today().Add(1))
		}
	case "today":
		return 1, p.setDay(p.today())
	case "tonight":
		if err := p.setDay(p.today()); err != nil {
			return 0, err
		}
		return 1, p.setPart("evening")
	case "tomorrow", "tmrw", "tmr", "tomo":
		return 1, p.setDay(p.today().Add(1))
	case "overmorrow":
		return 1, p.setDay(p.today().Add(2))
	case "later":
		if n, ok := p.starts("later today"); ok {
			p.elapsed = 3 * time.Hour
			return n, nil
		}
	case "day":
		if n, ok := p.starts("day after tomorrow"); ok {
			return n, p.setDay(p.today().Add(2))
		}
	case "midnight", "24:00", "2400":
		// The one that ends the day: nobody means the night before.
		if p.day == nil {
			if err := p.setDay(dateOf(p.now).Add(1)); err != nil {
				return 0, err
			}
		} else {
			d := p.day.Add(1)
			p.day = &d
		}
		p.note("midnight at the day's end")
		return 1, p.setClock(0, "am")
	}
	return 0, nil
}
