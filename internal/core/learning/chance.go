package learning

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

// High is from which chance on a letter is ranked high.
const High = 0.6

// Chance is how likely a letter matters.
type Chance struct {
	// P is between 0 and 1.
	P float64
	// Reasons are the strongest that speak for it, in words and numbers, two at most.
	Reasons []string
}

// High tells that it is sure enough to be said of the letter.
func (c Chance) High() bool { return c.P >= High }

// Lessons are how many letters the model has learned from.
func (m *Model) Lessons() int {
	if m == nil {
		return 0
	}
	return m.all.letters
}

// Of tells how likely a letter matters that is looked at now; ok is false while too little was
// learned to tell.
func (m *Model) Of(f Facts, now time.Time) (c Chance, ok bool) {
	if m.Lessons() < enough {
		return c, false
	}
	x := m.features(f, now)
	c.P = m.likely(f, x, now)
	type reason struct {
		words  string
		speaks float64
	}
	var speak []reason
	if t := m.senders[f.Sender]; t != nil {
		speak = append(speak, reason{fmt.Sprintf("you acted on %d of %d letters from them", t.acted, t.letters), m.weights[bySender] * x[bySender]})
	} else if t := m.arounds[f.around()]; t != nil {
		speak = append(speak, reason{fmt.Sprintf("you acted on %d of %d letters from around them", t.acted, t.letters), m.weights[bySender] * x[bySender]})
	}
	for i := range f.Is.each {
		if t := m.facts[i]; words[i] != "" && t.letters > 0 {
			speak = append(speak, reason{fmt.Sprintf("it %s: you acted on %d of %d such letters", words[i], t.acted, t.letters), m.weights[firstFact+i]})
		}
	}
	slices.SortStableFunc(speak, func(a, b reason) int { return cmp.Compare(b.speaks, a.speaks) })
	for _, r := range speak[:min(len(speak), 2)] {
		if r.speaks > 0 {
			c.Reasons = append(c.Reasons, r.words)
		}
	}
	return c, true
}

// words say what a fact is, after “it”.
var words = [facts]string{
	"asks something", "speaks to you by name", "answers a letter of yours", "is to others, with a copy to you", "came by a list", "was sent by a machine",
	"is a bill or about a parcel", "carries files", "goes on with a conversation", "is short", "is long",
}

// Sender is what was learned of a sender.
type Sender struct {
	// Letters were decided on, Acted of them mattered.
	Letters, Acted int
}

// Of a sender, what was learned; ok is false of one of whom nothing was.
func (m *Model) Sender(address string) (s Sender, ok bool) {
	if m == nil || m.senders[address] == nil {
		return s, false
	}
	t := m.senders[address]
	return Sender{t.letters, t.acted}, true
}
