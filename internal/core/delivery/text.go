package delivery

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// ReadPlan reads a plan from text, and leaves the plan's own parts to the
// person's eye: lines such as
//
//	mon-thu 8:30, 13:00, 16:30; closed 9-11:30
//	sat, sun quiet
//	2026-12-24 "Christmas Eve" quiet
//	reading: fri 15:00
//
// Days come first, then rounds, then "closed" and "quiet" with their times; a
// quiet or closed time without any is the whole day, and one that ends before
// it begins goes on into the next day.
func ReadPlan(text string) (Plan, error) {
	p := Plan{Exceptions: []Exception{}}
	for i := range p.Days {
		p.Days[i] = DayPlan{Rounds: []when.Minute{}, Quiet: []Span{}, Closed: []Span{}}
	}
	var over []overnight
	for _, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if err := p.readLine(line, &over); err != nil {
			return Plan{}, fmt.Errorf("“%s”: %w", line, err)
		}
	}
	for _, o := range over {
		list := o.list(&p.Days[o.day])
		*list = join(*list, Span{0, o.to})
	}
	return p.Tidy(), nil
}

// overnight is the morning's part of a stretch that began the evening before.
type overnight struct {
	list func(*DayPlan) *[]Span
	day  time.Weekday
	to   when.Minute
}

// join adds a span that becomes one with those it meets: what goes on from the
// evening before is no overlap.
func join(list []Span, s Span) []Span {
	var out []Span
	for _, o := range list {
		if o.To < s.From || o.From > s.To {
			out = append(out, o)
			continue
		}
		s = Span{min(s.From, o.From), max(s.To, o.To)}
	}
	return append(out, s)
}

func (p *Plan) readLine(line string, over *[]overnight) error {
	if k, rest, ok := kindHead(line); ok {
		rounds, err := ReadKindRounds(k, rest)
		if err == nil && len(rounds) == 0 {
			err = errors.New("say when it comes up, as in fri 15:00")
		}
		p.Kinds = append(p.Kinds, rounds...)
		return err
	}
	if date, rest, ok := exceptionHead(line); ok {
		e := Exception{Date: date.String(), DayPlan: DayPlan{Rounds: []when.Minute{}, Quiet: []Span{}, Closed: []Span{}}}
		what := rest
		if quoted, after, ok := strings.Cut(strings.TrimPrefix(rest, "“"), "”"); ok && strings.HasPrefix(rest, "“") {
			e.Name, what = strings.TrimSpace(quoted), after
		} else if quoted, after, ok := strings.Cut(strings.TrimPrefix(rest, `"`), `"`); ok && strings.HasPrefix(rest, `"`) {
			e.Name, what = strings.TrimSpace(quoted), after
		}
		err := readParts(what, func(list func(*DayPlan) *[]Span, s Span) error {
			if s.From > s.To {
				return fmt.Errorf("%s ends before it begins; give the next day its own line", s)
			}
			at := list(&e.DayPlan)
			*at = append(*at, s)
			return nil
		}, func(r when.Minute) { e.Rounds = append(e.Rounds, r) })
		p.Exceptions = append(p.Exceptions, e)
		return err
	}
	days, rest, err := readDays(line)
	if err != nil {
		return err
	}
	return readParts(rest, func(list func(*DayPlan) *[]Span, s Span) error {
		for _, d := range days {
			into := list(&p.Days[d])
			if s.From <= s.To {
				*into = append(*into, s)
				continue
			}
			*into = append(*into, Span{s.From, day})
			if s.To > 0 {
				*over = append(*over, overnight{list, (d + 1) % 7, s.To})
			}
		}
		return nil
	}, func(r when.Minute) {
		for _, d := range days {
			p.Days[d].Rounds = append(p.Days[d].Rounds, r)
		}
	})
}

func exceptionHead(line string) (when.Date, string, bool) {
	word, rest, _ := strings.Cut(line, " ")
	date, ok := when.ReadDate(strings.TrimSuffix(word, ":"))
	return date, strings.TrimSpace(rest), ok
}

var dayNames = []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

// readDays reads the days at the start of a line: "mon-thu", "sat, sun",
// "daily", "weekdays", "weekend".
func readDays(line string) (days []time.Weekday, rest string, err error) {
	rest = strings.ToLower(line)
	for {
		rest = strings.TrimLeft(rest, " ,")
		n := strings.IndexAny(rest, " ,;:")
		if n < 0 {
			n = len(rest)
		}
		word := rest[:n]
		some, ok := daysOf(word)
		if !ok {
			break
		}
		days, rest = append(days, some...), rest[n:]
		rest = strings.TrimPrefix(rest, ":")
	}
	if len(days) == 0 {
		return nil, "", fmt.Errorf("it starts with no day; begin with mon, mon-thu or a date such as 2026-12-24")
	}
	slices.Sort(days)
	return slices.Compact(days), rest, nil
}

func daysOf(word string) ([]time.Weekday, bool) {
	switch word {
	case "daily", "every", "all":
		return []time.Weekday{0, 1, 2, 3, 4, 5, 6}, true
	case "weekdays", "workdays":
		return []time.Weekday{1, 2, 3, 4, 5}, true
	case "weekend", "weekends":
		return []time.Weekday{6, 0}, true
	case "day", "days":
		return nil, true // "every day", "all days"
	}
	from, to, ranged := strings.Cut(word, "-")
	a, ok := weekdayOf(from)
	if !ok || !ranged {
		return []time.Weekday{a}, ok
	}
	b, ok := weekdayOf(to)
	if !ok {
		return nil, false
	}
	out := []time.Weekday{a}
	for d := a; d != b; {
		d = (d + 1) % 7
		out = append(out, d)
	}
	return out, true
}

func weekdayOf(word string) (time.Weekday, bool) {
	for d := range time.Weekday(7) {
		full := strings.ToLower(d.String())
		if len(word) >= 2 && strings.HasPrefix(full, word) || word == full+"s" || len(word) >= 3 && strings.HasPrefix(full, strings.TrimSuffix(word, "s")) {
			return d, true
		}
	}
	return 0, false
}

// readParts reads rounds and held times, separated by commas and semicolons. A
// word such as "closed" is in force up to the next one or a semicolon.
func readParts(text string, span func(func(*DayPlan) *[]Span, Span) error, round func(when.Minute)) error {
	quiet := func(d *DayPlan) *[]Span { return &d.Quiet }
	closed := func(d *DayPlan) *[]Span { return &d.Closed }
	for part := range strings.SplitSeq(strings.ToLower(text), ";") {
		var into func(*DayPlan) *[]Span
		timed := true
		whole := func() error {
			if into != nil && !timed {
				return span(into, Span{0, day})
			}
			return nil
		}
		for _, word := range strings.FieldsFunc(part, func(r rune) bool { return r == ' ' || r == ',' || r == '\t' }) {
			switch word {
			case "quiet", "closed":
				if err := whole(); err != nil {
					return err
				}
				if into, timed = quiet, false; word == "closed" {
					into = closed
				}
				continue
			case "round", "rounds", "at", "and", "from", "hours", "time":
				continue
			}
			from, to, ranged := strings.Cut(strings.ReplaceAll(word, "–", "-"), "-")
			a, err := readClock(from)
			if err != nil {
				return err
			}
			if !ranged {
				if into != nil {
					return fmt.Errorf("“%s” has no end; write it as %s-12:00", word, word)
				}
				if a == day {
					a = 0
				}
				round(a)
				continue
			}
			b, err := readClock(to)
			if err != nil {
				return err
			}
			if into == nil {
				return fmt.Errorf("say what %s is: closed or quiet", word)
			}
			if a == b {
				return fmt.Errorf("%s is empty", Span{a, b})
			}
			timed = true
			if err := span(into, Span{a, b}); err != nil {
				return err
			}
		}
		if err := whole(); err != nil {
			return err
		}
	}
	return nil
}

// readClock reads 9, 9:30, 09.30 or 24:00. In a plan the 24 hours are meant.
func readClock(text string) (when.Minute, error) {
	h, m, _ := strings.Cut(strings.ReplaceAll(text, ".", ":"), ":")
	hour, err := strconv.ParseUint(h, 10, 8)
	minute := uint64(0)
	if err == nil && m != "" {
		if len(m) != 2 {
			err = strconv.ErrSyntax
		} else {
			minute, err = strconv.ParseUint(m, 10, 8)
		}
	}
	if err != nil || hour > 24 || minute > 59 || hour == 24 && minute > 0 {
		return 0, fmt.Errorf("“%s” is no time of day; write 9, 9:30 or 16:45", text)
	}
	return when.At(int(hour), int(minute)), nil
}

func clockText(m when.Minute) string { return fmt.Sprintf("%d:%02d", int(m)/60, int(m)%60) }

// String prints the plan as ReadPlan reads it: days that are alike in one line.
func (p Plan) String() string {
	p = p.Tidy()
	var lines []string
	done := [7]bool{}
	for i := range 7 {
		d := time.Weekday((i + 1) % 7) // Monday first
		text := p.Days[d].String()
		if done[d] || text == "" {
			continue
		}
		var alike []time.Weekday
		for j := i; j < 7; j++ {
			if o := time.Weekday((j + 1) % 7); p.Days[o].String() == text {
				alike = append(alike, o)
				done[o] = true
			}
		}
		lines = append(lines, daysText(alike)+" "+text)
	}
	for _, a := range sorting.Table {
		if rounds := p.Of(a.Kind); len(rounds) > 0 {
			lines = append(lines, string(a.Kind)+": "+KindRoundsText(rounds))
		}
	}
	for _, e := range p.Exceptions {
		line := e.Date
		if e.Name != "" {
			line += " “" + strings.Join(strings.Fields(strings.NewReplacer("“", " ", "”", " ", `"`, " ").Replace(e.Name)), " ") + "”"
		}
		lines = append(lines, strings.TrimSpace(line+" "+e.DayPlan.String()))
	}
	return strings.Join(lines, "\n")
}

// daysText prints days, Monday first, with runs of three and more as ranges.
func daysText(days []time.Weekday) string {
	at := func(d time.Weekday) int { return (int(d) + 6) % 7 }
	slices.SortFunc(days, func(a, b time.Weekday) int { return cmp.Compare(at(a), at(b)) })
	var out []string
	for i := 0; i < len(days); {
		j := i
		for j+1 < len(days) && at(days[j+1]) == at(days[j])+1 {
			j++
		}
		if j-i >= 2 {
			out = append(out, dayNames[days[i]]+"-"+dayNames[days[j]])
		} else {
			for _, d := range days[i : j+1] {
				out = append(out, dayNames[d])
			}
		}
		i = j + 1
	}
	return strings.Join(out, ", ")
}

// String prints what the plan says of the day.
func (d DayPlan) String() string {
	var parts []string
	var rounds []string
	for _, r := range d.Rounds {
		rounds = append(rounds, clockText(r))
	}
	if len(rounds) > 0 {
		parts = append(parts, strings.Join(rounds, ", "))
	}
	for _, held := range []struct {
		name string
		list []Span
	}{{"closed", d.Closed}, {"quiet", d.Quiet}} {
		var spans []string
		for _, s := range held.list {
			if s == (Span{0, day}) {
				spans = nil
				parts = append(parts, held.name)
				break
			}
			spans = append(spans, s.String())
		}
		if len(spans) > 0 {
			parts = append(parts, held.name+" "+strings.Join(spans, ", "))
		}
	}
	return strings.Join(parts, "; ")
}
