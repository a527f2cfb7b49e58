package schedule_test

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/schedule"
)

// Events happen in one order, in whatever order they are found; no two of them are
// taken for each other.
func TestEventsHaveOneOrder(t *testing.T) {
	at := time.Date(2026, 11, 24, 13, 0, 0, 0, time.UTC)
	event := rapid.Custom(func(t *rapid.T) schedule.Event {
		return schedule.Event{
			Kind: schedule.Kind(rapid.IntRange(0, int(schedule.Kinds)-1).Draw(t, "kind")), ID: rapid.Int64Range(1, 4).Draw(t, "id"),
			Due: at.Add(time.Duration(rapid.IntRange(-2, 2).Draw(t, "minutes")) * time.Minute),
		}
	})
	rapid.Check(t, func(rt *rapid.T) {
		events := rapid.SliceOfNDistinct(event, 0, 12, schedule.Event.Key).Draw(rt, "events")
		rest, other := slices.Clone(events), slices.Clone(events)
		random := rand.New(rand.NewPCG(rapid.Uint64().Draw(rt, "seed"), 1))
		random.Shuffle(len(other), func(i, j int) { other[i], other[j] = other[j], other[i] })
		var last *schedule.Event
		for range events {
			first, ok := schedule.First(rest)
			again, _ := schedule.First(other)
			if !ok || first != again {
				rt.Fatalf("%v comes first, and %v", first, again)
			}
			if last != nil && (first.Due.Before(last.Due) || first.Due.Equal(last.Due) && first.Kind < last.Kind) {
				rt.Fatalf("%v comes after %v", first, *last)
			}
			last = &first
			is := func(e schedule.Event) bool { return e == first }
			rest, other = slices.DeleteFunc(rest, is), slices.DeleteFunc(other, is)
		}
		if _, ok := schedule.First(rest); ok || len(rest) > 0 {
			rt.Fatal("two are one")
		}
	})
}

func TestKindsAreFoundByTheirNames(t *testing.T) {
	for k := range schedule.Kinds {
		got, ok := schedule.KindOf(k.String())
		assert.True(t, ok)
		assert.Equal(t, k, got)
	}
	_, ok := schedule.KindOf("nothing")
	assert.False(t, ok)
}

// However often something fails, it is tried again within the hour, and never sooner
// than the time before.
func TestTriesGrowRarer(t *testing.T) {
	last := time.Duration(0)
	for tries := range 1000 {
		pause := schedule.Again(tries)
		assert.Positive(t, pause)
		assert.GreaterOrEqual(t, pause, last)
		assert.LessOrEqual(t, pause, time.Hour)
		last = pause
	}
	assert.Equal(t, time.Hour, last)
}
