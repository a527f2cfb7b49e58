package app_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

// Days that are over are read ahead after a start: whoever looks at them reads them no more.
func TestDaysAreReadAhead(t *testing.T) {
	w := newWorld(t)
	w.colleague() // with nothing to look back on
	w.receive(bramAsks)
	w.decide(decide.Done, w.row(decide.Inbox))
	w.pass(300 * 24 * time.Hour)
	w.app.LookBack(w.ctx)

	w.behind("UPDATE journal SET kind = 'none'") // as no command does: it would say that the past has changed
	days, err := w.app.Days(w.ctx, w.who, show.AYear, "2026-11-24")
	require.NoError(t, err)
	assert.Equal(t, 1, days.All.Decided)
}
