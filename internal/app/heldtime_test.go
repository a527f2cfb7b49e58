package app_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
)

func TestReturnsInHeldTime(t *testing.T) {
	w := newWorld(t)
	for i, title := range []string{"By day", "By the minute", "With the round"} {
		w.receive(letterOf(i, "eva@x.example", title))
	}
	phrases := map[string]string{"By day": "today", "By the minute": "today 10:15", "With the round": "tomorrow"}
	w.plan("daily 8:30, 13:00; closed 9-11:30")
	for _, r := range w.rows(decide.Inbox) {
		if r.Title == "By day" {
			w.decide(decide.PutOff, r, until("later today")) // 11:20, in the closed block
		} else {
			w.decide(decide.PutOff, r, until(phrases[r.Title]))
		}
	}
	w.pass(2 * time.Hour)
	assert.Equal(t, "By the minute", w.row(decide.Inbox).Title, "a minute passes a closed block")
	w.pass(90 * time.Minute) // 11:50
	assert.Len(t, w.rows(decide.Inbox), 1, "a part of a day waits")
	w.pass(70 * time.Minute) // 13:00
	assert.Len(t, w.rows(decide.Inbox), 2, "for the round")
	w.pass(19*time.Hour + 30*time.Minute) // 08:30
	assert.Len(t, w.rows(decide.Inbox), 3, "what is due with a round comes with it")
}

func TestRemindersInHeldTime(t *testing.T) {
	w := newWorld(t) // Tuesday 08:20
	byDay, byMinute := w.capture("Water the figs, remind later today"), w.capture("Ring the bell, remind today 10:15")
	closed := w.capture("Lock up, remind later today")
	w.plan("daily 8:30, 13:00; closed 9-11:30")
	ringing := func() (out []int64) {
		for _, f := range w.overview().Ringing {
			out = append(out, f.ID)
		}
		return out
	}
	w.pass(2 * time.Hour)
	assert.Equal(t, []int64{byMinute}, ringing(), "a minute passes a closed block")
	w.pass(90 * time.Minute) // 11:50, past 11:20
	assert.Equal(t, []int64{byMinute}, ringing(), "a part of a day waits")
	assert.Equal(t, "today 11:20", w.followed(byDay).FollowUp.Remind, "and is still set")
	w.track(app.FollowUpFields{Status: ref(followup.Done)}, closed)
	w.pass(70 * time.Minute) // 13:00
	assert.Equal(t, []int64{byDay, byMinute}, ringing(), "for the round; what is done rings no more")
	list, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	assert.Equal(t, "The 13:00 round: 0 letters, 2 reminders", list[0].Title)
	w.pass(24 * time.Hour)
	assert.Len(t, ringing(), 2, "once")
}

func TestDaysThatHavePassedAreShownAsTheyWerePlanned(t *testing.T) {
	w := newWorld(t)
	w.pass(40 * time.Minute) // 09:00
	w.plan("daily 8:30, 13:00; closed 9-11:30")
	w.pass(24 * time.Hour)
	w.plan("daily quiet 18-7")
	day := func(away int) (out []string) {
		t.Helper()
		d, err := w.app.Day(w.ctx, w.who, away)
		require.NoError(t, err)
		zone, err := time.LoadLocation("Europe/Oslo")
		require.NoError(t, err)
		for _, b := range d.Held {
			out = append(out, string(b.Cause)+" "+b.From.In(zone).Format("15:04")+"-"+b.To.In(zone).Format("15:04"))
		}
		for _, r := range d.Rounds {
			out = append(out, r.In(zone).Format("15:04"))
		}
		return out
	}
	assert.Equal(t, []string{"closed 09:00-11:30", "13:00"}, day(-1), "by the plan of that day, from when it came into force")
	assert.Equal(t, []string{"quiet 18:00-20:30", "08:30"}, day(0), "the round of this morning came by the old one")
	assert.Equal(t, []string{"quiet 18:00-20:30"}, day(1), "by the plan that is in force")
}
