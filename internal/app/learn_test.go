package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// learned is what was learned of who wrote a row.
func (w *world) learned(row show.Row) show.LearnedView {
	w.t.Helper()
	require.NoError(w.t, w.app.Learn(w.ctx))
	v, err := w.app.LearnedOf(w.ctx, w.who, row.ID)
	require.NoError(w.t, err)
	return v
}

func (w *world) lessons() (out []learning.Lesson) {
	w.t.Helper()
	require.NoError(w.t, w.app.Store.Read(w.ctx, w.who, func(tx *store.Tx) (err error) {
		out, err = tx.Lessons()
		return err
	}))
	return out
}

func (w *world) takeBack(entry int64) {
	w.t.Helper()
	_, err := w.app.Undo(w.ctx, w.who, rand.Text(), entry, true)
	require.NoError(w.t, err)
	require.NoError(w.t, w.app.Learn(w.ctx))
}

func (w *world) matters(row show.Row, matters bool) app.Decided {
	w.t.Helper()
	d, err := w.app.Matters(w.ctx, w.who, app.Mattering{Command: rand.Text(), On: seenAll([]show.Row{row}), Matters: matters})
	require.NoError(w.t, err)
	return d
}

// teach decides on letters of two senders, one of which is always followed up.
func (w *world) teach(n int) {
	for range n {
		i := rand.Text()
		w.receive(mail{id: fmt.Sprint("vera-", i), from: "vera@catering.example", subject: fmt.Sprint("Lunch ", i), text: "Can you say how many come?"})
		w.decide(decide.FollowUp, w.row(decide.Inbox))
		w.receive(mail{id: fmt.Sprint("oda-", i), from: "oda@school.example", subject: fmt.Sprint("Thanks ", i), text: "Thank you for yesterday."})
		w.decide(decide.Done, w.row(decide.Inbox))
	}
}

// What was done with letters ranks those that come, says why, and follows undo and redo.
func TestLettersAreRankedByWhatWasDone(t *testing.T) {
	w := newWorld(t)
	w.teach(4)
	w.receive(mail{id: "vera-now", from: "vera@catering.example", subject: "Lunch on Friday", text: "Can you say how many come?"})
	require.NoError(t, w.app.Learn(w.ctx))
	assert.Empty(t, w.row(decide.Inbox).High, "eight letters tell nothing")
	w.decide(decide.Done, w.row(decide.Inbox))
	w.teach(1)
	w.receive(mail{id: "vera-then", from: "vera@catering.example", subject: "Lunch on Monday", text: "Can you say how many come?"})
	row := w.row(decide.Inbox)
	seen := w.learned(row)
	assert.Equal(t, show.LearnedView{Sender: "vera@catering.example", Letters: 6, Acted: 5, Facts: []string{"5 of 6 that ask something"}}, seen)
	assert.Equal(t, "you acted on 5 of 6 letters from them", w.row(decide.Inbox).High)
	open, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Equal(t, w.row(decide.Inbox).High, open.High)
	w.receive(mail{id: "oda-then", from: "oda@school.example", subject: "Thanks again", text: "Thank you."})
	assert.Empty(t, w.titled(decide.Inbox, "Thanks again").High)

	// A decision taken back takes its lesson along; done again it teaches again.
	done := w.decide(decide.Done, row)
	assert.Equal(t, 7, w.learned(row).Letters)
	w.takeBack(done.Entry)
	assert.Equal(t, 6, w.learned(row).Letters)
	_, err = w.app.Redo(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	assert.Equal(t, 7, w.learned(row).Letters)
}

// What is said of a letter counts at once and is taken back; what was learned of a sender is
// forgotten, and comes back.
func TestWhatWasLearnedIsPutRight(t *testing.T) {
	w := newWorld(t)
	w.teach(6)
	w.receive(mail{id: "oda-then", from: "oda@school.example", subject: "Thanks again", text: "Thank you."})
	row := w.row(decide.Inbox)
	require.NoError(t, w.app.Learn(w.ctx))
	assert.Empty(t, row.High)
	said := w.matters(row, true)
	assert.Equal(t, "you said that it matters", w.row(decide.Inbox).High)
	assert.Equal(t, "Matters: “Thanks again”", said.Title)
	w.takeBack(said.Entry)
	assert.Equal(t, 6, w.learned(row).Letters)
	assert.Empty(t, w.row(decide.Inbox).High)
	w.matters(row, true)
	w.matters(row, false)
	assert.Empty(t, w.row(decide.Inbox).High)

	forgot, err := w.app.Forget(w.ctx, w.who, rand.Text(), row.ID)
	require.NoError(t, err)
	assert.Zero(t, w.learned(row).Letters)
	_, err = w.app.Forget(w.ctx, w.who, rand.Text(), row.ID)
	assert.ErrorContains(t, err, "Nothing was learned")
	w.decide(decide.Done, row)
	assert.Equal(t, 1, w.learned(row).Letters, "it is learned anew")
	w.takeBack(forgot.Entry)
	assert.Equal(t, 7, w.learned(row).Letters)
	w.sound()
}

// What a letter taught stays when the bin lets go of it.
func TestPurgedLettersLeaveWhatTheyTaught(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.ToBin, w.row(decide.Inbox))
	require.NoError(t, w.app.Learn(w.ctx))
	w.pass((decide.BinDays + 1) * 24 * time.Hour)
	require.Empty(t, w.rows(decide.Bin))
	require.NoError(t, w.app.Learn(w.ctx))
	assert.Len(t, w.lessons(), 1)
	w.sound()
}

// A list of which letters are acted on again and again is kept in the inbox, though nobody said
// so.
func TestAWantedListStaysInTheInbox(t *testing.T) {
	w := newWorld(t)
	letter := func(i int) mail {
		return mail{id: fmt.Sprint("moss-", i), from: "news@moss.example", subject: fmt.Sprint("Moss ", i), text: "Can you lend one of them?", extra: byList}
	}
	w.teach(8)
	for i := range 12 {
		w.receive(letter(i))
		require.True(t, w.has(decide.Shallows, fmt.Sprint("Moss ", i)))
		w.decide(decide.FollowUp, w.row(decide.Shallows))
	}
	require.NoError(t, w.app.Learn(w.ctx))
	w.receive(letter(100))
	require.True(t, w.has(decide.Inbox, "Moss 100"))
	row := w.titled(decide.Inbox, "Moss 100")
	open, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Equal(t, sorting.Person, open.Sorted.Kind)
	assert.Contains(t, open.Sorted.Why, "you acted on 12 of 12 letters")
}
