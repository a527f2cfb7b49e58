package letter_test

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/letter"
)

// Whatever comes is read; what is wrong with it is said, and nothing is refused.
func ExampleParse() {
	l := letter.Parse([]byte("From: Bram <bram@freight.example>\r\nTo: ines@norrholm.example\r\nSubject: =?utf-8?q?Cr=C3=A4tes?=\r\n\r\nTwelve of them.\r\n"))
	fmt.Println(l.From.Display(), l.Subject, l.Text)
	// Output: Bram Crätes Twelve of them.
}
