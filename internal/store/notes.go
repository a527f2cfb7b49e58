package store

import "ebbe.example/ebbe/internal/core/letter"

// findable writes a column of conversations that search finds them by.
//
// By hand: the full text; the ids are those of objects of the inbox.
func findable(column string) writer {
	return func(w setting) error {
		if err := w.set(column + " = json_extract(?1, '$')"); err != nil {
			return err
		}
		if err := w.tx.exec("DELETE FROM notes_text WHERE rowid IN (SELECT value FROM json_each(?))", w.ids); err != nil {
			return err
		}
		return w.tx.indexNotes("id IN (SELECT value FROM json_each(?))", w.ids)
	}
}

// indexNotes makes notes and working titles findable that are not.
//
// By hand: the full text.
func (tx *Tx) indexNotes(which string, args ...any) error {
	rows, err := all[struct {
		ID                 int64
		WorkingTitle, Note string
	}](tx.db.Raw("SELECT id, working_title, note FROM conversations WHERE +owner = ? AND (note <> '' OR working_title <> '') AND "+which, append([]any{tx.who.Inbox}, args...)...))
	for _, r := range rows {
		if err == nil {
			err = tx.exec("INSERT INTO notes_text (rowid, subject, sender, recipients, copies, body, files) VALUES (?, ?, '', '', '', ?, '')",
				r.ID, letter.Folded(r.WorkingTitle), letter.Folded(r.Note))
		}
	}
	return err
}

func (tx *Tx) indexAllNotes() error {
	return tx.indexNotes("id NOT IN (SELECT rowid FROM notes_text)")
}

// mostNoted bounds how many conversations are found by their notes.
const mostNoted = 50

// foundByNote lists the conversations whose note or working title has what is looked for,
// those with the latest letters first.
//
// By hand: the full text.
func (tx *Tx) foundByNote(match string) ([]Found, error) {
	ids, err := tx.ids(`SELECT c.id FROM notes_text t CROSS JOIN conversations c ON c.id = t.rowid
		WHERE t.notes_text MATCH ? AND c.owner = ? AND c.place <> '' ORDER BY c.last_at DESC, c.id DESC LIMIT ?`, match, tx.who.Inbox, mostNoted)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	rows, err := tx.Conversations(ids)
	found := make([]Found, len(rows))
	for i, r := range rows {
		found[i].Row = r
	}
	return found, err
}
