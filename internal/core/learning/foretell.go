package learning

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
)

const (
	// marked is from which chance on a decision is foretold, taken from which one key takes it.
	marked, taken = 0.6, 0.85
	// usual is which share of particulars is enough to name them, often how many there must be.
	usual, often = 0.6, 2
	// alikeDoubt is how many letters of a sender that are alike count as much as all else, in which
	// decision is taken; slips is which share of decisions is by no habit whatever was learned.
	alikeDoubt, slips = 3, 0.05
	// recent are how many of a sender's decisions its particulars are taken from.
	recent = 10
)

// deck are the decisions that are foretold.
var deck = func() (out []Outcome) {
	for _, a := range decide.Kinds {
		if a.Deck {
			out = append(out, Outcome(a.Kind))
		}
	}
	return out
}()

// foresight is what was learned of which decision is taken.
type foresight struct {
	habits []habit // one for each of the deck
	// lately are the latest decisions on a sender's letters, and on those of a list or domain.
	lately, around map[string][]Lesson
}

// foresee learns which decision is taken from lessons in the order of time.
func foresee(lessons []Lesson) foresight {
	f := foresight{habits: make([]habit, len(deck)), lately: map[string][]Lesson{}, around: map[string][]Lesson{}}
	decided := make([]Lesson, 0, len(lessons))
	for _, l := range lessons {
		if slices.Contains(deck, l.Outcome) {
			decided = append(decided, l)
			f.lately[l.Sender] = lastOf(append(f.lately[l.Sender], l))
			f.around[l.Facts.around()] = lastOf(append(f.around[l.Facts.around()], l))
		}
	}
	for i, d := range deck {
		f.habits[i] = learnHabit(decided, alikeDoubt, func(l Lesson) bool { return l.Outcome == d })
	}
	return f
}

func lastOf(lessons []Lesson) []Lesson {
	if len(lessons) > 2*recent { // not each time: they are many
		return slices.Clone(lessons[len(lessons)-recent:])
	}
	return lessons
}

// Foretold is the decision that is likely taken on a letter.
type Foretold struct {
	Decision decide.Kind
	// P is how likely, with its particulars: under which label, until when, to whom. They are ""
	// where they are not sure.
	P           float64
	Particulars string
	// Reason says in words what it was learned from.
	Reason string
}

// Marked tells that it is sure enough to be shown.
func (f Foretold) Marked() bool { return f.P >= marked }

// Taken tells that it is so sure that one key takes it: never what can't be taken back at leisure
// or reaches others, and only where nothing is missing for it.
func (f Foretold) Taken() bool {
	switch f.Decision.About().Needs {
	case decide.ALetter:
		return false
	case decide.ATime, decide.SomeLabels:
		if f.Particulars == "" {
			return false
		}
	case decide.Nothing, decide.AFollowUp:
	}
	return f.Sure() && f.Decision != decide.ToBin
}

// Sure tells that it is as sure as what one key takes must be.
func (f Foretold) Sure() bool { return f.P >= taken }

// Likely is how likely each decision of the deck is on a letter that is looked at now, the likeliest
// first; nothing while too little was learned to tell.
func (m *Model) Likely(f Facts, now time.Time) []Foretold {
	if len(m.habits) == 0 || m.habits[0].all.letters < enough {
		return nil
	}
	out := make([]Foretold, len(deck))
	var sum float64
	for i := range deck {
		h := &m.habits[i]
		out[i] = Foretold{Decision: decide.Kind(deck[i]), P: h.likely(f, h.features(f, now), now)}
		sum += out[i].P
	}
	for i := range out {
		out[i].P = out[i].P/sum*(1-slips) + slips/float64(len(deck))
	}
	slices.SortStableFunc(out, func(a, b Foretold) int { return -cmp.Compare(a.P, b.P) })
	return out
}

// Foretell tells which decision is likely taken on a letter that is looked at now; the zero Foretold
// where it is not sure.
func (m *Model) Foretell(f Facts, now time.Time) Foretold {
	all := m.Likely(f, now)
	if len(all) == 0 {
		return Foretold{}
	}
	best := all[0]
	best.Reason, best.Particulars = m.because(f, best.Decision)
	if !best.Marked() || best.Reason == "" {
		return Foretold{}
	}
	return best
}

// because says in words what a decision is foretold from, and with which particulars it was taken.
func (m *Model) because(f Facts, d decide.Kind) (reason, particulars string) {
	of, whose := m.lately[f.Sender], "from them"
	if len(of) < often {
		of, whose = m.around[f.around()], "from their domain"
		if f.List != "" {
			whose = "of their list"
		}
	}
	of = of[max(0, len(of)-recent):]
	n := 0
	with := map[string]int{}
	for _, l := range of {
		if decide.Kind(l.Outcome) == d {
			n++
			with[l.Particulars]++
		}
	}
	if n == 0 {
		return "", ""
	}
	for p, times := range with {
		if times >= often && float64(times) >= usual*float64(n) {
			particulars = p
		}
	}
	last := fmt.Sprintf("%d of the last %d letters %s", n, len(of), whose)
	if n == len(of) {
		last = fmt.Sprintf("all of the last %d letters %s", n, whose)
	}
	return did[d] + " " + last, particulars
}

// did says of a decision what was done, before how often.
var did = map[decide.Kind]string{
	decide.Answer: "you answered", decide.Done: "you were done with", decide.PutOff: "you put off", decide.FollowUp: "you made follow-ups of",
	decide.HandOn: "you handed on", decide.File: "you filed", decide.ToBin: "you binned",
}
