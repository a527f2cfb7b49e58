// Package delivery decides when letters may reach the person. This first form
// knows one kind of gate: a hold, switched on by hand, for good or to a time.
package delivery

import "time"

// Hold keeps letters back from From until Until, or until let in by hand when
// Until is nil. Intervals are [From, Until).
type Hold struct {
	From  time.Time
	Until *time.Time
}

// Covers tells whether the hold is in force at t.
func (h *Hold) Covers(t time.Time) bool {
	return h != nil && !t.Before(h.From) && (h.Until == nil || t.Before(*h.Until))
}

// AskAfter is how long an indefinite hold lasts before Ebbe asks about it.
const AskAfter = 12 * time.Hour

// Asks tells whether it is time to ask whether the hold is still meant.
func (h *Hold) Asks(now time.Time) bool {
	return h.Covers(now) && h.Until == nil && now.Sub(h.From) >= AskAfter
}
