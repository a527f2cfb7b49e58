package findings_test

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/findings"
)

// The sentence of a letter that asks for something is what its row shows.
func ExampleAsk() {
	fmt.Println(findings.Ask("Hello Ines,\n\nthank you for the crates. Can you tell me the lift height by Friday?\n\nBram"))
	// Output: Can you tell me the lift height by Friday? true
}
