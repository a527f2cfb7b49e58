package exchange_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/when"
)

// A line of todo.txt is read, and written as a table.
func ExampleRead() {
	c := when.Standard(time.UTC)
	at := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	tasks, troubles := exchange.Read(exchange.TodoTxt, "(B) Order crates +orangery due:2026-11-27\ndue:soonish Ask Bram\n", c, at)
	for _, t := range tasks {
		fmt.Println(t.Title, t.Priority, t.Project, t.Due.Canonical(c))
	}
	for _, t := range troubles {
		fmt.Printf("line %d is left out\n", t.Line)
	}
	// Output:
	// Order crates high orangery Fri 27 Nov 2026 morning
	// line 2 is left out
}
