package kinds_test

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
)

// Fields are set with values of their type; what stays the same is no change.
func Example() {
	var changes change.List
	kinds.FollowUp.Title.Set(&changes, 7, "Crates", "Order crates")
	kinds.FollowUp.Priority.Set(&changes, 7, followup.High, followup.High)
	for _, c := range changes {
		fmt.Println(c.Kind, c.ID, c.Field, string(c.Now))
	}
	// Output: followup 7 title "Order crates"
}
