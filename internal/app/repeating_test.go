package app_test

import (
	"crypto/rand"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
)

func rota(s *app.Sending) {
	s.Later, s.Every, s.Subject = "fri 9:00", "every friday", "Rota for {date: mon}"
	s.Text = "Dear {first name}, who takes {date: mon}?"
	s.To = []string{"Bram <bram@freight.example>"}
}

func (w *world) subjects() (out []string) {
	w.post.mu.Lock()
	defer w.post.mu.Unlock()
	for _, raw := range w.post.sent {
		out = append(out, letter.Parse(raw).Subject)
	}
	return out
}

// Each of a recurring letter is made from its draft, with its fields filled for that day; one is
// left out, and it ends as any letter that waits.
func TestALetterRecurs(t *testing.T) {
	w := newWorld(t)
	sent := w.send(nil, rota)
	assert.Contains(t, sent.Title, "every friday")
	require.Len(t, w.sends(), 1)
	assert.Equal(t, []any{true, "Rota for Monday 30 November"}, []any{w.sends()[0].Recurs, w.sends()[0].Title})
	week := 7 * 24 * time.Hour
	w.pass(sent.LeavesAt.Sub(w.clock.Now()) + time.Minute)
	assert.Equal(t, []string{"Rota for Monday 30 November"}, w.subjects())
	require.Len(t, w.sends(), 1)
	e := w.sends()[0]
	assert.Equal(t, "Rota for Monday 7 December", e.Title)
	assert.Contains(t, e.Note, "last left ")
	assert.Equal(t, sent.LeavesAt.Add(week).UTC(), e.At.UTC(), "to the minute")

	require.NoError(t, w.editAhead("skip", "", app.EntryRef{Kind: "send", ID: e.ID}))
	assert.Equal(t, "Rota for Monday 14 December", w.sends()[0].Title)
	w.undo()
	assert.Equal(t, "Rota for Monday 7 December", w.sends()[0].Title)
	require.NoError(t, w.editAhead("skip", "", app.EntryRef{Kind: "send", ID: e.ID}))
	w.pass(week)
	w.pass(week)
	assert.Equal(t, []string{"Rota for Monday 30 November", "Rota for Monday 14 December"}, w.subjects())
	w.pass(week + 10*time.Hour) // Ebbe was not running at its time
	assert.Len(t, w.subjects(), 2)
	assert.Equal(t, "Rota for Monday 28 December", w.sends()[0].Title)

	require.NoError(t, w.editAhead("cancel", "", app.EntryRef{Kind: "send", ID: w.sends()[0].ID}))
	require.Len(t, w.drafts(), 1)
	assert.Equal(t, "Rota for {date: mon}", w.drafts()[0].Writing.Subject, "it is what it was made from")
	w.pass(2 * week)
	assert.Len(t, w.subjects(), 2)
}

// It pauses where somebody will never get it, and where it can't be made; what it was made from
// is a draft then.
func TestARecurringLetterPauses(t *testing.T) {
	w := newWorld(t)
	sent := w.send(nil, rota)
	w.post.refusing("550 nobody", "bram@freight.example")
	w.pass(sent.LeavesAt.Sub(w.clock.Now()) + time.Minute)
	assert.Empty(t, w.sends())
	assert.Len(t, w.drafts(), 1)

	w = newWorld(t)
	sent = w.send(nil, func(s *app.Sending) { rota(s); s.From = "walks@norrholm.example" })
	off := false
	require.NoError(t, w.edit(w.accounts()[1].ID, app.AccountFields{Alive: &off}))
	w.pass(sent.LeavesAt.Sub(w.clock.Now()) + time.Minute)
	assert.Empty(t, w.sends())
	assert.Len(t, w.drafts(), 1)
}

func TestWhatCanNotRecur(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	try := func(change func(*app.Sending)) error {
		s := app.Sending{Command: rand.Text(), Draft: rand.Text()}
		s.Kind, s.From, s.To, s.Text = "new", "ines@norrholm.example", []string{"bram@freight.example"}, "x"
		rota(&s)
		change(&s)
		_, err := w.app.Send(w.ctx, w.who, s)
		return err
	}
	assert.ErrorContains(t, try(func(s *app.Sending) { s.Every = "sometimes" }), "draft is kept")
	assert.ErrorContains(t, try(func(s *app.Sending) { s.Every = "3 days after done" }), "by the calendar")
	assert.ErrorContains(t, try(func(s *app.Sending) { s.Kind, s.Conversation, s.Letter = "answer", row.ID, row.Last }), "Only a new letter")
	assert.ErrorContains(t, try(func(s *app.Sending) { s.Text, s.Fields = "{amount}", []string{"amount"} }), "{amount}")
	assert.Empty(t, w.sends())
	require.NoError(t, try(func(s *app.Sending) { s.Every = "every friday 1 times" }))
	w.pass(w.sends()[0].At.Sub(w.clock.Now()) + time.Minute)
	assert.Empty(t, w.sends(), "it was the last one")
	assert.True(t, strings.HasPrefix(w.subjects()[0], "Rota"))
}
