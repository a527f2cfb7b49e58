package when

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a page may take by itself can all be read, on any day of the year.
func TestForeseenCanBeRead(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := Standard(zone)
	for day := range 366 {
		now := time.Date(2026, 11, 24+day, 8, 20, 0, 0, zone)
		seen := map[string]bool{}
		for _, phrase := range Foreseen(now, c) {
			r, err := Read(phrase.Text, now, c)
			require.NoError(t, err, "%s on %s", phrase.Text, now)
			if r.Precision != Open {
				assert.True(t, r.UTC.After(now), "%s on %s", phrase.Text, now)
			}
			if !phrase.Until.IsZero() { // until then it means the same
				again, err := Read(phrase.Text, phrase.Until.Add(-time.Minute), c)
				require.NoError(t, err, "%s on %s", phrase.Text, now)
				assert.Equal(t, r.UTC, again.UTC, "%s on %s, until %s", phrase.Text, now, phrase.Until)
			}
			seen[phrase.Text] = true
		}
		assert.True(t, seen["fri"] || seen["friday"])
	}
}
