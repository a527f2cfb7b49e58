// Package schedule orders what falls due.
package schedule

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

// Kind is what falls due. Events due at the same instant happen in the order
// of their kinds.
type Kind int

// The kinds, in the order of ties.
const (
	Delivery Kind = iota // a hold ends
	Limit                // an expectation's limit passes
	Return               // a conversation comes back
	Look                 // someday letters come up
	Reminder             // a reminder rings
	Alarm                // the reminder of an appointment rings
	Send                 // a letter leaves the outbox
	Post                 // the stand-in post office brings a letter
	Purge                // the bin lets go
	Series               // a recurring appointment is reckoned further ahead
	Surface              // a kind of the Shallows comes up
	LetIn                // a letter that a delivery had to leave is let in
)

// Kinds is how many kinds there are.
const Kinds = LetIn + 1

var names = [Kinds]string{"delivery", "limit", "return", "look", "reminder", "alarm", "send", "post", "purge", "series", "surface", "let-in"}

// String is the kind's name.
func (k Kind) String() string { return names[k] }

// KindOf finds a kind by its name.
func KindOf(name string) (Kind, bool) {
	i := slices.Index(names[:], name)
	return Kind(i), i >= 0
}

// Again is how long an event that failed waits before it is tried once more:
// longer after each try, an hour at most.
func Again(tries int) time.Duration {
	return min(5*time.Second<<min(max(tries-1, 0), 10), time.Hour)
}

// Event is one thing that falls due, once.
type Event struct {
	Kind  Kind
	Owner int64
	ID    int64
	Due   time.Time
}

// Key names the event for good: the same key is never carried out twice.
func (e Event) Key() string {
	return fmt.Sprintf("%s:%d:%d", e.Kind, e.ID, e.Due.UnixMilli())
}

// Earlier compares two events by due time, then kind, then id.
func Earlier(a, b Event) int {
	return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.ID, b.ID))
}

// First is the event that comes first; ok is false without any.
func First(events []Event) (first Event, ok bool) {
	if len(events) == 0 {
		return Event{}, false
	}
	return slices.MinFunc(events, Earlier), true
}
