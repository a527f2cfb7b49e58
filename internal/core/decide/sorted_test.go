package decide_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// What sorting has put away comes to the inbox from where it has put it, and from nowhere else: a
// newsletter that its owner has binned stays in the bin.
func TestUnsort(t *testing.T) {
	at := map[sorting.Kind]decide.Place{
		sorting.Reading: decide.Shallows, sorting.Notices: decide.Shallows, sorting.Person: decide.Shallows, "": decide.Shallows,
		sorting.TurnedAway: decide.Bin, sorting.Junk: decide.Junk,
	}
	for kind, lies := range at {
		for _, place := range []decide.Place{decide.Inbox, decide.Shallows, decide.Later, decide.Archive, decide.Bin, decide.Junk} {
			assert.Equal(t, place == lies, decide.LiesSorted(place, kind), "%s in %s", kind, place)
			changes := decide.Unsort(decide.State{ID: 1, Place: place, Sorted: true}, kind)
			assert.Equal(t, place == lies, len(changes) > 0, "%s in %s", kind, place)
			for _, c := range changes {
				if now, ok := decide.Conversation.Place.Now(c); ok {
					assert.Equal(t, decide.Inbox, now)
				}
			}
		}
	}
}
