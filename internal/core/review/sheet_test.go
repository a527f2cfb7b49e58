package review_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/sorting"
)

func TestHowLettersCame(t *testing.T) {
	round := time.Date(2026, 11, 24, 8, 30, 0, 0, time.UTC)
	for _, c := range []struct {
		came review.Came
		want review.How
	}{
		{review.Came{}, review.AtOnce},
		{review.Came{Round: round}, review.InRound},
		{review.Came{Through: true}, review.LetThrough},
		{review.Came{Round: round, Sorted: true}, review.SortedOut},
		{review.Came{Through: true, Sorted: true}, review.SortedOut},
		{review.Came{Kind: sorting.Junk}, review.Refused},
		{review.Came{Kind: sorting.TurnedAway, Sorted: true}, review.Refused},
		{review.Came{Purged: true, Through: true}, review.Purged},
	} {
		assert.Equal(t, c.want, c.came.How(), "%+v", c.came)
	}
}

func TestWhatIsADecision(t *testing.T) {
	done := review.Moved{Was: decide.Inbox, Now: decide.Archive, Step: "decide:done", ByHand: true, Mine: true, Stands: true}
	for name, c := range map[string]struct {
		change func(*review.Moved)
		ok     bool
	}{
		"done":                     {func(*review.Moved) {}, true},
		"out of the Shallows":      {func(m *review.Moved) { m.Was = decide.Shallows }, true},
		"undone":                   {func(m *review.Moved) { m.Stands = false }, false},
		"by a rule":                {func(m *review.Moved) { m.ByHand, m.Mine = false, false }, false},
		"by another person":        {func(m *review.Moved) { m.Mine = false }, false},
		"of what is decided":       {func(m *review.Moved) { m.Was = decide.Later }, false},
		"from inbox to Shallows":   {func(m *review.Moved) { m.Now = decide.Shallows }, false},
		"what is no decision":      {func(m *review.Moved) { m.Step = "undo" }, false},
		"what only begins like it": {func(m *review.Moved) { m.Step = "decided" }, false},
	} {
		m := done
		c.change(&m)
		_, ok := m.Decision()
		assert.Equal(t, c.ok, ok, name)
	}
}

func TestWhatComesBackByItself(t *testing.T) {
	back := review.Moved{Was: decide.Later, Now: decide.Inbox, Step: "return", Stands: true}
	assert.True(t, back.Back())
	for name, change := range map[string]func(*review.Moved){
		"fetched":           func(m *review.Moved) { m.ByHand, m.Mine = true, true },
		"fetched by others": func(m *review.Moved) { m.ByHand = true },
		"undone":            func(m *review.Moved) { m.Stands = false },
		"put off":           func(m *review.Moved) { m.Was, m.Now = decide.Inbox, decide.Later },
	} {
		m := back
		change(&m)
		assert.False(t, m.Back(), name)
	}
}

func TestInterruptions(t *testing.T) {
	at := func(minutes ...int) (out []time.Time) {
		for _, m := range minutes {
			out = append(out, time.Date(2026, 11, 24, 8, m, 0, 0, time.UTC))
		}
		return out
	}
	assert.Equal(t, 0, review.Interruptions(nil))
	assert.Equal(t, 1, review.Interruptions(at(0, 0, 1, 4)))
	assert.Equal(t, 2, review.Interruptions(at(0, 4, 5)), "five minutes after the last that counted")
	assert.Equal(t, 3, review.Interruptions(at(0, 4, 6, 10, 12)))
}
