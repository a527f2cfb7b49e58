package sending_test

import (
	"slices"
	"testing"
	"time"

	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/sending"
)

// Whatever a mail service says, over however many tries: each recipient has one
// outcome, what was settled stays, and after the last day nobody is left.
func TestEverybodyIsSettledInTheEnd(t *testing.T) {
	since := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	rapid.Check(t, func(rt *rapid.T) {
		to := rapid.SliceOfN(rapid.SampledFrom([]string{"a@x", "b@x", "c@x", "d@x"}), 1, 6).Draw(rt, "to") // some twice
		state := rapid.SampledFrom([]sending.State{sending.Accepted, sending.Refused, sending.Again})
		var known []sending.Outcome
		now := since
		for range rapid.IntRange(1, 6).Draw(rt, "tries") {
			left := sending.Left(to, known)
			var said []sending.Outcome
			for _, one := range left {
				if rapid.Bool().Draw(rt, "reached") {
					said = append(said, sending.Outcome{To: one, State: state.Draw(rt, "said"), At: now})
				}
			}
			before := slices.Clone(known)
			known = sending.Tried(to, known, said, "the line went dead", since, now)
			for _, was := range before {
				if was.State != sending.Again && !slices.Contains(known, was) {
					rt.Fatalf("what was settled has changed: %v", was)
				}
			}
			for i, one := range known {
				if slices.ContainsFunc(known[i+1:], func(o sending.Outcome) bool { return o.To == one.To }) {
					rt.Fatalf("%s has two outcomes", one.To)
				}
				if !slices.Contains(to, one.To) {
					rt.Fatalf("%s was not written to", one.To)
				}
			}
			now = now.Add(time.Duration(rapid.IntRange(1, 40).Draw(rt, "hours")) * time.Hour)
		}
		known = sending.Tried(to, known, nil, "nobody is there", since, since.Add(sending.GiveUp))
		if left := sending.Left(to, known); len(left) > 0 {
			rt.Fatalf("%v are left", left)
		}
		settled := len(sending.Of(known, sending.Accepted)) + len(sending.Of(known, sending.Refused))
		if distinct := slices.Compact(slices.Sorted(slices.Values(to))); settled != len(distinct) {
			rt.Fatalf("%d of %d are settled", settled, len(distinct))
		}
	})
}
