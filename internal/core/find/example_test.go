package find_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
)

// What is typed into the search box is words and fields, in any order.
func ExampleParse() {
	q := find.Parse(`from:bram "crate sizes" -orchid with:file `, when.Standard(time.UTC))
	fmt.Println(q.From, q.Words, q.Not, q.Files)
	// Output: [bram] [crate sizes] [orchid] true
}
