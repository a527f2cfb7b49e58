package steps_test

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/steps"
	"ebbe.example/ebbe/internal/core/when"
)

// Going back from one letter to the next needs no word; from letters to the
// settings it does.
func ExampleStrays() {
	today := when.Date{Year: 2026, Month: 11, Day: 24}
	last := steps.Step{Kind: "decide:done", Day: today}
	fmt.Println(steps.Strays(steps.Step{Kind: "mark:star", Day: today}, last, today))
	fmt.Println(steps.Strays(steps.Step{Kind: "settings", Day: today}, last, today))
	// Output:
	// false
	// true
}
