package when

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

// Tuesday 24 November 2026, 11:06 in Oslo.
func tuesday(t testing.TB) (time.Time, Calendar) {
	c := Standard(zone(t, "Europe/Oslo"))
	return time.Date(2026, 11, 24, 11, 6, 20, 0, c.Zone), c
}

func TestRead(t *testing.T) {
	now, c := tuesday(t)
	cases := []struct {
		phrase, want string
		precision    Precision
	}{
		{"fri", "2026-11-27 08:30", ToDay},
		{"Friday", "2026-11-27 08:30", ToDay},
		{"tue", "2026-12-01 08:30", ToDay}, // never today
		{"fri 2pm", "2026-11-27 14:00", ToMinute},
		{"fri 2 pm", "2026-11-27 14:00", ToMinute},
		{"fri at 2", "2026-11-27 14:00", ToMinute},
		{"fri 10", "2026-11-27 10:00", ToMinute},
		{"fri 3", "2026-11-27 15:00", ToMinute}, // 1 to 6 is afternoon
		{"fri 1:30", "2026-11-27 13:30", ToMinute},
		{"fri 01:30", "2026-11-27 01:30", ToMinute}, // written as night
		{"fri 12am", "2026-11-27 00:00", ToMinute},
		{"fri 12pm", "2026-11-27 12:00", ToMinute},
		{"mon morning", "2026-11-30 08:30", ToDay},
		{"thu afternoon", "2026-11-26 14:00", ToDay},
		{"noon", "2026-11-24 12:00", ToDay},
		{"tomorrow", "2026-11-25 08:30", ToDay},
		{"tomorrow evening", "2026-11-25 18:00", ToDay},
		{"day after tomorrow", "2026-11-26 08:30", ToDay},
		{"tonight", "2026-11-24 18:00", ToDay},
		{"this evening", "2026-11-24 18:00", ToDay},
		{"today 16:00", "2026-11-24 16:00", ToMinute},
		{"today", "2026-11-24 17:30", ToDay},
		{"14:00", "2026-11-24 14:00", ToMinute},
		{"9:00", "2026-11-25 09:00", ToMinute}, // passed today
		{"morning", "2026-11-25 08:30", ToDay},
		{"3d", "2026-11-27 08:30", ToDay},
		{"in 3 days", "2026-11-27 08:30", ToDay},
		{"2w", "2026-12-08 08:30", ToDay},
		{"in two weeks", "2026-12-08 08:30", ToDay},
		{"a month", "2026-12-24 08:30", ToDay},
		{"in 3 hours", "2026-11-24 14:06", ToMinute},
		{"90 min", "2026-11-24 12:36", ToMinute},
		{"an hour", "2026-11-24 12:06", ToMinute},
		{"2 hours 15 minutes", "2026-11-24 13:21", ToMinute},
		{"weekend", "2026-11-28 08:30", ToDay},
		{"next week", "2026-11-30 08:30", ToDay},
		{"next fri", "2026-12-04 08:30", ToDay},
		{"next month", "2026-12-01 08:30", ToDay},
		{"next year", "2027-01-01 08:30", ToDay},
		{"end of week", "2026-11-27 17:30", ToDay},
		{"end of the month", "2026-11-30 17:30", ToDay},
		{"end of year", "2026-12-31 17:30", ToDay},
		{"end of day", "2026-11-24 17:30", ToDay},
		{"eow", "2026-11-27 17:30", ToDay},
		{"2026-12-03", "2026-12-03 08:30", ToDay},
		{"2026-12-03T14:05", "2026-12-03 14:05", ToMinute},
		{"2026-12-03T14:05Z", "2026-12-03 15:05", ToMinute},
		{"2026-12-03 14:05 -05:00", "2026-12-03 20:05", ToMinute},
		{"3 dec", "2026-12-03 08:30", ToDay},
		{"dec 3rd at 4", "2026-12-03 16:00", ToMinute},
		{"3rd of december 10:15", "2026-12-03 10:15", ToMinute},
		{"3 feb", "2027-02-03 08:30", ToDay}, // the next occurrence
		{"29 feb", "2028-02-29 08:30", ToDay},
		{"the 13th 1:30", "2026-12-13 13:30", ToMinute},
		{"31st", "2026-12-31 08:30", ToDay},
		{"Fri 27 Nov 2026 14:00", "2026-11-27 14:00", ToMinute},
		{"  FRI,  2PM. ", "2026-11-27 14:00", ToMinute},
	}
	for _, k := range cases {
		r, err := Read(k.phrase, now, c)
		if assert.NoError(t, err, k.phrase) {
			assert.Equal(t, k.want, r.UTC.In(c.Zone).Format("2006-01-02 15:04"), k.phrase)
			assert.Equal(t, k.precision, r.Precision, k.phrase)
		}
	}
}

func TestReadAtOtherMoments(t *testing.T) {
	_, c := tuesday(t)
	cases := []struct{ now, phrase, want string }{
		// Before the day turns it is still the day before.
		{"2026-11-25 01:30", "tomorrow", "2026-11-25 08:30"},
		{"2026-11-25 01:30", "3d", "2026-11-27 08:30"},
		{"2026-11-25 01:30", "wed", "2026-11-25 08:30"},
		{"2026-11-25 01:30", "02:00", "2026-11-25 02:00"},
		{"2026-11-25 04:00", "tomorrow", "2026-11-26 08:30"},
		{"2026-11-28 07:00", "weekend", "2026-12-05 08:30"},
		{"2026-11-29 09:00", "next week", "2026-11-30 08:30"},
		{"2026-11-27 17:30", "end of week", "2026-12-04 17:30"},
		{"2026-11-30 18:00", "end of month", "2026-12-31 17:30"},
		{"2026-12-31 20:00", "end of year", "2027-12-31 17:30"},
		{"2026-01-31 09:00", "a month", "2026-02-28 08:30"},
		// The clock jumps from 02:00 to 03:00 on 28 March 2027.
		{"2027-03-27 12:00", "tomorrow 02:30", "2027-03-28 03:30"},
		// 02:30 comes twice on 25 October 2026; the first one counts.
		{"2026-10-24 12:00", "tomorrow 02:30", "2026-10-25 02:30"},
		{"2026-10-24 12:00", "tomorrow 02:30 +01:00", "2026-10-25 02:30"},
		{"2026-10-25 00:30", "in 3 hours", "2026-10-25 02:30"},
	}
	for _, k := range cases {
		now, err := time.ParseInLocation("2006-01-02 15:04", k.now, c.Zone)
		require.NoError(t, err)
		r, err := Read(k.phrase, now, c)
		if assert.NoError(t, err, k.phrase) {
			assert.Equal(t, k.want, r.UTC.In(c.Zone).Format("2006-01-02 15:04"), "%s at %s", k.phrase, k.now)
		}
	}
}

func TestDoubledHour(t *testing.T) {
	_, c := tuesday(t)
	now := time.Date(2026, 10, 24, 12, 0, 0, 0, c.Zone)
	first, err := Read("tomorrow 02:30", now, c)
	require.NoError(t, err)
	assert.Equal(t, "2026-10-25T00:30:00Z", first.UTC.Format(time.RFC3339))
	assert.Equal(t, "Sun 25 Oct 2026 02:30 +02:00", first.Canonical)
	second, err := Read("Sun 25 Oct 2026 02:30 +01:00", now, c)
	require.NoError(t, err)
	assert.Equal(t, "2026-10-25T01:30:00Z", second.UTC.Format(time.RFC3339))
	assert.Equal(t, second.UTC, second.In(c).UTC, "recomputing keeps the second reading")
}

func TestReadRefuses(t *testing.T) {
	now, c := tuesday(t)
	for _, phrase := range []string{
		"", "   ", "soonish", "today 09:00", "2025-12-03", "3 dec 2020", "31 nov", "30 feb", "0d", "0 hours",
		"25:00", "13pm", "14:75", "mon tue", "noon 14:00", "fri in 3 hours", "someday fri", "end of", "end of story",
		"99999d", "99999999d", "the", "at", "now", "2026-13-01", "9999-12-31", "in 99999 years", "0th",
	} {
		r, err := Read(phrase, now, c)
		var refusal *Error
		assert.ErrorAs(t, err, &refusal, "%q read as %v", phrase, r.Canonical)
	}
}

func TestNotesSayWhatWasAssumed(t *testing.T) {
	now, c := tuesday(t)
	r, err := Read("3 feb", now, c)
	require.NoError(t, err)
	assert.Equal(t, []string{"no year given: 2027"}, r.Notes)
	r, err = Read("9:00", now, c)
	require.NoError(t, err)
	assert.Equal(t, []string{"that has passed today: tomorrow"}, r.Notes)
}

func TestMomentFollowsTheZone(t *testing.T) {
	now, c := tuesday(t)
	r, err := Read("fri 2pm", now, c)
	require.NoError(t, err)
	c.Zone = zone(t, "America/New_York")
	assert.Equal(t, "2026-11-27T19:00:00Z", r.In(c).UTC.Format(time.RFC3339), "wall-clock time is what was meant")
}

func TestProposalsLieAheadAndDiffer(t *testing.T) {
	now, c := tuesday(t)
	for hour := range 24 * 7 {
		at := now.Add(time.Duration(hour) * time.Hour)
		seen := map[string]bool{}
		for _, p := range Propose(at, c) {
			assert.False(t, seen[p.Canonical], p.Canonical)
			seen[p.Canonical] = true
			if p.Precision != Open {
				assert.True(t, p.UTC.After(at), p.Canonical)
			}
		}
		assert.GreaterOrEqual(t, len(seen), 4)
	}
}

func TestSpeak(t *testing.T) {
	now, c := tuesday(t)
	for phrase, want := range map[string]string{
		"14:00": "today 14:00", "tomorrow": "tomorrow 08:30", "fri 2pm": "Fri 27 Nov, 14:00",
		"next year": "Fri 1 Jan 2027, 08:30", "someday": "someday",
	} {
		r, err := Read(phrase, now, c)
		require.NoError(t, err)
		assert.Equal(t, want, Speak(r.Moment, now, c))
	}
}
