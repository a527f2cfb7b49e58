package decide_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/when"
)

// What lies in the Shallows comes up two working days before a day that was found in it.
func TestDangerDoesNotLieUnseen(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	assert.NoError(t, err)
	c := when.Standard(zone)
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, zone) // a Tuesday
	on := func(day int) when.Date { return when.Date{Year: 2026, Month: time.December, Day: day} }
	today := c.Today(now)
	has := &decide.Return{Due: "2026-12-03"}
	for _, x := range []struct {
		name   string
		place  decide.Place
		has    *decide.Return
		due    when.Date
		byHand bool
		want   string // the day on which it comes up; "" where nothing changes
	}{
		{"within the week", decide.Shallows, nil, on(3), false, "2026-12-01"},
		{"over a weekend", decide.Shallows, nil, on(1), false, "2026-11-27"},
		{"on a sunday", decide.Shallows, nil, on(6), false, "2026-12-03"},
		{"tomorrow: at once", decide.Shallows, nil, today.Add(1), false, "2026-11-23"},
		{"today: at once", decide.Shallows, nil, today, false, "2026-11-20"},
		{"passed", decide.Shallows, nil, today.Add(-1), false, ""},
		{"by hand, and near", decide.Shallows, nil, today.Add(1), true, ""},
		{"by hand, and far", decide.Shallows, nil, on(3), true, "2026-12-01"},
		{"an earlier one counts", decide.Shallows, has, on(2), false, "2026-11-30"},
		{"a later one doesn’t", decide.Shallows, has, on(4), false, ""},
		{"in the inbox it is seen", decide.Inbox, nil, on(3), false, ""},
		{"decided on", decide.Archive, nil, on(3), false, ""},
	} {
		changes := decide.ComesUp(decide.State{ID: 1, Place: x.place, Return: x.has}, x.due, x.byHand, now, c)
		if x.want == "" {
			assert.Empty(t, changes, x.name)
			continue
		}
		if assert.Len(t, changes, 1, x.name) {
			ret, _ := decide.Conversation.Return.Now(changes[0])
			assert.Equal(t, x.want, ret.When.Day(c).String(), x.name)
			assert.Equal(t, x.due.String(), ret.Due, x.name)
		}
	}
}
