package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) sortedEntries() []show.JournalEntry {
	w.t.Helper()
	all, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(w.t, err)
	var out []show.JournalEntry
	for _, e := range all {
		if e.Sorted {
			out = append(out, e)
		}
	}
	return out
}

// What was sorted as it came is a step of its own by its own actor, whether mail flows or comes by
// a round; undone, it lies in the inbox, but for what somebody has moved since.
func TestWhatWasSortedStandsInTheJournal(t *testing.T) {
	w := newWorld(t)
	w.plan("daily 20:00")
	for i := range 3 {
		w.receive(mail{id: fmt.Sprintf("n%d@x.example", i), from: "Moss <news@x.example>", subject: fmt.Sprintf("News %d", i), extra: byList})
	}
	w.receive(mail{id: "c@x.example", from: "climate@x.example", subject: "9.4 °C", extra: byMachine})
	w.receive(mail{id: "p@x.example", from: "anton@x.example", subject: "Panes"})
	_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	entries := w.sortedEntries()
	require.Len(t, entries, 1)
	assert.Equal(t, "sorting", entries[0].Actor)
	assert.Equal(t, "Sorted out: 1 notice, 3 reading", entries[0].Title)
	assert.True(t, entries[0].Undo)
	day, err := w.app.Day(w.ctx, w.who, 0)
	require.NoError(t, err)
	assert.Equal(t, "1 notice, 3 reading", day.Sorted)

	sorted, err := w.app.Sorted(w.ctx, w.who, entries[0].Entry)
	require.NoError(t, err)
	require.Len(t, sorted.Letters, 4)
	assert.Equal(t, sorting.Reading, sorted.Letters[0].Kind)
	w.sort(sorting.Person, "", w.titled(decide.Shallows, "News 0"))
	w.decide(decide.Done, w.titled(decide.Shallows, "News 1"))
	sorted, err = w.app.Sorted(w.ctx, w.who, entries[0].Entry)
	require.NoError(t, err)
	assert.Len(t, sorted.Letters, 2, "what was moved and what was decided lies there no longer")

	undone, err := w.app.Undo(w.ctx, w.who, rand.Text(), entries[0].Entry, false)
	require.NoError(t, err)
	assert.Equal(t, []string{"Moved since, and not touched: 1 conversation."}, undone.Left)
	for title, place := range map[string]decide.Place{"News 0": decide.Inbox, "News 1": decide.Archive, "News 2": decide.Inbox, "9.4 °C": decide.Inbox} {
		assert.Equal(t, place, w.lies(title), title)
	}
	assert.True(t, w.sortedEntries()[0].Undone)
	_, err = w.app.Redo(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	assert.Equal(t, decide.Shallows, w.lies("News 2"), "and again")
	w.sound()
}

// A delivery that is undone takes along what was sorted with it.
func TestAnUndoneRoundHasSortedNothing(t *testing.T) {
	w := newWorld(t)
	w.plan("daily 20:00")
	w.receive(mail{id: "n@x.example", from: "Moss <news@x.example>", subject: "News", extra: byList})
	in, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Equal(t, "Sorted out: 1 reading, “News”", w.sortedEntries()[0].Title)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), in.Entry, false)
	require.NoError(t, err)
	entries := w.sortedEntries()
	require.Len(t, entries, 1)
	assert.True(t, entries[0].Undone)
	w.pass(time.Second)
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Len(t, w.sortedEntries(), 2)
	w.sound()
}

// What is not wanted is fetched by undoing what has put it away; what was settled goes on.
func TestTurnedAwayLettersComeBack(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "1@a.example", from: "news@a.example", subject: "Offer 1"})
	w.refuse(sorting.TurnedAway, sorting.ByAddress, w.row(decide.Inbox))
	w.receive(mail{id: "2@a.example", from: "news@a.example", subject: "Offer 2"})
	require.Equal(t, decide.Bin, w.lies("Offer 2"))
	entries := w.sortedEntries()
	require.Len(t, entries, 1)
	assert.Equal(t, "Sorted out: 1 turned away, “Offer 2”", entries[0].Title)
	_, err := w.app.Undo(w.ctx, w.who, rand.Text(), entries[0].Entry, false)
	require.NoError(t, err)
	assert.Equal(t, decide.Inbox, w.lies("Offer 2"))
	w.receive(mail{id: "3@a.example", from: "news@a.example", subject: "Offer 3"})
	assert.Equal(t, decide.Bin, w.lies("Offer 3"))
	w.sound()
}
