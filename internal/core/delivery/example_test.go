package delivery_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/when"
)

// A plan as text says when letters are let in.
func ExampleGate_State() {
	plan, err := delivery.ReadPlan("mon-fri 8:30, 13:00, 16:30")
	if err != nil {
		fmt.Println(err)
		return
	}
	gate := delivery.NewGate(plan, when.Standard(time.UTC))
	state := gate.State(time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC), delivery.OneOff{})
	fmt.Println(state.Open, state.Cause, state.Next.Format("Mon 15:04"))
	// Output: false between Tue 13:00
}
