// Package sending holds the rules of letters under way: for whom one has left,
// for whom it is tried again, and when that ends.
package sending

import (
	"errors"
	"slices"
	"time"
)

// State is how far a letter has come for one recipient.
type State string

// The states.
const (
	Accepted State = "accepted" // the mail service has taken it
	Refused  State = "refused"  // it never will
	Again    State = "again"    // it is tried again
)

// Stage is how far a letter of the outbox has come as a whole.
type Stage string

// The stages.
const (
	Unmade  Stage = "none" // it is being made
	Waiting Stage = "waiting"
	Leaving Stage = "sending"
	Sent    Stage = "sent"
	Failed  Stage = "failed" // nobody got it
)

// Stages are all of them.
var Stages = []Stage{Unmade, Waiting, Leaving, Sent, Failed}

// UnderWay are the stages of a letter that is still to go.
var UnderWay = []Stage{Waiting, Leaving}

// GiveUp is how long a letter is tried (RFC 5321, 4.5.4.1: at least 4 to 5
// days).
const GiveUp = 5 * 24 * time.Hour

// StillMeant is how long after its own time a letter still leaves, where Ebbe was not running
// then; later it is asked about.
const StillMeant = 4 * time.Hour

// Missed tells whether the time at which a letter was to leave passed too long ago.
func Missed(due, now time.Time) bool { return now.Sub(due) > StillMeant }

// LongestDelay bounds how long a letter waits before it leaves, so that it can
// be undone.
const LongestDelay = 10 * time.Minute

// CheckDelay tells whether a letter may wait so long before it leaves; 0 lets
// it leave at once.
func CheckDelay(d time.Duration) error {
	if d < 0 || d > LongestDelay {
		return errors.New("a letter waits for up to ten minutes before it leaves")
	}
	return nil
}

// Outcome is what became of a letter for one recipient. Reason is what the
// mail service said; "" if it accepted it.
type Outcome struct {
	To     string    `json:"to"`
	State  State     `json:"state" enum:"accepted,refused,again"`
	Reason string    `json:"reason,omitempty"`
	At     time.Time `json:"at"`
}

// Left are the recipients for whom a letter is still to be tried, in their
// order, each once.
func Left(recipients []string, known []Outcome) []string {
	var out []string
	for _, to := range recipients {
		i := slices.IndexFunc(known, func(o Outcome) bool { return o.To == to })
		if (i < 0 || known[i].State == Again) && !slices.Contains(out, to) {
			out = append(out, to)
		}
	}
	return out
}

// Tried adds what a try has brought to what is known. failed is why recipients
// of whom nothing was said were not reached; "" if all were. A letter that has
// been under way since longer than GiveUp is refused for whom it would be
// tried again.
func Tried(recipients []string, known, brought []Outcome, failed string, since, now time.Time) []Outcome {
	out := slices.Clone(known)
	for _, to := range Left(recipients, known) {
		o := Outcome{To: to, State: Again, Reason: failed, At: now}
		if i := slices.IndexFunc(brought, func(b Outcome) bool { return b.To == to }); i >= 0 {
			o = brought[i]
		}
		if o.State == Again && now.Sub(since) >= GiveUp {
			o.State = Refused
		}
		if i := slices.IndexFunc(out, func(k Outcome) bool { return k.To == to }); i >= 0 {
			out[i] = o
		} else {
			out = append(out, o)
		}
	}
	return out
}

// Of are the outcomes in a state.
func Of(outcomes []Outcome, state State) []Outcome {
	return slices.DeleteFunc(slices.Clone(outcomes), func(o Outcome) bool { return o.State != state })
}

// Pause is how long a letter waits after its n-th failed try (0 for the
// first): a minute, and twice as long each time, an hour at most.
func Pause(tries int) time.Duration { return min(time.Minute<<min(tries, 6), time.Hour) }
