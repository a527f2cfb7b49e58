package app_test

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/show"
)

func TestNoticesAreQuiet(t *testing.T) {
	w := newWorld(t)
	w.plan(working)
	w.through(app.ThroughFields{Kind: delivery.BySender, Value: "eva@x.example"})
	w.receive(letterOf(1, "eva@x.example", "Through"))
	assert.Empty(t, w.overview().Notifications, "quiet by default")
	on := delivery.Notification{Browser: true}
	_, err := w.app.SetNotifications(w.ctx, w.who, rand.Text(), show.Notifications{Through: on, Reminders: on, Rounds: on})
	require.NoError(t, err)
	require.Len(t, w.overview().Notifications, 1, "what was let through, also in quiet hours")
	assert.False(t, w.overview().Notifications[0].Count)
	w.receive(letterOf(2, "per@x.example", "Waits"))
	w.pass(11 * time.Minute)
	list := w.overview().Notifications
	require.Len(t, list, 1)
	assert.Equal(t, "The 08:30 round: 1 letter", list[0].Text)
	w.pass(time.Hour)
	assert.Empty(t, w.overview().Notifications, "what is old is told no more")
}

func (w *world) texts() (out []string) {
	w.t.Helper()
	for _, n := range w.overview().Notifications {
		out = append(out, n.Title+": "+n.Text)
	}
	return out
}

func TestNoticesOfLettersThatNameMe(t *testing.T) {
	w := newWorld(t)
	_, err := w.app.SetNotifications(w.ctx, w.who, rand.Text(), show.Notifications{Mentions: delivery.Notification{Sound: true}})
	require.NoError(t, err)
	w.plan("daily 8:30, 13:00; quiet 12:30-14:30")
	for i, m := range []mail{
		{subject: "To me", text: "Dear Ines, thank you."},
		{subject: "Called", text: "Could @Ines look at this?"},
		{subject: "In passing", to: "walks@norrholm.example", text: "Fine.\n\n> Ines said so."},
		{subject: "By a machine", text: "@Ines has a new task", extra: "Auto-Submitted: auto-generated\r\n"},
		{subject: "On a list", text: "@Ines knows.", extra: "List-Id: <l.x.example>\r\n"},
	} {
		m.id, m.from = letterOf(i, "", "").id, "Eva Lind <eva@x.example>"
		w.receive(m)
	}
	assert.Empty(t, w.texts(), "not while they wait")
	w.pass(10 * time.Minute)
	assert.ElementsMatch(t, []string{"Eva Lind names you: Called", "Eva Lind names you: On a list"}, w.texts())
	w.pass(4 * time.Hour) // 12:30
	late := letterOf(9, "eva@x.example", "Late")
	late.text = "@ines?"
	w.receive(late)
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Len(t, w.rows(decide.Inbox), 4)
	assert.Len(t, w.rows(decide.Shallows), 2, "a list's and a machine's")
	assert.Empty(t, w.texts(), "quiet hours keep it back")
}

func TestAReminderIsToldOfWhenItRings(t *testing.T) {
	w := newWorld(t)
	on := delivery.Notification{Browser: true}
	_, err := w.app.SetNotifications(w.ctx, w.who, rand.Text(), show.Notifications{Reminders: on, Rounds: on})
	require.NoError(t, err)
	w.capture("Water the figs, remind later today") // 11:20
	w.plan("daily 8:30, 13:00; closed 9-11:30")
	w.pass(4*time.Hour + 40*time.Minute) // 13:00
	assert.Equal(t, []string{"Reminder: Water the figs", "Delivery: The 13:00 round: 0 letters, 1 reminder"}, w.texts(), "with the round, though its own time has long passed")
}
