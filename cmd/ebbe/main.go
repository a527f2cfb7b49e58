// Command ebbe serves the mail of a knowledge worker who empties the inbox
// every day.
package main

import (
	"fmt"
	"os"
)

func main() {
	if err := root().Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "ebbe:", err)
		os.Exit(1)
	}
}
