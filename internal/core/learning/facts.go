// Package learning tells from what somebody did with their letters how likely it is that
// another one matters to them: that they answer it, follow it up or hand it on rather than let
// it go. It knows what was done, and a few facts of each letter; never what a letter says. All
// of it is a pure function of that history: the same history gives the same model.
package learning

import (
	"math/bits"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Fact is something that is so of a letter.
type Fact int

// The facts. Their numbers are kept with lessons.
const (
	Asks     Fact = 1 << iota // it asks something
	Named                     // it speaks to the owner by name
	Answers                   // it answers a letter of the owner's
	Copied                    // the owner has only a copy
	Listed                    // it came by a list
	Machine                   // a machine sent it
	Bill                      // a machine's, with a sum or a parcel
	Attached                  // it carries files
	Joined                    // it goes on with a conversation
	Short                     // it is a few lines
	Long                      // it is more than a page
	facts    = iota
)

// Has tells whether all of some facts are so.
func (f Fact) Has(some Fact) bool { return f&some == some }

// When a letter is short, and when it is long, in words.
const (
	fewWords  = 40
	manyWords = 300
)

// Of are the facts that the traits and the length of a letter tell.
func Of(t sorting.Traits, words int) Fact {
	var f Fact
	for trait, fact := range map[sorting.Traits]Fact{
		sorting.Answers: Answers, sorting.Copied: Copied, sorting.Listed: Listed, sorting.Machine: Machine, sorting.Bill: Bill,
	} {
		if t.Has(trait) {
			f |= fact
		}
	}
	switch {
	case words < fewWords:
		f |= Short
	case words > manyWords:
		f |= Long
	}
	return f
}

// With adds facts where they are so.
func (f Fact) With(so bool, fact Fact) Fact {
	if so {
		return f | fact
	}
	return f
}

// each gives the numbers of the facts that are so.
func (f Fact) each(yield func(int) bool) {
	for rest := uint(f); rest != 0; rest &= rest - 1 {
		if !yield(bits.TrailingZeros(rest)) {
			return
		}
	}
}

// Facts are what is known of a letter from which is learned.
type Facts struct {
	// Sender is its address, in lower case, List its List-Id, "" without one.
	Sender, List string
	Is           Fact
}

// around is what a sender is one of: a list, else a domain.
func (f Facts) around() string {
	if f.List != "" {
		return "list " + f.List
	}
	return "@" + sorting.DomainOf(f.Sender)
}

// Outcome is what became of a letter: a decision, or what its owner says of it.
type Outcome string

// What an owner says of a letter.
const (
	Said    Outcome = "matters"
	Denied  Outcome = "doesn’t matter"
	Fetched Outcome = "to the inbox" // moved there from the Shallows
	Sorted  Outcome = "sorted out"   // moved to a kind by hand
)

// Matters tells whether a letter mattered of which that became; ok is false where that tells
// nothing, as of what was put off.
func (o Outcome) Matters() (matters, ok bool) {
	switch o {
	case Outcome(decide.Answer), Outcome(decide.HandOn), Outcome(decide.FollowUp), Said, Fetched:
		return true, true
	case Outcome(decide.Done), Outcome(decide.File), Outcome(decide.ToBin), Outcome(decide.ToJunk), Denied, Sorted:
		return false, true
	}
	return false, false
}

// Decided is the decision that it was; "" for what was said or sorted.
func (o Outcome) Decided() decide.Kind { return decide.Kind(o).About().Kind }

// Tells tells whether anything is learned from it: whether a letter matters, or which decision is taken.
func (o Outcome) Tells() bool {
	_, ok := o.Matters()
	return ok || slices.Contains(deck, o)
}

// Lesson is what became of one letter.
type Lesson struct {
	Letter int64
	At     time.Time
	Facts
	Outcome Outcome
	// Particulars are with what a decision was taken: the label of what was filed, the phrase of what
	// was put off, the address that it was handed on to; "" for none.
	Particulars string
}
