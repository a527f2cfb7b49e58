package followup_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// A line of plain words is a follow-up; what was understood is shown as chips.
func ExampleCapture() {
	now := time.Date(2026, 11, 24, 11, 6, 0, 0, time.UTC)
	c := followup.Capture("ring the ferry, high, fri 10, 15 min", now, when.Standard(time.UTC), followup.Known{})
	fmt.Println(c.Title)
	for _, chip := range c.Chips {
		fmt.Println(chip.Kind, chip.Words)
	}
	// Output:
	// ring the ferry
	// priority high
	// due Fri 27 Nov, 10:00
	// estimate 15 min
}
