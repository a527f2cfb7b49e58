package store

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// steps writes some of them, a minute apart.
func steps(t *testing.T, tx *Tx, actor string, titles ...string) (ids []int64) {
	t.Helper()
	for i, title := range titles {
		at := morning.Add(time.Duration(i) * time.Minute)
		id, err := tx.AddEntry(Entry{CommandID: fmt.Sprint(actor, title), Asked: "decide", Kind: "decide:done", Actor: actor, Title: title, At: at, RecordedAt: at, Undoable: true})
		require.NoError(t, err)
		ids = append(ids, id)
	}
	return ids
}

func titled(entries []Entry, err error) (out []string) {
	if err != nil {
		return []string{err.Error()}
	}
	for _, e := range entries {
		out = append(out, e.Title)
	}
	return out
}

// The Journal is read from the newest back, page by page, and by the words of its titles.
func TestTheJournalIsReadBack(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		ids := steps(t, tx, "person", "Done: one", "Filed: two 100%", "Done: three", "Done: four")
		assert.Equal(t, []string{"Done: four", "Done: three"}, titled(tx.Entries(0, time.Time{}, nil, 2)))
		assert.Equal(t, []string{"Filed: two 100%", "Done: one"}, titled(tx.Entries(ids[2], time.Time{}, nil, 9)))
		assert.Equal(t, []string{"Done: one"}, titled(tx.Entries(0, morning.Add(time.Minute), nil, 9)))
		assert.Equal(t, []string{"Done: three"}, titled(tx.Entries(0, time.Time{}, []string{"done", "thr"}, 9)))
		assert.Equal(t, []string{"Filed: two 100%"}, titled(tx.Entries(0, time.Time{}, []string{"0%"}, 9)), "a sign stands for itself")
		assert.Equal(t, []string{"Done: four", "Done: three", "Filed: two 100%"}, titled(tx.Decisions(morning.Add(time.Minute), morning.Add(time.Hour), 9)))
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		assert.Empty(t, titled(tx.Entries(0, time.Time{}, nil, 9)))
	})
}

// What can be undone next is the person's own latest step that stands; an undo taken back lets
// what it undid stand again.
func TestWhatCanBeUndoneNext(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		next := func(before int64) string {
			e, err := tx.LastUndoable(before)
			if err != nil {
				return err.Error()
			}
			return e.Title
		}
		ids := steps(t, tx, "person", "one", "two")
		steps(t, tx, "clock", "by the clock")
		assert.Equal(t, "two", next(0), "what ran by itself is nobody's own")
		assert.Equal(t, "one", next(ids[1]))
		undo := steps(t, tx, "person", "undone: two")[0]
		require.NoError(t, tx.SetUndoOf(undo, ids[1]))
		assert.Equal(t, "one", next(0))
		two, err := tx.Entry(ids[1])
		require.NoError(t, err)
		assert.Equal(t, undo, two.UndoneBy)
		redo := steps(t, tx, "person", "again: two")[0]
		require.NoError(t, tx.SetRedone(redo, undo, ids[1]))
		assert.Equal(t, "two", next(0))
		require.NoError(t, tx.SetResult(ids[0], "decide:bin", "one, after all", false, json.RawMessage(`{"n":1}`)))
		one, err := tx.Entry(ids[0])
		require.NoError(t, err)
		assert.Equal(t, []any{"decide:bin", "one, after all", false, `{"n":1}`}, []any{one.Kind, one.Title, one.Undoable, string(one.Result)})
		assert.Equal(t, ErrNotFound.Error(), next(ids[1]), "and nothing is before it")
	})
}

// A command is carried out once: its id is found again by whoever gave it, and by nobody else.
func TestACommandIsKnownAgain(t *testing.T) {
	s, who := open(t)
	tove := another(t, s)
	writes(t, s, who, func(tx *Tx) {
		id := steps(t, tx, "person", "one")[0]
		e, err := tx.EntryOf("personone", "person")
		require.NoError(t, err)
		assert.Equal(t, id, e.ID)
		_, err = tx.EntryOf("other", "person")
		assert.ErrorIs(t, err, ErrNotFound)
		last, err := tx.LastOf("decide:done", morning.Add(-time.Second))
		require.NoError(t, err)
		assert.Equal(t, id, last.ID)
		last, err = tx.LastOf("decide:done", morning)
		require.NoError(t, err)
		assert.Zero(t, last.ID)
	})
	writes(t, s, tove, func(tx *Tx) {
		_, err := tx.EntryOf("personone", "person")
		assert.ErrorIs(t, err, ErrForeign)
	})
}
