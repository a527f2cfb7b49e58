package app_test

import (
	"database/sql"
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

	db, err := sql.Open("sqlite3", "file:"+w.app.Store.Path()+"?_busy_timeout=10000")
	require.NoError(t, err)
	_, err = db.ExecContext(w.ctx, "UPDATE journal SET kind = 'none'") // as no command does: it would say that the past has changed
	require.NoError(t, err)
	require.NoError(t, db.Close())
	days, err := w.app.Days(w.ctx, w.who, show.AYear, "2026-11-24")
	require.NoError(t, err)
	assert.Equal(t, 1, days.All.Decided)
}
