package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What docs/learning.md says is held: people's letters are not sorted out, machine mail is, and
// what was learned tells better what matters than the guess by sender.
func TestWhatTheFiguresSay(t *testing.T) {
	letters, w, err := live(seeds[0])
	require.NoError(t, err)
	j := judge(seeds[0], letters, w)
	assert.LessOrEqual(t, 200*j.people.n, j.people.of, "people's letters: %s", j.people)
	assert.GreaterOrEqual(t, 10*j.machines.n, 9*j.machines.of, "machine mail: %s", j.machines)
	assert.Positive(t, j.hardPeople.of)
	rate := func(s share) float64 { return float64(s.n) / float64(s.of) }
	assert.Greater(t, rate(j.learned.precision), rate(j.bySender.precision)+0.05)
	assert.Greater(t, rate(j.learned.recall), rate(j.bySender.recall))
	assert.LessOrEqual(t, rate(j.learned.recall), rate(j.best.recall), "nobody does better than the dice")
	assert.Greater(t, j.foretold.top1.percent(), max(j.foretold.bySender.percent(), j.foretold.byAll.percent())+5, "which decision")

	f, err := judgeForeign()
	require.NoError(t, err)
	assert.Zero(t, f.people.n, "a person's letter was sorted out")
	assert.Zero(t, f.missing)
	assert.Contains(t, report([]judged{j}, f), "| ranked high | ")
}
