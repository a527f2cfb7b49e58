// Command learning judges how letters are sorted and what is learned of them, and writes
// docs/learning.md: five worlds that were lived through on paper, and letters that nobody here
// wrote.
package main

import (
	"fmt"
	"os"
)

// seeds are those of the worlds that are judged. The model was made on others (1 to 5).
var seeds = []uint64{21, 22, 23, 24, 25}

func main() {
	if err := run("docs/learning.md"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(file string) error {
	var worlds []judged
	for _, seed := range seeds {
		letters, w, err := live(seed)
		if err != nil {
			return err
		}
		worlds = append(worlds, judge(seed, letters, w))
	}
	foreign, err := judgeForeign()
	if err != nil {
		return err
	}
	return os.WriteFile(file, []byte(report(worlds, foreign)), 0o644) //nolint:gosec // it is for everybody to read
}
