// Command ebbe serves the mail of a knowledge worker who empties the inbox
// every day.
package main

import (
	"fmt"
	"os"
	"runtime/debug"
)

// memoryLimit is a soft limit: near it, garbage is collected at once rather
// than when there is as much of it as of the rest. Large letters come and go.
const memoryLimit = 160 << 20

func main() {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryLimit)
	}
	if err := root().Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "ebbe:", inWords(err))
		os.Exit(codeOf(err))
	}
}
