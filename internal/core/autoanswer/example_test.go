package autoanswer_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/letter"
)

// A person is told when to expect an answer; a list is not.
func ExampleRefuse() {
	now := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	asked := autoanswer.Asked{Own: []string{"ines@norrholm.example"}, Now: now}
	for _, raw := range []string{
		"From: bram@freight.example\r\nTo: ines@norrholm.example\r\nSubject: Crates\r\n\r\nWhen?\r\n",
		"From: moss@gardens.example\r\nTo: ines@norrholm.example\r\nList-Id: <moss.gardens.example>\r\n\r\nNews.\r\n",
	} {
		asked.Letter = letter.Parse([]byte(raw))
		fmt.Printf("%q\n", autoanswer.Refuse(asked))
	}
	// Output:
	// ""
	// "a machine or a list sent it"
}
