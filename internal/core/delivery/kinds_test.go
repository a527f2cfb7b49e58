package delivery

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

func TestRoundsOfKindsAreReadAndPrinted(t *testing.T) {
	for text, want := range map[string]string{
		"reading: fri 15:00":                       "reading: fri 15:00",
		"Reading : friday 15":                      "reading: fri 15:00",
		"notices: daily 8, 17:30":                  "notices: mon-sun 8:00, 17:30",
		"reading: mon-thu 9; sat 10:30\nmon 16":    "mon 16:00\nreading: mon-thu 9:00; sat 10:30",
		"copies: fri 9, 9:00\nreading: mon 8":      "reading: mon 8:00\ncopies: fri 9:00",
		"reading: fri 15\nreading: mon 15; fri 15": "reading: mon, fri 15:00",
	} {
		p, err := ReadPlan(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, p.String(), text)
		require.NoError(t, p.Check(when.Standard(time.UTC)), text)
	}
	for text, why := range map[string]string{
		"reading:":                   "when it comes up",
		"reading: 15:00":             "starts with no day",
		"reading: fri":               "no time of day",
		"reading: fri quiet 9-11":    "only times",
		"reading: fri 25:00":         "no time of day",
		"people: fri 15":             "starts with no day",
		"reading: fri 15; 17":        "starts with no day",
		"receipts: fri closed 15-16": "only times",
	} {
		_, err := ReadPlan(text)
		assert.ErrorContains(t, err, why, text)
	}
	assert.ErrorContains(t, Plan{Kinds: []KindRound{{sorting.Person, time.Friday, 900}}}.Check(when.Standard(time.UTC)), "no kind of the Shallows")
	assert.ErrorContains(t, Plan{Kinds: []KindRound{{sorting.Reading, 9, 900}}}.Check(when.Standard(time.UTC)), "outside the week")
	p, err := ReadPlan("reading: fri 15")
	require.NoError(t, err)
	assert.True(t, p.Flows(), "it holds nothing")
	assert.False(t, p.Empty())
}

// What a plan says of kinds is read as it is printed, whatever it is.
func TestRoundsOfKindsAreReadAsTheyArePrinted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kinds := []sorting.Kind{sorting.Receipts, sorting.Notices, sorting.Reading, sorting.Meetings, sorting.Copies}
		var p Plan
		for range rapid.IntRange(0, 12).Draw(t, "rounds") {
			p.Kinds = append(p.Kinds, KindRound{rapid.SampledFrom(kinds).Draw(t, "kind"), time.Weekday(rapid.IntRange(0, 6).Draw(t, "day")), when.Minute(rapid.IntRange(0, 1439).Draw(t, "at"))})
		}
		again, err := ReadPlan(p.String())
		require.NoError(t, err, p.String())
		assert.Equal(t, p.Tidy().Kinds, again.Kinds)
	})
}

func TestKindsComeUpAtTheirTimes(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	p, err := ReadPlan("reading: fri 15:00\nnotices: fri 15:00; daily 8\nreceipts: sun 2:30\ndaily closed 9-17")
	require.NoError(t, err)
	g := NewGate(p, when.Standard(berlin))
	at := func(text string) time.Time {
		out, err := time.ParseInLocation("2006-01-02 15:04", text, berlin)
		require.NoError(t, err)
		return out
	}
	for _, c := range []struct {
		after, at string
		kinds     []sorting.Kind
	}{
		{"2026-11-27 14:59", "2026-11-27 15:00", []sorting.Kind{sorting.Notices, sorting.Reading}}, // in closed time: it is shown later
		{"2026-11-27 15:00", "2026-11-28 08:00", []sorting.Kind{sorting.Notices}},
		{"2026-11-28 08:00", "2026-11-29 02:30", []sorting.Kind{sorting.Receipts}},
		// In the night in which the clock goes on, 2:30 is when the hour is over; when it goes back, the first 2:30.
		{"2027-03-27 20:00", "2027-03-28 03:00", []sorting.Kind{sorting.Receipts}},
		{"2026-10-24 20:00", "2026-10-25 02:30", []sorting.Kind{sorting.Receipts}},
	} {
		next, kinds := g.NextKinds(at(c.after))
		assert.Equal(t, c.at, next.In(berlin).Format("2006-01-02 15:04"), c.after)
		assert.Equal(t, c.kinds, kinds, c.after)
	}
	next, _ := NewGate(Plan{}, when.Standard(berlin)).NextKinds(at("2026-11-27 14:59"))
	assert.Zero(t, next)
}
