// By hand: the table is one of SQLite's own.

package store

import (
	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
)

// numbered are the kinds of objects that may be taken away for good: their ids are never given again (see schema 0030).
// Drafts give their numbers themselves.
var numbered = []change.Kind{
	kinds.Appointment.Kind, kinds.Contact.Kind, decide.Conversation.Kind, kinds.Correction.Kind, kinds.Expectation.Kind, kinds.KeptFile.Kind,
	kinds.Letter.Kind, kinds.Outbox.Kind, kinds.Saving.Kind, kinds.Sender.Kind, kinds.Through.Kind,
}

// neverAgain keeps the ids that changes and versions name from being given again, where what they belonged to is gone. It is
// called within a transaction.
func neverAgain(db *gorm.DB) error {
	keep := func(table, highest string, args ...any) error {
		var seq int64
		if err := db.Raw("SELECT coalesce(max(id), 0) FROM (SELECT seq AS id FROM sqlite_sequence WHERE name = ? UNION ALL SELECT max(id) FROM "+table+" UNION ALL "+highest+")", append([]any{table}, args...)...).Scan(&seq).Error; err != nil {
			return err
		}
		if err := db.Exec("DELETE FROM sqlite_sequence WHERE name = ?", table).Error; err != nil {
			return err
		}
		return db.Exec("INSERT INTO sqlite_sequence (name, seq) VALUES (?, ?)", table, seq).Error
	}
	for _, kind := range numbered {
		if err := keep(objectOf(kind).table, "SELECT max(object_id) FROM changes WHERE object = ? UNION ALL SELECT max(object_id) FROM field_versions WHERE object = ?", kind, kind); err != nil {
			return err
		}
	}
	return keep("changes", "SELECT max(version) FROM field_versions")
}

// lastID is the highest id that a table of these has ever had; 0 if none.
func (tx *Tx) lastID(table string) (int64, error) {
	return tx.firstID("SELECT seq FROM sqlite_sequence WHERE name = ?", table)
}
