package sending

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func TestWhoeverIsPutOffIsTriedAgain(t *testing.T) {
	to := []string{"a@x.example", "b@x.example", "c@x.example", "a@x.example"}
	known := Tried(to, nil, []Outcome{{To: "a@x.example", State: Accepted}, {To: "b@x.example", State: Refused, Reason: "nobody"}}, "cut off", noon, noon)
	assert.Equal(t, []string{"c@x.example"}, Left(to, known), "and nobody twice")
	known = Tried(to, known, nil, "cut off", noon, noon.Add(GiveUp))
	assert.Empty(t, Left(to, known), "not for ever")
}

// However often it is tried, and whatever is said, nobody who has the letter or
// was refused is tried again, and each person has one outcome.
func TestOutcomesAreKept(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		person := rapid.SampledFrom([]string{"a@x.example", "b@x.example", "c@x.example", "d@x.example"})
		to := rapid.SliceOfN(person, 1, 6).Draw(t, "to")
		var known []Outcome
		for range rapid.IntRange(1, 6).Draw(t, "tries") {
			brought := rapid.SliceOf(rapid.Custom(func(t *rapid.T) Outcome {
				return Outcome{To: person.Draw(t, "who"), State: rapid.SampledFrom([]State{Accepted, Refused, Again}).Draw(t, "state")}
			})).Draw(t, "brought")
			was := map[string]State{}
			for _, o := range known {
				was[o.To] = o.State
			}
			known = Tried(to, known, brought, "", noon, noon)
			seen := map[string]bool{}
			for _, o := range known {
				assert.False(t, seen[o.To])
				seen[o.To] = true
				if s := was[o.To]; s == Accepted || s == Refused {
					assert.Equal(t, s, o.State)
				}
			}
		}
	})
}

func TestCheckDelay(t *testing.T) {
	for d, ok := range map[time.Duration]bool{-time.Second: false, 0: true, 10 * time.Second: true, LongestDelay: true, LongestDelay + 1: false} {
		assert.Equal(t, ok, CheckDelay(d) == nil, d)
	}
}
