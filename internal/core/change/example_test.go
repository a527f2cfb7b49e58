package change_test

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
)

// What somebody has changed since is left alone when a step is taken back.
func ExampleInverse() {
	crates := change.Object{Kind: "followup", ID: 7}
	title, _ := change.Set(crates, "title", "Crates", "Order crates")
	due, _ := change.Set(crates, "due", "fri", "mon")
	step := []change.Recorded{{Change: title, Before: 1, After: 2}, {Change: due, Before: 3, After: 4}}

	versions := map[string]int64{"title": 2, "due": 9} // the due was moved once more
	undo, kept := change.Inverse(step, func(c change.Change) int64 { return versions[c.Field] })
	for _, u := range undo {
		fmt.Printf("%s: %s again\n", u.Field, u.Now)
	}
	for _, k := range kept {
		fmt.Printf("%s: left as it is\n", k.Field)
	}
	// Output:
	// title: "Crates" again
	// due: left as it is
}
