package steps_test

import (
	"testing"

	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/steps"
)

// Going back and forth is as with two piles: an undo takes the top of what was done
// to what was taken back, a redo takes it over again, and anything new clears away
// what was taken back.
func TestBackAndForth(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var journal []steps.Step // the oldest first
		var back []int           // places in the journal of undos that can be taken back
		done := 0
		for range rapid.IntRange(1, 30).Draw(rt, "steps") {
			latest := make([]steps.Step, 0, len(journal))
			for i := len(journal) - 1; i >= 0; i-- {
				latest = append(latest, journal[i])
			}
			want := -1
			if len(back) > 0 {
				want = len(journal) - 1 - back[len(back)-1]
			}
			if got := steps.Again(latest); got != want {
				rt.Fatalf("after %v the undo to be taken back is %d, not %d", journal, want, got)
			}
			switch rapid.SampledFrom([]string{"do", "undo", "redo"}).Draw(rt, "what") {
			case "do":
				journal, back, done = append(journal, steps.Step{Kind: "decide:done"}), nil, done+1
			case "undo":
				if done > 0 {
					back, done = append(back, len(journal)), done-1
					journal = append(journal, steps.Step{Kind: "undo", Undo: true})
				}
			case "redo":
				if len(back) > 0 {
					back, done = back[:len(back)-1], done+1
					journal = append(journal, steps.Step{Kind: "redo", Redo: true})
				}
			}
		}
	})
}
