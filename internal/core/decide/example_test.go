package decide_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
)

// A decision is a list of changes, field by field, that can be written down and
// taken back.
func ExampleDecide() {
	s := decide.State{ID: 7, Place: decide.Inbox, Last: 12}
	for _, c := range decide.Decide(s, decide.Decision{Kind: decide.File, At: time.Now(), Saw: 12, Labels: []string{"loans"}}) {
		fmt.Printf("%s of %s %d: %s → %s\n", c.Field, c.Kind, c.ID, c.Was, c.Now)
	}
	// Output:
	// place of conversation 7: "inbox" → "archive"
	// decided of conversation 7: 0 → 12
	// label:loans of conversation 7: false → true
}
