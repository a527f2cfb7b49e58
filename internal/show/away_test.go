package show_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
)

// An absence tells the page when it begins and ends by itself, so that nothing on it is said
// longer than it is true.
func TestAnAbsenceBeginsAndEnds(t *testing.T) {
	d := begin(t)
	away := func() show.AwayView {
		accounts, err := d.Accounts(t.Context(), d.who)
		require.NoError(t, err)
		return accounts[0].Away
	}
	none := away()
	assert.Equal(t, []any{false, false, (*time.Time)(nil)}, []any{none.Set, none.On, none.Next})
	accounts, err := d.Accounts(t.Context(), d.who)
	require.NoError(t, err)
	_, err = d.SetAbsence(t.Context(), d.who, crand(), accounts[0].ID, app.Absence{From: "tomorrow 9:00", Back: "mon 8:00", Text: "I am away."})
	require.NoError(t, err)
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	begins, ends := time.Date(2026, 11, 25, 9, 0, 0, 0, oslo), time.Date(2026, 11, 30, 8, 0, 0, 0, oslo)
	for _, c := range []struct {
		at      time.Time
		set, on bool
		next    *time.Time
	}{
		{d.clock.Now(), true, false, &begins}, {begins, true, true, &ends}, {ends.Add(-time.Second), true, true, &ends}, {ends, false, false, nil},
	} {
		d.clock.Advance(c.at.Sub(d.clock.Now()))
		got := away()
		assert.Equal(t, []bool{c.set, c.on}, []bool{got.Set, got.On}, c.at)
		if c.next == nil {
			assert.Nil(t, got.Next)
			continue
		}
		require.NotNil(t, got.Next)
		assert.True(t, c.next.Equal(*got.Next), "%s, not %s", c.next, got.Next)
	}
}
