package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
)

// Saving is a file of a letter that a rule saves into a folder.
type Saving struct {
	ID, Owner    int64
	Rule, Letter int64
	// Part is its number among the letter's parts, from 0.
	Part int
	// Path is where it is to stand, below the folder.
	Path  string
	Tries int
}

// Object names the file in changes.
func (s Saving) Object() change.Object { return kinds.Saving.Of(s.ID) }

// AddSaving writes that a file is to be saved, which is not alive yet.
func (tx *Tx) AddSaving(s Saving, at time.Time) (int64, error) {
	row := savingRow{RuleID: s.Rule, LetterID: s.Letter, Part: s.Part, Path: s.Path, NextAt: maybeStamp{stamp{at}}}
	err := gorm.G[savingRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Savings lists the files that are to be saved by now, of all inboxes. A system query.
func (s *Store) Savings(ctx context.Context, now time.Time, most int) ([]Saving, error) {
	rows, err := gorm.G[savingRow](everybody(s.reader)).Where("next_at <= ? AND alive = 1", at(now)).Order("next_at, id").Limit(most).Find(ctx)
	out := make([]Saving, len(rows))
	for i, r := range rows {
		out[i] = Saving{r.ID, int64(r.Owner), r.RuleID, r.LetterID, r.Part, r.Path, r.Tries}
	}
	return out, err
}

// Saved notes as what a file was saved; it is not saved again.
func (tx *Tx) Saved(id int64, as string) error {
	_, err := gorm.G[savingRow](tx.db).Where("id = ?", id).Select("saved_as", "next_at").Updates(tx.ctx(), savingRow{SavedAs: as})
	return err
}

// SaveLater notes that a file could not be saved, and when that is tried again; a zero time for never.
func (tx *Tx) SaveLater(id int64, tries int, next time.Time) error {
	_, err := gorm.G[savingRow](tx.db).Where("id = ?", id).Select("tries", "next_at").Updates(tx.ctx(), savingRow{Tries: tries, NextAt: maybeStamp{stamp{next}}})
	return err
}
