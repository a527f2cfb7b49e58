package core_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC) // a Tuesday

func TestFollowUpsStandInTheirLane(t *testing.T) {
	c := when.Standard(time.UTC)
	cases := map[string]followup.Group{
		"today": followup.Today, "today 13:00": followup.Today, "tomorrow": followup.ThisWeek, "sun": followup.ThisWeek,
		"next week": followup.ThisMonth, "mon 30 nov": followup.ThisMonth, "tue": followup.Further, "someday": followup.Someday,
	}
	for phrase, want := range cases {
		r, err := when.Read(phrase, noon, c)
		require.NoError(t, err, phrase)
		assert.Equal(t, want, followup.GroupOf(&r.Moment, noon, c), phrase)
	}
	assert.Equal(t, followup.Someday, followup.GroupOf(nil, noon, c))
	day := when.OnDay(when.Date{Year: 2026, Month: 11, Day: 24}, c)
	for hours, want := range map[int]followup.Group{0: followup.Today, 15: followup.Today, 16: followup.Overdue} {
		// A due day is overdue when the next day begins, at 04:00.
		assert.Equal(t, want, followup.GroupOf(&day, noon.Add(time.Duration(hours)*time.Hour), c), hours)
	}
	minute := when.Exact(noon, c)
	assert.Equal(t, followup.Overdue, followup.GroupOf(&minute, noon.Add(time.Minute), c))
	assert.Equal(t, followup.Today, followup.GroupOf(&minute, noon, c))
}

func TestHold(t *testing.T) {
	until := noon.Add(time.Hour)
	timed, open := &delivery.Hold{From: noon, Until: &until}, &delivery.Hold{From: noon}
	var none *delivery.Hold
	assert.False(t, none.Covers(noon))
	assert.False(t, timed.Covers(noon.Add(-1)))
	assert.True(t, timed.Covers(noon))
	assert.False(t, timed.Covers(until), "the end is not part of it")
	assert.False(t, open.Asks(noon.Add(11*time.Hour)))
	assert.True(t, open.Asks(noon.Add(12*time.Hour)))
}

func TestTide(t *testing.T) {
	minute := func(m int) time.Time { return noon.Add(time.Duration(m) * time.Minute) }
	var minutes []review.Minute
	for _, m := range []struct{ minute, step int }{{5, 2}, {10, -1}, {12, -1}, {13, -1}, {20, 1}, {30, -1}} {
		one := review.Minute{}
		require.True(t, one.Add(minute(m.minute), m.step))
		minutes = append(minutes, one)
	}
	tide := review.TideOf(noon, minute(60), 0, minutes)
	assert.Equal(t, 3, tide.High)
	assert.Equal(t, []review.Point{{At: noon, Count: 1}, {At: minute(5), Count: 3}, {At: minute(10), Count: 2}, {At: minute(12), Count: 1},
		{At: minute(13), Count: 0}, {At: minute(20), Count: 1}, {At: minute(30), Count: 0}, {At: minute(60), Count: 0}}, tide.Curve)
	assert.Equal(t, []time.Time{minute(13), minute(30)}, tide.Zeros)
	assert.Empty(t, review.TideOf(noon, minute(1), 0, nil).Zeros, "empty all day is no low water")
}
