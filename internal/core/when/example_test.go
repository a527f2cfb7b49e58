package when_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// A phrase is read at a moment, in somebody's calendar, and said back in words.
func ExampleRead() {
	c := when.Standard(time.UTC)
	now := time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC) // a Tuesday
	for _, phrase := range []string{"fri 14:00", "in 2 hours", "tomorrow", "soon"} {
		r, err := when.Read(phrase, now, c)
		if err != nil {
			fmt.Println(phrase, "is no time")
			continue
		}
		fmt.Println(r.Moment.UTC.Format(time.RFC3339), when.Speak(r.Moment, now, c))
	}
	// Output:
	// 2026-11-27T14:00:00Z Fri 27 Nov, 14:00
	// 2026-11-24T10:20:00Z today 10:20
	// 2026-11-25T08:30:00Z tomorrow 08:30
	// soon is no time
}
