package main

import (
	"slices"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/store"
)

// learnedWeeks are the weeks that are learned from; those after them are judged.
const learnedWeeks = 6

// seen is a letter of the eight weeks as Ebbe would see it.
type seen struct {
	demo.Lived
	facts   sorting.Facts
	from    string
	learns  learning.Facts
	verdict sorting.Verdict
	chance  float64
	high    bool
	// likely is how likely each decision was, the likeliest first.
	likely []learning.Foretold
}

// world is what is known while eight weeks go by.
type world struct {
	known       map[string]bool
	corrections []sorting.Correction
	lessons     []learning.Lesson
	model       *learning.Model
	corrected   int
}

// live lets the eight weeks of a seed go by: letters are sorted and decided on, what lies
// wrongly is put right at times, and what was decided is learned overnight. From the seventh
// week on nothing is learned or put right.
func live(seed uint64) ([]seen, *world, error) {
	letters, err := demo.LiveThrough(seed)
	if err != nil {
		return nil, nil, err
	}
	own, name := demo.Own()
	w := &world{known: map[string]bool{}, model: learning.Learn(nil)}
	out := make([]seen, len(letters))
	day := 0
	for i, l := range letters {
		if d := l.At.YearDay(); d != day && l.Week <= learnedWeeks+1 {
			day, w.model = d, learning.Learn(w.lessons)
		}
		s := see(letter.Parse(l.Raw), own, name)
		s.Lived = l
		w.sort(&s)
		out[i] = s
		if l.Week > learnedWeeks {
			continue
		}
		w.lessons = append(w.lessons, learning.Lesson{Letter: int64(i + 1), At: l.At, Facts: s.learns, Outcome: learning.Outcome(l.Became)})
		if l.Became == decide.Answer {
			w.known[s.from] = true
		}
		w.putRight(s, i)
	}
	return out, w, nil
}

// see reads off a letter what Ebbe keeps of it.
func see(l letter.Letter, own []string, name string) seen {
	row := store.LetterOf(l)
	mine := func(a letter.Address) bool { return slices.Contains(own, a.Key()) }
	traits := row.Traits | sorting.CopiedTo(l.To, l.Cc, mine)
	named := findings.Mentions(letter.Unquoted(l.Text), []string{name}, slices.ContainsFunc(l.To, mine))
	row.Traits = traits
	return seen{
		from:   l.From.Key(),
		facts:  sorting.Facts{Traits: traits, Automatic: l.Automatic.Is(), List: l.ListID, Named: named},
		learns: row.Learns(named),
	}
}

func (w *world) sort(s *seen) {
	s.facts.Known = w.known[s.from]
	sorting.CorrectionsOf(w.corrections).Fill(&s.facts, s.from)
	if c, ok := w.model.Of(0, s.learns, s.At); ok {
		s.chance, s.high, s.likely = c.P, c.High(), w.model.Likely(s.learns, s.At)
		s.facts.Matters, s.facts.Lessons, s.facts.Because = c.P, w.model.Lessons(), "learned"
	}
	s.verdict = sorting.Judge(s.facts).Settle(sorting.Usual(), false)
}

// putRight moves what lies wrongly: a person's letter always, once it is found, and every
// second one of a machine.
func (w *world) putRight(s seen, i int) {
	scope, kind := sorting.ByAddress, s.Kind
	switch {
	case s.Kind == junk || s.verdict.Out == (s.Kind != sorting.Person):
		return
	case s.Kind != sorting.Person && i%2 == 0:
		return
	case s.Kind != sorting.Person:
		scope = sorting.BySource
	}
	c, err := sorting.Of(scope, s.from, s.facts.List, kind)
	if err != nil {
		return
	}
	w.corrected++
	w.corrections = append(slices.DeleteFunc(w.corrections, c.Replaces), c)
}

// junk is the kind of what nobody wants. It is no kind that letters are sorted by.
const junk sorting.Kind = "junk"
