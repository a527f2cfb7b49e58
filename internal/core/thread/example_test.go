package thread_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/thread"
)

// Two letters that don't know each other belong together once a third answers
// both; a fourth of the same subject by somebody else doesn't.
func ExampleGroup() {
	at := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	letters := []thread.Facts{
		{Key: "a", IDs: []string{"a@x"}, BareSubject: "crates", Persons: []string{"bram"}, At: at},
		{Key: "b", IDs: []string{"b@x"}, BareSubject: "boxes", Persons: []string{"tove"}, At: at},
		{Key: "c", IDs: []string{"c@x", "a@x", "b@x"}, BareSubject: "crates", Persons: []string{"bram"}, At: at.Add(time.Hour)},
		{Key: "d", IDs: []string{"d@x"}, BareSubject: "crates", BySubject: true, Persons: []string{"maren"}, At: at.Add(time.Hour)},
	}
	fmt.Println(thread.Group(letters))
	// Output: [[0 1 2] [3]]
}
