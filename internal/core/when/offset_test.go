package when_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

func TestOffsets(t *testing.T) {
	at := func(day string) time.Time {
		m, err := time.Parse(time.DateOnly, day)
		require.NoError(t, err)
		return m
	}
	for _, c := range []struct {
		zone    string
		from    string
		minutes []int
	}{
		{"Europe/Copenhagen", "2026-01-01", []int{60, 120, 60}},
		{"Asia/Kathmandu", "2026-01-01", []int{345}},
		{"America/St_Johns", "2026-01-01", []int{-210, -150, -210}},
		{"Africa/Casablanca", "2026-01-01", []int{60, 0, 60}}, // an hour back for Ramadan
		{"UTC", "2026-01-01", []int{0}},
		// Past the years that a zone's file lists, over the end of a leap year.
		{"Europe/Copenhagen", "2040-12-01", []int{60, 120, 60}},
		{"Australia/Lord_Howe", "2044-12-01", []int{660, 630, 660}},
	} {
		zone, err := time.LoadLocation(c.zone)
		require.NoError(t, err)
		var minutes []int
		for _, o := range when.Offsets(zone, at(c.from), at(c.from).AddDate(1, 0, 0)) {
			minutes = append(minutes, o.Minutes)
		}
		assert.Equal(t, c.minutes, minutes, c.zone)
	}
}

// Every moment has one offset, and it is what the zone says.
func TestOffsetsCoverEveryMoment(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone, err := time.LoadLocation(rapid.SampledFrom([]string{"Europe/Berlin", "Australia/Lord_Howe", "America/New_York", "Africa/Cairo", "Asia/Tokyo"}).Draw(t, "zone"))
		require.NoError(t, err)
		from := time.Unix(rapid.Int64Range(0, 4e9).Draw(t, "from"), 0)
		length := rapid.Int64Range(1, 800*86400).Draw(t, "length")
		at := from.Add(time.Duration(rapid.Int64Range(0, length-1).Draw(t, "at")) * time.Second)
		in := 0
		for _, o := range when.Offsets(zone, from, from.Add(time.Duration(length)*time.Second)) {
			if at.Before(o.From) || !at.Before(o.To) {
				continue
			}
			in++
			_, seconds := at.In(zone).Zone()
			assert.Equal(t, seconds/60, o.Minutes)
		}
		assert.Equal(t, 1, in)
	})
}

// A change is one to the second, in every zone and to the end of the next century.
func TestAChangeIsOne(t *testing.T) {
	for _, name := range []string{"Europe/Berlin", "Australia/Lord_Howe", "America/New_York", "Africa/Cairo", "Asia/Tokyo", "Africa/Casablanca", "Pacific/Apia"} {
		zone, err := time.LoadLocation(name)
		require.NoError(t, err)
		for at := time.Unix(0, 0).In(zone); at.Year() < 2200; {
			next, changes := when.ChangeAfter(at)
			if !changes {
				break
			}
			require.True(t, next.After(at), "%s after %s", name, at)
			_, was := next.Add(-time.Second).Zone()
			_, is := next.Zone()
			require.NotEqual(t, was, is, "%s at %s", name, next)
			at = next
		}
	}
}
