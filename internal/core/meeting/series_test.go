package meeting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

func TestWhichOfASeriesAMessageMeans(t *testing.T) {
	third := time.Date(2026, 12, 8, 9, 0, 0, 0, time.UTC)
	before, after := third.AddDate(0, 0, -7), third.AddDate(0, 0, 7)
	for name, c := range map[string]struct {
		e                     meeting.Event
		before, third, behind bool
	}{
		"all of it":           {meeting.Event{}, true, true, true},
		"one":                 {meeting.Event{Recurrence: third}, false, true, false},
		"that and all behind": {meeting.Event{Recurrence: third, Following: true}, false, true, true},
	} {
		assert.Equal(t, c.before, c.e.Means(before), name)
		assert.Equal(t, c.third, c.e.Means(third), name)
		assert.Equal(t, c.behind, c.e.Means(after), name)
	}
	assert.True(t, meeting.Event{}.Means(time.Time{}), "one that stands alone")
	assert.False(t, meeting.Event{Recurrence: third}.Means(time.Time{}))
}

// Each time of a series lasts as the first one does: hours as hours, days as
// days, also where the clocks go back between midnight and midnight.
func TestOneOfASeries(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := when.Calendar{Zone: oslo}
	first := time.Date(2026, 10, 17, 0, 0, 0, 0, oslo)
	days := meeting.Event{Start: when.OnDay(when.Date{Year: 2026, Month: 10, Day: 17}, c), End: first.AddDate(0, 0, 2)}
	back := time.Date(2026, 10, 24, 0, 0, 0, 0, oslo) // its second day has 25 hours
	one := days.On(back, c)
	assert.Equal(t, back.AddDate(0, 0, 2).UTC(), one.End.UTC())
	assert.Equal(t, when.ToDay, one.Start.Precision)
	assert.Equal(t, back.UTC(), one.Recurrence.UTC())

	hour := meeting.Event{Start: when.Exact(first.Add(10*time.Hour), c), End: first.Add(11 * time.Hour), Series: &meeting.Series{}}
	one = hour.On(back.AddDate(0, 0, 1).Add(11*time.Hour), c)
	assert.Equal(t, time.Hour, one.End.Sub(one.Start.UTC))
	assert.Nil(t, one.Series)
}
