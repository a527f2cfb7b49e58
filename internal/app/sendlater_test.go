package app_test

import (
	"crypto/rand"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func tomorrow(s *app.Sending) { s.Later = "tomorrow 08:00" }

func (w *world) drafts() []show.DraftView {
	w.t.Helper()
	drafts, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(w.t, err)
	return drafts
}

// sends are the entries of Ahead that are letters.
func (w *world) sends() (out []show.Entry) {
	for _, e := range w.ahead().Entries {
		if e.Kind == "send" {
			out = append(out, e)
		}
	}
	return out
}

// A letter that is to leave later stands in Ahead and on its day's line until then, and
// leaves by itself, once.
func TestALetterLeavesLater(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	before := w.overview().Ahead
	sent := w.send(&row, tomorrow)
	assert.Contains(t, sent.Title, ", to leave ")
	assert.Empty(t, w.rows(decide.Inbox), "it is answered all the same")
	require.Len(t, w.sends(), 1)
	e := w.sends()[0]
	assert.Equal(t, []any{"Re: Crates", "bram@freight.example", row.ID}, []any{e.Title, e.Person, e.Conversation})
	assert.Equal(t, before+1, w.overview().Ahead)
	day, err := w.app.Day(w.ctx, w.who, 1)
	require.NoError(t, err)
	require.Len(t, day.Marks, 1)
	assert.Equal(t, "send", day.Marks[0].Kind)

	w.pass(time.Hour)
	assert.Empty(t, w.post.sent)
	w.pass(sent.LeavesAt.Sub(w.clock.Now()))
	assert.Len(t, w.post.sent, 1)
	w.pass(time.Hour)
	assert.Len(t, w.post.sent, 1)
	assert.Empty(t, w.sends())
	w.sound()
}

// Until it goes it can be moved, made a draft again and written on, or taken back; each of
// it can be undone.
func TestALetterIsEditedUntilItGoes(t *testing.T) {
	w := newWorld(t)
	sent := w.send(nil, tomorrow)
	ref := app.EntryRef{Kind: "send", ID: sent.Outgoing}
	require.NoError(t, w.editAhead("move", "fri 10:00", ref))
	assert.NotEqual(t, sent.LeavesAt, *w.sends()[0].At)
	w.undo()
	assert.Equal(t, sent.LeavesAt, *w.sends()[0].At)
	assert.ErrorContains(t, w.editAhead("move", "someday", ref), "needs a time")
	assert.ErrorContains(t, w.editAhead("move", "2 nov 2026", ref), "has passed")

	require.NoError(t, w.editAhead("cancel", "", ref))
	assert.Empty(t, w.sends())
	require.Len(t, w.drafts(), 1)
	assert.Equal(t, "tomorrow 08:00", w.drafts()[0].Writing.Later)
	assert.Error(t, w.editAhead("cancel", "", ref), "it is a draft already")
	w.undo()
	assert.Len(t, w.sends(), 1)
	assert.Empty(t, w.drafts())

	w.undo() // the send itself
	assert.Empty(t, w.sends())
	require.Len(t, w.drafts(), 1)
	w.pass(72 * time.Hour)
	assert.Empty(t, w.post.sent)
	w.sound()
}

// A time that passes while nobody is there: up to four hours later it leaves, after that it
// is a draft again and what it answers comes back.
func TestATimeThatPassedMeanwhile(t *testing.T) {
	for _, c := range []struct {
		late time.Duration
		goes bool
	}{{3 * time.Hour, true}, {4 * time.Hour, true}, {4*time.Hour + time.Second, false}, {72 * time.Hour, false}} {
		w := newWorld(t)
		w.receive(bramAsks)
		row := w.row(decide.Inbox)
		sent := w.send(&row, tomorrow)
		w.pass(sent.LeavesAt.Sub(w.clock.Now()) + c.late)
		assert.Len(t, w.post.sent, map[bool]int{true: 1}[c.goes], c.late)
		assert.Len(t, w.drafts(), map[bool]int{false: 1}[c.goes], c.late)
		journal, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "late: Ebbe was not running"})
		require.NoError(t, err)
		assert.Len(t, journal, map[bool]int{true: 1}[c.goes], "and says so")
		if !c.goes {
			back := w.row(decide.Inbox)
			assert.Contains(t, back.Back, "It was to leave")
			given, err := w.app.Open(w.ctx, w.who, back.ID)
			require.NoError(t, err)
			assert.Len(t, given.Drafts, 1)
		}
		w.pass(time.Hour)
		assert.Len(t, w.post.sent, map[bool]int{true: 1}[c.goes], c.late)
		w.sound()
	}
}

// One that was written long before it leaves is tried as long as any other.
func TestALaterLetterIsTriedAsLongAsAnyOther(t *testing.T) {
	w := newWorld(t)
	sent := w.send(nil, func(s *app.Sending) { s.Later = "20 dec 2026 10:00" })
	w.post.answer = errors.New("the line is dead")
	w.pass(sent.LeavesAt.Sub(w.clock.Now()))
	w.pass(time.Minute)
	assert.Empty(t, w.drafts(), "it is tried again")
	w.post.answer = nil
	w.pass(3 * 24 * time.Hour)
	assert.Len(t, w.post.sent, 1)
	w.sound()
}

// A time that is none, or has passed, stops the letter with words; the draft is kept.
func TestATimeThatCannotBe(t *testing.T) {
	w := newWorld(t)
	for later, words := range map[string]string{"1 nov 2026": "has passed", "someday": "needs a time", "gibberish": "", "when somebody answers": ""} {
		_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{
			Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Later: later,
		}})
		assert.ErrorContains(t, err, words, later)
	}
	require.NoError(t, w.app.Store.Read(w.ctx, w.who, func(tx *store.Tx) error {
		out, err := tx.Outbox()
		assert.Empty(t, out)
		return err
	}))
}

// A follow-up is made along with sending, about what is answered; undoing takes both back.
func TestAFollowUpMadeWithSending(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	sent := w.send(&row, func(s *app.Sending) { s.Track = "measure crate 4 again fri 10, high" })
	assert.Contains(t, sent.Title, ", with the follow-up “measure crate 4 again”")
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	require.Len(t, c.FollowUpList, 1)
	assert.Equal(t, "measure crate 4 again", c.FollowUpList[0].Title)
	w.undo()
	c, err = w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Empty(t, c.FollowUpList)
	assert.Equal(t, "measure crate 4 again fri 10, high", w.drafts()[0].Writing.Track)

	w.send(nil, func(s *app.Sending) { s.Track = "ask Tove" }) // about no letter yet
	_, err = w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{
		Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Track: ", high",
	}})
	assert.ErrorContains(t, err, "Say what is to be done")
	w.sound()
}
