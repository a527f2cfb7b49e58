package sending_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/sending"
)

// One has it, one will never have it, and one is tried once more.
func ExampleTried() {
	now := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	to := []string{"bram@freight.example", "gone@freight.example", "tove@away.example"}
	said := []sending.Outcome{
		{To: to[0], State: sending.Accepted, At: now},
		{To: to[1], State: sending.Refused, Reason: "550 nobody of that name", At: now},
	}
	for _, o := range sending.Tried(to, nil, said, "the line went dead", now, now) {
		fmt.Printf("%s: %s %q\n", o.To, o.State, o.Reason)
	}
	// Output:
	// bram@freight.example: accepted ""
	// gone@freight.example: refused "550 nobody of that name"
	// tove@away.example: again "the line went dead"
}
