// By hand: the index is written as a whole row, and what is still to be read stands on top of an index.

package store

import (
	"context"

	"ebbe.example/ebbe/internal/core/letter"
)

// FileUnread is a file of a letter, by its place among the parts, and what keeps its text from being read.
type FileUnread struct {
	Part int    `json:"part"`
	Says string `json:"says"`
}

// filesUnread are those of a letter; none of one that was not looked at, or of which that can't be read.
func filesUnread(kept maybeKept[[]FileUnread]) []FileUnread {
	if kept.V == nil {
		return nil
	}
	return *kept.V
}

// UnreadPart says what keeps the text of a part from being found; "" where nothing does.
func (l Letter) UnreadPart(part int) string {
	for _, u := range l.Unread {
		if u.Part == part {
			return u.Says
		}
	}
	return ""
}

// FilesOf names a letter of which files are to be read.
type FilesOf struct{ Owner, Letter int64 }

// FilesToRead lists letters, the newest first, of which the text of the files is to be read still.
func (s *Store) FilesToRead(ctx context.Context, most int) ([]FilesOf, error) {
	return all[FilesOf](s.reader.WithContext(ctx).Raw(`SELECT owner, id AS letter FROM letters INDEXED BY letters_files
		WHERE attachments > 0 AND files_read IS NULL AND in_at IS NOT NULL ORDER BY id DESC LIMIT ?`, most))
}

// KeepFiles makes a letter findable by the text of its files, too, and keeps of which it could not be read.
// It does nothing for one that is gone.
func (tx *Tx) KeepFiles(id int64, l letter.Letter, text string, unread []FileUnread) error {
	key, err := tx.firstID("SELECT row_key FROM letters WHERE owner = ? AND id = ? AND in_at IS NOT NULL", tx.who.Inbox, id)
	if err != nil || key == 0 {
		return err
	}
	if unread == nil {
		unread = []FileUnread{}
	}
	if err := tx.exec("UPDATE letters SET files_read = ? WHERE owner = ? AND id = ?", keep(unread), tx.who.Inbox, id); err != nil || text == "" {
		return err
	}
	t := indexedOf(tx.who.Inbox, id, l)
	t.files += " " + letter.Folded(text)
	if err := tx.exec("DELETE FROM letters_text WHERE rowid = ?", key); err != nil {
		return err
	}
	return tx.putIndex(key, t)
}
