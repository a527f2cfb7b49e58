package meeting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

var tuesday = time.Date(2026, 12, 1, 9, 0, 0, 0, time.UTC)

// week is the time of a weekly series that many weeks from the first.
func week(n int) time.Time { return tuesday.AddDate(0, 0, 7*n) }

// one is one of a series at a week, moved by so many hours.
func one(n, sequence int, moved time.Duration) meeting.Kept {
	at := week(n).Add(moved)
	return meeting.Kept{Made: true, Event: meeting.Event{
		UID: "walk@x.example", Sequence: sequence, Recurrence: week(n), Start: when.Moment{UTC: at, Precision: when.ToMinute}, End: at.Add(time.Hour),
		Organizer: letter.Address{Email: "Oda@school.example"},
	}}
}

// single stands by itself.
func single(sequence int) meeting.Kept {
	k := one(1, sequence, 0)
	k.Made, k.Recurrence = false, time.Time{}
	return k
}

func TestTakeOne(t *testing.T) {
	for name, c := range map[string]struct {
		e        meeting.Event
		kept     []meeting.Kept
		at       int
		sequence int
		title    string
	}{
		"a new one":                           {meeting.Event{Title: "New"}, nil, -1, 0, "New"},
		"newer":                               {meeting.Event{Title: "New", Sequence: 2}, []meeting.Kept{single(1)}, 0, 2, "New"},
		"the same once more":                  {meeting.Event{Title: "New", Sequence: 1}, []meeting.Kept{single(1)}, 0, 1, "New"},
		"older":                               {meeting.Event{Title: "Old"}, []meeting.Kept{single(1)}, 0, 1, ""},
		"one of a series":                     {meeting.Event{Title: "New", Recurrence: week(2)}, []meeting.Kept{one(1, 0, 0), one(2, 0, 0)}, 1, 0, "New"},
		"one that no rule makes":              {meeting.Event{Title: "New", Recurrence: week(5)}, []meeting.Kept{one(1, 0, 0)}, -1, 0, "New"},
		"all of what was a series, now alone": {meeting.Event{Title: "New", Sequence: 1}, []meeting.Kept{one(1, 0, 0), one(2, 0, 0)}, -1, 1, "New"},
	} {
		at, now := meeting.TakeOne(c.e, c.kept)
		assert.Equal(t, c.at, at, name)
		assert.Equal(t, c.sequence, now.Sequence, name)
		assert.Equal(t, c.title, now.Title, name)
		assert.Equal(t, c.e.Recurrence, now.Recurrence, name)
	}
}

func TestTakeSeries(t *testing.T) {
	times := []time.Time{week(0), week(1), week(2), week(3)}
	now := week(0).Add(2 * time.Hour) // the first is over
	stays, renewed, goes := meeting.Stays, meeting.Renewed, meeting.Goes
	for name, c := range map[string]struct {
		sequence int
		kept     []meeting.Kept
		apart    time.Time
		fates    []meeting.Fate // nil: the message is older
	}{
		"nothing is kept":                      {0, nil, time.Time{}, []meeting.Fate{}},
		"the same once more":                   {0, []meeting.Kept{one(0, 0, 0), one(1, 0, 0)}, time.Time{}, []meeting.Fate{stays, renewed}},
		"an older message":                     {0, []meeting.Kept{one(1, 1, 0)}, time.Time{}, nil},
		"no longer among its times":            {1, []meeting.Kept{one(9, 0, 0)}, time.Time{}, []meeting.Fate{goes}},
		"over, and no longer among its times":  {1, []meeting.Kept{one(-3, 0, 0)}, time.Time{}, []meeting.Fate{stays}},
		"one moved before, by the same":        {1, []meeting.Kept{one(2, 1, time.Hour)}, time.Time{}, []meeting.Fate{stays}},
		"one moved before, since all is new":   {2, []meeting.Kept{one(2, 1, time.Hour)}, time.Time{}, []meeting.Fate{goes}},
		"one moved later than all was changed": {1, []meeting.Kept{one(1, 0, 0), one(2, 5, time.Hour)}, time.Time{}, []meeting.Fate{renewed, stays}},
		"one that the message names by itself": {1, []meeting.Kept{one(2, 0, 0)}, week(2), []meeting.Fate{stays}},
		"it stood alone":                       {1, []meeting.Kept{single(0)}, time.Time{}, []meeting.Fate{goes}},
		"one of it came before the rest":       {0, []meeting.Kept{func() meeting.Kept { k := one(2, 0, 0); k.Made = false; return k }()}, time.Time{}, []meeting.Fate{renewed}},
	} {
		fates, ok := meeting.TakeSeries(meeting.Event{Sequence: c.sequence}, c.kept, times, func(at time.Time) bool { return at.Equal(c.apart) }, now)
		assert.Equal(t, c.fates != nil, ok, name)
		assert.Equal(t, c.fates, fates, name)
	}
}

func TestTakeCancel(t *testing.T) {
	kept := []meeting.Kept{one(1, 1, 0), one(2, 1, 0), one(3, 1, 0)}
	mine := one(1, 1, 0)
	mine.Mine = true
	for name, c := range map[string]struct {
		e    meeting.Event
		from string
		kept []meeting.Kept
		off  []int
		over bool
	}{
		"all":             {meeting.Event{Sequence: 1}, "oda@school.example", kept, []int{0, 1, 2}, true},
		"one":             {meeting.Event{Sequence: 2, Recurrence: week(2)}, "oda@school.example", kept, []int{1}, false},
		"that and behind": {meeting.Event{Sequence: 2, Recurrence: week(2), Following: true}, "oda@school.example", kept, []int{1, 2}, true},
		"older":           {meeting.Event{}, "oda@school.example", kept, nil, false},
		"from a stranger": {meeting.Event{Sequence: 9}, "else@school.example", kept, nil, false},
		"of my own":       {meeting.Event{Sequence: 9}, "oda@school.example", []meeting.Kept{mine}, nil, false},
	} {
		off, over := meeting.TakeCancel(c.e, c.from, c.kept)
		assert.Equal(t, c.off, off, name)
		assert.Equal(t, c.over, over, name)
	}
}
