package show_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

func (d *desk) ahead() show.AheadView {
	d.Helper()
	out, err := d.Ahead(d.Context(), d.who)
	require.NoError(d, err)
	return out
}

// pass moves the clock and lets happen what falls due.
func (d *desk) pass(by time.Duration) {
	d.Helper()
	d.clock.Advance(by)
	_, err := d.RunDue(d.Context())
	require.NoError(d, err)
}

// Ahead has all that is to come, in the order in which it comes, in groups that
// become wider the farther away they are.
func TestAheadInItsOrder(t *testing.T) {
	d := begin(t)
	d.receive(8)
	rows := d.inbox()
	for i, phrase := range []string{"in 2 hours", "tomorrow", "mon", "in 20 days", "in 100 days", "someday"} {
		d.decide(decide.PutOff, phrase, rows[i])
	}
	d.follow("Call Bram", "wed 10:00", 15)
	remind := []string{"thu 9:00"}
	title := "Sign form 7"
	_, err := d.NewFollowUp(t.Context(), d.who, crand(), app.FollowUpFields{Title: &title, Remind: &remind})
	require.NoError(t, err)
	_, err = d.NewAppointment(t.Context(), d.who, crand(), app.AppointmentFields{Title: ptr("Panes"), When: ptr("fri 10-12")}, 0)
	require.NoError(t, err)

	out := d.ahead()
	kinds := map[string]int{}
	for i, e := range out.Entries {
		kinds[e.Kind]++
		if e.At == nil {
			assert.Equal(t, len(out.Entries)-1, i, "what has no date stands last")
			continue
		}
		if i > 0 {
			assert.False(t, e.At.Before(*out.Entries[i-1].At))
		}
		reading := d.ask(show.Asking{Phrase: e.Phrase, Plain: true}).Reading
		require.NotNil(t, reading, "the phrase to edit it by is read: %s", e.Phrase)
		assert.Equal(t, e.At.UTC(), reading.At.UTC(), "and means when it comes")
	}
	assert.Equal(t, map[string]int{"return": 6, "due": 1, "reminder": 1, "appointment": 1}, kinds)

	labels, counted := []string{}, 0
	for i, g := range out.Groups {
		labels = append(labels, g.Label)
		counted += g.Count
		for _, e := range out.Entries {
			if e.Group == i && g.Day != "" {
				assert.NotNil(t, g.Load, "a day says how full it is")
			}
		}
	}
	assert.Equal(t, len(out.Entries), counted)
	assert.Equal(t, []string{
		"Today, Tuesday 24 November", "Tomorrow, Wednesday 25 November", "Thursday 26 November", "Friday 27 November", "Monday 30 November",
		"Week 51, 14 Dec to 20 Dec", "March 2027", "No date",
	}, labels)
	assert.False(t, out.Groups[0].Fold)
	assert.True(t, out.Groups[5].Fold, "what is far is folded")
	assert.NotEmpty(t, out.Groups[7].Note, "and what has no date says what happens to it")
}

// What came due under a hold is still to come: with the next delivery.
func TestWhatIsDueUnderAHoldIsStillAhead(t *testing.T) {
	d := begin(t)
	d.receive(1)
	d.decide(decide.PutOff, "tomorrow", d.inbox()[0]) // a minute would come through the hold, a day waits
	_, err := d.Hold(t.Context(), d.who, crand(), app.Holding{Until: "thu 12:00"})
	require.NoError(t, err)
	d.pass(49 * time.Hour)
	out := d.ahead()
	require.Len(t, out.Entries, 1)
	assert.Equal(t, "With the next delivery", out.Groups[0].Label)
	d.pass(3 * time.Hour)
	assert.Empty(t, d.ahead().Entries)
	assert.Len(t, d.inbox(), 1)
}

// A letter that was put off before says how often.
func TestPutOffAgainAndAgain(t *testing.T) {
	d := begin(t)
	d.receive(1)
	d.decide(decide.PutOff, "in 10 min", d.inbox()[0])
	assert.Empty(t, d.ahead().Entries[0].Note)
	d.pass(11 * time.Minute)
	d.decide(decide.PutOff, "in 10 min", d.inbox()[0])
	assert.Equal(t, "put off 2 times", d.ahead().Entries[0].Note)
	d.pass(11 * time.Minute)
	row := d.inbox()[0]
	assert.True(t, row.Often, "before the third time it is asked")
	require.NotNil(t, row.Same)
	assert.Contains(t, row.Same.Words, "today 08:5", "as long again")
}

// The day line tells of the day as it was and is expected to be: what is due on it
// and what was decided, and it is wide enough for all of it.
func TestTheDayLineHoldsTheDay(t *testing.T) {
	d := begin(t)
	d.receive(10)
	rows := d.inbox()
	d.clock.Advance(time.Minute)
	d.decide(decide.PutOff, "today 23:10", rows[0])
	d.decide(decide.PutOff, "today 10:00", rows[1])
	d.decide(decide.Done, "", rows[2:9]...)
	today, err := d.Day(t.Context(), d.who, 0)
	require.NoError(t, err)
	assert.Equal(t, "2026-11-24", today.Date)
	assert.Equal(t, "Tuesday 24 November", today.Label)
	require.Len(t, today.Marks, 2)
	for _, m := range today.Marks {
		assert.False(t, m.At.Before(today.Start) || m.At.After(today.End), "%s is on the line", m.Words)
	}
	assert.False(t, today.Now.Before(today.Start))
	assert.Equal(t, 10, today.High, "the most there was")
	require.NotEmpty(t, today.Curve)
	assert.Equal(t, 1, today.Curve[len(today.Curve)-1].Count, "one is left now")
	assert.Len(t, today.Recent, 3, "one decision for all that were decided at once")
	require.NotEmpty(t, today.Expected)

	tomorrow, err := d.Day(t.Context(), d.who, 1)
	require.NoError(t, err)
	assert.Empty(t, tomorrow.Curve, "nothing was there yet")
	assert.Empty(t, tomorrow.Marks)
	assert.Empty(t, tomorrow.Recent)

	d.pass(24 * time.Hour) // both have come back
	yesterday, err := d.Day(t.Context(), d.who, -1)
	require.NoError(t, err)
	assert.Equal(t, today.Date, yesterday.Date)
	assert.Equal(t, today.High, yesterday.High, "a day that is over stays as it was")
	assert.Equal(t, 3, yesterday.Curve[len(yesterday.Curve)-1].Count, "with what came back on it")
	assert.Len(t, yesterday.Recent, 3)
	assert.Empty(t, yesterday.Expected)

	far, err := d.Day(t.Context(), d.who, 100_000)
	require.NoError(t, err)
	assert.Equal(t, "2027-11-26", far.Date, "a year away and no farther")
}

// Low water is the day's first zero; it is told though letters came after it.
func TestLowWaterIsTold(t *testing.T) {
	d := begin(t)
	d.receive(3)
	o, err := d.Overview(t.Context(), d.who)
	require.NoError(t, err)
	assert.Nil(t, o.LowWater)
	assert.Equal(t, 3, o.High)
	d.clock.Advance(time.Minute)
	zero := d.clock.Now()
	d.decide(decide.Done, "", d.inbox()...)
	d.clock.Advance(time.Minute)
	d.receive(2)
	o, err = d.Overview(t.Context(), d.who)
	require.NoError(t, err)
	require.NotNil(t, o.LowWater)
	assert.Equal(t, zero.UTC(), o.LowWater.UTC())
	assert.Equal(t, 2, o.Inbox)
	assert.Equal(t, 3, o.High)
	assert.Len(t, o.Zeros, 1)
	d.pass(24 * time.Hour)
	o, err = d.Overview(t.Context(), d.who)
	require.NoError(t, err)
	assert.Nil(t, o.LowWater, "each day has its own")
	assert.Equal(t, 2, o.High)
}
