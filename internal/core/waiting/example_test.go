package waiting_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/waiting"
)

// Of two people who both must answer, the first is part of it, the second all.
func ExampleJudge() {
	since := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	e := waiting.Expectation{Conversation: 5, Persons: []string{"bram@freight.example", "tove@freight.example"}, All: true, Since: since}
	a := waiting.Arrival{From: "bram@freight.example", Conversation: 5, Received: since.Add(time.Hour)}
	fmt.Println(waiting.Judge(e, a) == waiting.Partly)
	e.Answered = append(e.Answered, a.From)
	a.From = "tove@freight.example"
	fmt.Println(waiting.Judge(e, a) == waiting.Meets)
	// Output:
	// true
	// true
}
