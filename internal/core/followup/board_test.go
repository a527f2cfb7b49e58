package followup

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

func boardCalendar(t require.TestingT) (when.Calendar, time.Time) {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := when.Standard(zone)
	return c, c.Instant(when.Date{Year: 2026, Month: time.November, Day: 24}, when.At(11, 0))
}

// What is put into a lane stands there, in every layout, and nowhere else.
func TestWhatIsPutIntoALaneStandsThere(t *testing.T) {
	c, now := boardCalendar(t)
	stages := []NamedStage{{ID: 1, Name: "to pack"}, {ID: 2, Name: "packed"}}
	keys := map[Layout][]string{
		ByDue: {string(Today), string(ThisWeek), string(Someday)}, ByStage: {"0", "1", "2"}, ByPriority: {"urgent", "high", "normal", "low"},
		ByPerson: {"Bram", "Tove"}, ByProject: {"", "loan"}, ByContext: {"", "phone"},
	}
	rapid.Check(t, func(rt *rapid.T) {
		card := Card{
			ID: 7, Priority: rapid.SampledFrom([]Priority{Urgent, High, Normal, Low}).Draw(rt, "priority"), Status: Open,
			Stage: rapid.Int64Range(0, 2).Draw(rt, "stage"), Assignee: rapid.SampledFrom([]string{"", "Oda"}).Draw(rt, "assignee"),
			Sender: rapid.SampledFrom([]string{"", "Bram"}).Draw(rt, "sender"), Project: rapid.SampledFrom([]string{"", "frost"}).Draw(rt, "project"),
		}
		if rapid.Bool().Draw(rt, "dated") {
			due := when.OnDay(c.Today(now).Add(rapid.IntRange(-3, 60).Draw(rt, "due")), c)
			card.Due = &due
		}
		by := rapid.SampledFrom([]Layout{ByDue, ByStage, ByPriority, ByPerson, ByProject, ByContext}).Draw(rt, "by")
		key := rapid.SampledFrom(keys[by]).Draw(rt, "key")
		put, err := card.PutInto(by, key, now, c)
		require.NoError(rt, err)
		for _, lane := range LayOut([]Card{put}, by, stages, now, c) {
			if (len(lane.IDs) == 1) != (lane.Key == key) {
				rt.Fatalf("put into %s %q, it stands in %q: %v", by, key, lane.Key, lane.IDs)
			}
		}
	})
}

// By due, what is due first stands first; what is due together stands in the
// order of work.
func TestLanesByDueAreSortedByDue(t *testing.T) {
	c, now := boardCalendar(t)
	day := func(away int) *when.Moment { m := when.OnDay(c.Today(now).Add(away), c); return &m }
	list := []Card{{ID: 1, Due: day(20)}, {ID: 2, Due: day(9)}, {ID: 3}, {ID: 4, Due: day(9)}, {ID: 5, Due: day(8)}}
	var ids []int64
	for _, lane := range LayOut(list, ByDue, nil, now, c) {
		ids = append(ids, lane.IDs...)
	}
	assert.Equal(t, []int64{5, 2, 4, 1, 3}, ids)
	assert.Equal(t, int64(1), list[0].ID, "the list itself stays as it is")
}

func TestLanesThatTakeNothing(t *testing.T) {
	c, now := boardCalendar(t)
	for name, lane := range map[string]struct {
		by        Layout
		key, says string
	}{
		"late":               {ByDue, string(Overdue), "name a day"},
		"further on":         {ByDue, string(Further), "name the day"},
		"no such group":      {ByDue, "yesterday", "no lane"},
		"no such stage":      {ByStage, "packing", "no such stage"},
		"the order of work":  {ByOrder, "", "nothing can be put"},
		"an unknown layout":  {"colour", "red", "nothing can be put"},
		"a month that is up": {ByDue, string(ThisMonth), "name a day"},
	} {
		at := now
		if name == "a month that is up" {
			at = c.Instant(when.Date{Year: 2026, Month: time.November, Day: 30}, when.At(9, 0))
		}
		_, err := Card{}.PutInto(lane.by, lane.key, at, c)
		assert.ErrorContains(t, err, lane.says, name)
	}
}
