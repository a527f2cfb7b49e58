// Package waiting holds the rules of expectations: the answers a person waits
// for, from whom, and until when.
package waiting

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// State of an expectation.
type State string

// The states.
const (
	Open    State = "open"
	Met     State = "met"
	Dropped State = "dropped" // no longer waited for
)

// States are all of them.
var States = []State{Open, Met, Dropped}

// DefaultWait is how long Hand on waits when no limit is given, as a phrase.
const DefaultWait = "1w"

// Expectation is an answer that is waited for.
type Expectation struct {
	ID           int64
	Conversation int64
	// Persons are address keys; with All each must answer, else any of them.
	Persons  []string
	All      bool
	Answered []string
	// StartID is the Message-ID of the letter it starts from.
	StartID string
	Since   time.Time
}

// Arrival is a letter received, as far as expectations care.
type Arrival struct {
	From      string // address key
	Received  time.Time
	Automatic letter.Automatic
	// Conversation is where it belongs, 0 while that is open.
	Conversation int64
	// Answers are the Message-IDs that it refers to.
	Answers []string
}

// Verdict is what an arrival means for an expectation.
type Verdict int

// The verdicts.
const (
	Nothing Verdict = iota
	// Partly: one of several persons has answered.
	Partly
	// Meets: the expectation is met.
	Meets
	// Offers: somebody else answered; the person may say that this is it.
	Offers
	// Away: an automatic answer came from the person waited for.
	Away
)

// Judge tells what an arrival means for an expectation. It is met by a letter
// received after its start, from such a person, in the conversation or
// answering its letter, and not automatic.
func Judge(e Expectation, a Arrival) Verdict {
	belongs := a.Conversation != 0 && a.Conversation == e.Conversation ||
		e.StartID != "" && slices.Contains(a.Answers, e.StartID)
	if !belongs || !a.Received.After(e.Since) {
		return Nothing
	}
	named := slices.Contains(e.Persons, a.From)
	switch {
	case a.Automatic.Is() && named:
		return Away
	case a.Automatic.Is():
		return Nothing
	case !named:
		return Offers
	case !e.All:
		return Meets
	}
	for _, p := range e.Persons {
		if p != a.From && !slices.Contains(e.Answered, p) {
			return Partly
		}
	}
	return Meets
}
