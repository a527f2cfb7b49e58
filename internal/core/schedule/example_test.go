package schedule_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/schedule"
)

// What is due at one instant happens in the order of the kinds: a delivery lets
// letters in before a conversation returns on top of them.
func ExampleFirst() {
	at := time.Date(2026, 11, 24, 13, 0, 0, 0, time.UTC)
	events := []schedule.Event{
		{Kind: schedule.Reminder, ID: 3, Due: at},
		{Kind: schedule.Return, ID: 2, Due: at},
		{Kind: schedule.Delivery, ID: 1, Due: at},
		{Kind: schedule.Delivery, ID: 4, Due: at.Add(time.Hour)},
	}
	first, _ := schedule.First(events)
	fmt.Println(first.Key())
	for tries := 1; tries <= 4; tries++ {
		fmt.Print(schedule.Again(tries), " ")
	}
	// Output:
	// delivery:1:1795525200000
	// 5s 10s 20s 40s
}
