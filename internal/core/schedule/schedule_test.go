package schedule_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/schedule"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC) // a Tuesday

func TestTies(t *testing.T) {
	events := []schedule.Event{
		{Kind: schedule.Reminder, ID: 1, Due: noon}, {Kind: schedule.Return, ID: 2, Due: noon}, {Kind: schedule.Limit, ID: 3, Due: noon},
		{Kind: schedule.Delivery, ID: 4, Due: noon}, {Kind: schedule.Return, ID: 5, Due: noon.Add(-time.Second)},
	}
	first, ok := schedule.First(events)
	assert.True(t, ok && first.ID == 5, "earlier comes first")
	first, _ = schedule.First(events[:4])
	assert.Equal(t, schedule.Delivery, first.Kind, "of the same instant, deliveries come first")
	_, ok = schedule.First(nil)
	assert.False(t, ok)
	assert.NotEqual(t, events[0].Key(), events[1].Key())
}

// Every kind has a name of its own, by which it is found again.
func TestKindsHaveNames(t *testing.T) {
	for k := range schedule.Kinds {
		found, ok := schedule.KindOf(k.String())
		assert.True(t, ok)
		assert.Equal(t, k, found)
	}
	_, ok := schedule.KindOf("tea")
	assert.False(t, ok)
}

// What failed is tried again soon, then after growing pauses, an hour at most.
func TestPausesGrow(t *testing.T) {
	for tries, want := range map[int]time.Duration{
		-1: 5 * time.Second, 0: 5 * time.Second, 1: 5 * time.Second, 2: 10 * time.Second, 4: 40 * time.Second, 10: 2560 * time.Second, 11: time.Hour, 1000: time.Hour,
	} {
		assert.Equal(t, want, schedule.Again(tries), tries)
	}
}
