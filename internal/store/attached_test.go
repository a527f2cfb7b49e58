package store

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sending"
)

// step writes a Journal step in which something changes.
func (tx *Tx) step(t *testing.T, changes change.List) (journal int64) {
	t.Helper()
	journal, err := tx.AddEntry(Entry{CommandID: rand.Text(), Kind: "test", Actor: "person", Title: "A step", At: morning, RecordedAt: morning, Undoable: true})
	require.NoError(t, err)
	require.NoError(t, tx.Apply(journal, morning, changes))
	return journal
}

func attach(t *testing.T, tx *Tx, id, draft string, at time.Time, pieces ...string) Attachment {
	t.Helper()
	size := 0
	for _, p := range pieces {
		size += len(p)
	}
	a := Attachment{ID: id, Draft: draft, Name: id + ".txt", ContentType: "text/plain", Size: int64(size), MadeAt: at}
	require.NoError(t, tx.AddAttachment(a))
	for _, p := range pieces {
		require.NoError(t, tx.AddPiece(a, []byte(p)))
		a.Came += int64(len(p))
	}
	return a
}

// A file is the pieces that came of it, in their order; a copy of it is a file of its own.
func TestPiecesMakeAFile(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		a := attach(t, tx, "a", "draft", morning, "one ", "two ", "three")
		attach(t, tx, "b", "draft", morning.Add(-time.Minute))
		kept, err := tx.Attachment("a")
		require.NoError(t, err)
		assert.Equal(t, a, kept)
		assert.True(t, kept.Whole())
		content, err := tx.ContentOf(kept)
		require.NoError(t, err)
		assert.Equal(t, "one two three", string(content))
		all, err := tx.AttachmentsOf("draft")
		require.NoError(t, err)
		require.Len(t, all, 2)
		assert.Equal(t, []string{"b", "a"}, []string{all[0].ID, all[1].ID}, "in the order in which they were begun")

		require.NoError(t, tx.CopyAttachment(kept, "c", "other", morning))
		require.NoError(t, tx.DropAttachment("a"))
		copied, err := tx.Attachment("c")
		require.NoError(t, err)
		content, err = tx.ContentOf(copied)
		require.NoError(t, err)
		assert.Equal(t, "one two three", string(content))
		assert.True(t, copied.Whole())
		_, err = tx.Attachment("a")
		assert.ErrorIs(t, err, ErrNotFound)

		require.NoError(t, tx.GiveAttachments("other", "third"))
		all, err = tx.AttachmentsOf("third")
		require.NoError(t, err)
		assert.Len(t, all, 1)
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		_, err := tx.Attachment("c")
		assert.ErrorIs(t, err, ErrNotFound)
		require.NoError(t, tx.DropAttachment("c"))
	})
	writes(t, s, who, func(tx *Tx) {
		_, err := tx.Attachment("c")
		assert.NoError(t, err, "nobody else lets go of it")
	})
}

// What nobody needs any more is stale: not what a living draft, a letter that is to leave or a
// conversation has.
func TestWhichFilesAreStale(t *testing.T) {
	s, who := open(t)
	later := morning.AddDate(0, 0, 31)
	writes(t, s, who, func(tx *Tx) {
		for _, id := range []string{"living", "over", "leaving", "kept", "young"} {
			at := morning
			if id == "young" {
				at = later
			}
			attach(t, tx, id, id, at, "x")
		}
		for _, id := range []string{"living", "over"} {
			require.NoError(t, tx.SaveDraft(Draft{ID: id, Kind: "new", Value: []byte("{}"), UpdatedAt: morning}))
		}
		accounts, err := tx.Accounts()
		require.NoError(t, err)
		out, err := tx.AddOutgoing(Outgoing{AccountID: accounts[0].ID, Draft: "leaving", MessageID: "l@n.example", Recipients: []string{"a@b.example"}, SendAt: later}, Pack([]byte("x")), morning)
		require.NoError(t, err)
		kept, err := tx.Attachment("kept")
		require.NoError(t, err)
		_, err = tx.AddKeptFile(KeptFile{Conversation: 7, AddedAt: morning, Attachment: kept})
		require.NoError(t, err)
		over, err := tx.Draft("over")
		require.NoError(t, err)
		living, err := tx.Draft("living")
		require.NoError(t, err)
		var changes change.List
		kinds.Outbox.State.Set(&changes, out, sending.Unmade, sending.Waiting)
		kinds.Draft.Alive.Set(&changes, living.Number, false, true)
		kinds.Draft.Alive.Set(&changes, over.Number, true, false)
		tx.step(t, changes)
		stale, err := tx.StaleAttachments(later)
		require.NoError(t, err)
		assert.Equal(t, []string{"over"}, stale)
	})
}

// Files that stay are listed where they were added once they are alive, the first first.
func TestFilesThatStay(t *testing.T) {
	s, who := open(t)
	writes(t, s, who, func(tx *Tx) {
		add := func(id string, at time.Time, f KeptFile) int64 {
			f.Attachment, f.AddedAt = attach(t, tx, id, "draft", at, id), at
			n, err := tx.AddKeptFile(f)
			require.NoError(t, err)
			return n
		}
		second := add("second", morning.Add(time.Hour), KeptFile{Conversation: 7})
		first := add("first", morning, KeptFile{Conversation: 7})
		template := add("template", morning, KeptFile{Template: 3})
		add("dead", morning, KeptFile{Conversation: 7})
		var changes change.List
		for _, n := range []int64{second, first, template} {
			kinds.KeptFile.Alive.Set(&changes, n, false, true)
		}
		tx.step(t, changes)
		names := func(list []KeptFile, err error) (out []string) {
			require.NoError(t, err)
			for _, f := range list {
				out = append(out, f.Name)
			}
			return out
		}
		assert.Equal(t, []string{"first.txt", "second.txt"}, names(tx.FilesAddedTo(7)))
		assert.Equal(t, []string{"template.txt"}, names(tx.FilesOfTemplate(3)))
		assert.Empty(t, names(tx.FilesAddedTo(8)))
		by, err := tx.FilesOfTemplates()
		require.NoError(t, err)
		assert.Len(t, by, 1)
		left, err := tx.AttachmentsOf("draft")
		require.NoError(t, err)
		assert.Empty(t, left, "they are no draft's any more")
	})
}
