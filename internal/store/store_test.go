package store

import (
	"context"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
)

func open(t *testing.T) (*Store, Who) {
	t.Helper()
	s, err := Open(filepath.Join(t.TempDir(), "with space ä.db"))
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	who, err := s.AddPerson(t.Context(), Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"}, []Account{{Address: "Ines@n.example"}}, time.Now())
	require.NoError(t, err)
	return s, who
}

func TestOwnersAreFoundWhateverTheCase(t *testing.T) {
	s, who := open(t)
	box, err := s.MailboxOf(t.Context(), "INES@N.example")
	require.NoError(t, err)
	assert.Equal(t, []int64{who.Inbox}, box.Owners)
}

// Nothing that is typed into the search box is an error of the index.
func TestHostileSearches(t *testing.T) {
	s, who := open(t)
	for _, typed := range []string{`" OR 1`, `NEAR(a b)`, `a*`, `-x`, `(`, `col:x`, "\x00\"", `from:"`, `a AND`, `^x`, `{a b}`, `from:* to:-`, `'; DROP TABLE letters`, `-"x y" -z`, `-"`, `label:"'" mark:starred`, `mark:flagged with:file subject:"`, `before:2026-01-01 x`} {
		err := s.Read(t.Context(), who, func(tx *Tx) error {
			_, _, err := tx.Search(find.Read(typed, time.Now(), when.Standard(time.UTC)).Query, 0, 10)
			return err
		})
		assert.NoError(t, err, typed)
	}
}

func TestVersionsFollowUndo(t *testing.T) {
	s, who := open(t)
	write := func(fn func(*Tx) error) { require.NoError(t, s.Write(t.Context(), who, fn)) }
	var conversation int64
	write(func(tx *Tx) (err error) { conversation, err = tx.AddConversation("x"); return err })
	o := decide.Conversation.Of(conversation)
	step := func(id string, was, now string) (recorded []change.Recorded) {
		write(func(tx *Tx) error {
			entry, err := tx.AddEntry(Entry{CommandID: id, Kind: "k", Actor: "person", Title: id, At: time.Now(), RecordedAt: time.Now()})
			if err != nil {
				return err
			}
			c, _ := change.Set(o, "note", was, now)
			if err := tx.Apply(entry, time.Now(), change.List{c}); err != nil {
				return err
			}
			recorded, err = tx.Changes(entry)
			return err
		})
		return recorded
	}
	first, second := step("a", "", "one"), step("b", "one", "two")
	back := func(recorded []change.Recorded) (kept int) {
		write(func(tx *Tx) error {
			entry, err := tx.AddEntry(Entry{CommandID: "undo" + recorded[0].Field + string(recorded[0].Now), Kind: "undo", Actor: "person", Title: "u", At: time.Now(), RecordedAt: time.Now()})
			if err != nil {
				return err
			}
			current, err := tx.Versions(recorded)
			if err != nil {
				return err
			}
			undo, left := change.Inverse(recorded, current)
			kept = len(left)
			return tx.Revert(entry, time.Now(), undo)
		})
		return kept
	}
	note := func() (text string) {
		require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
			c, err := tx.Conversation(conversation)
			text = c.Note
			return err
		}))
		return text
	}
	assert.Equal(t, 1, back(first), "what was changed since is left")
	assert.Equal(t, "two", note())
	assert.Zero(t, back(second))
	assert.Equal(t, "one", note())
	write(func(tx *Tx) error {
		current, err := tx.Versions(first)
		assert.Equal(t, first[0].After, current(change.Change{Object: o, Field: "note"}), "undone, the field has its old version again")
		return err
	})
}

func TestBackupAndCheck(t *testing.T) {
	s, _ := open(t)
	file := filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, s.Backup(t.Context(), file))
	assert.Error(t, s.Backup(t.Context(), file), "a copy is never written over")
	c, err := Open(file)
	require.NoError(t, err)
	defer c.Close()
	problems, err := c.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, problems)
	people, err := c.People(t.Context())
	require.NoError(t, err)
	assert.Len(t, people, 1)

	require.NoError(t, c.Write(t.Context(), Own(1), func(tx *Tx) error {
		id, err := tx.AddConversation("x")
		if err != nil {
			return err
		}
		return tx.exec("UPDATE conversations SET place = 'later' WHERE id = ?", id)
	}))
	require.NoError(t, c.writer.Exec("PRAGMA foreign_keys = OFF").Error)
	require.NoError(t, c.writer.Exec("INSERT INTO stages (id, owner, name) VALUES (7, 99, 'x')").Error)
	problems, err = c.Check(t.Context())
	require.NoError(t, err)
	assert.Greater(t, len(problems), 1, "a place without a return is found")
	assert.Contains(t, problems, "row 7 of stages leads to nothing in people")
}

func TestAFileOfANewerEbbeIsLeftAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "new.db")
	s, err := Open(file)
	require.NoError(t, err)
	require.NoError(t, s.writer.WithContext(context.Background()).Exec("INSERT INTO migrations (id) VALUES ('9999')").Error)
	require.NoError(t, s.Close())
	_, err = Open(file)
	assert.ErrorIs(t, err, errTooNew)
}

// What is asked with every letter that comes goes by an index, however many
// answers have been waited for.
func TestWhatLettersMetGoesByAnIndex(t *testing.T) {
	s, who := open(t)
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		plan, err := all[struct{ Detail string }](tx.db.Raw("EXPLAIN QUERY PLAN "+metForReturns, "[1]"))
		require.NoError(t, err)
		assert.Contains(t, plan[0].Detail, "USING INDEX expectations_met")
		return nil
	}))
}

// What only reads can't write, whatever it calls.
func TestReadingCantWrite(t *testing.T) {
	s, who := open(t)
	var id int64
	require.NoError(t, s.Write(t.Context(), who, func(tx *Tx) (err error) { id, err = tx.AddConversation("x"); return err }))
	err := s.Read(t.Context(), who, func(tx *Tx) error { return tx.MarkSeen(id, 1) })
	assert.ErrorContains(t, err, "readonly")
}
