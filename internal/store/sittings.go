package store

import (
	"errors"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/sitting"
)

// Sitting is one that the person has begun.
type Sitting struct {
	sitting.Sitting
	ID    int64
	Ended time.Time // zero while it goes on
	Heap  sitting.Heap
}

func (r sittingRow) sitting() (Sitting, error) {
	return Sitting{
		sitting.Sitting{Began: r.BeganAt.Time, Until: r.UntilAt.Time, Letters: r.Letters.V, Skipped: r.Skipped.V}, r.ID, r.EndedAt.Time, r.Heap.V,
	}, errors.Join(r.Heap.Err, r.Letters.Err, r.Skipped.Err)
}

func (tx *Tx) ownSittings() gorm.ChainInterface[sittingRow] {
	return gorm.G[sittingRow](tx.db).Where("alive AND person = ?", tx.who.Person)
}

// LatestSitting is the one that the person began last, and that can be read; ErrNotFound if none.
func (tx *Tx) LatestSitting() (Sitting, error) {
	rows, err := tx.ownSittings().Order("began_at DESC, id DESC").Limit(2).Find(tx.ctx())
	if err != nil {
		return Sitting{}, err
	}
	list := readable(tx, "sitting", rows, func(r sittingRow) int64 { return r.ID }, sittingRow.sitting)
	if len(list) == 0 {
		return Sitting{}, ErrNotFound
	}
	return list[0], nil
}

// Sitting is one of the person's.
func (tx *Tx) Sitting(id int64) (Sitting, error) {
	row, err := tx.ownSittings().Where("id = ?", id).Take(tx.ctx())
	if err != nil {
		return Sitting{}, err
	}
	return row.sitting()
}

// SittingsSince are when the person has begun sittings since a moment.
func (tx *Tx) SittingsSince(since time.Time) ([]time.Time, error) {
	rows, err := tx.ownSittings().Select("began_at").Where("began_at >= ?", at(since)).Find(tx.ctx())
	out := make([]time.Time, len(rows))
	for i, r := range rows {
		out[i] = r.BeganAt.Time
	}
	return out, err
}

// AddSitting writes a sitting of the person's that is not alive yet.
func (tx *Tx) AddSitting(s Sitting) (int64, error) {
	row := sittingRow{Person: tx.who.Person, BeganAt: at(s.Began), UntilAt: maybeAt(s.Until), Heap: keep(s.Heap), Letters: keep(s.Letters), Skipped: keep([]int64{})}
	err := gorm.G[sittingRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// DecidedOn are the conversations that the person has decided on between two moments.
func (tx *Tx) DecidedOn(since, until time.Time) (map[int64]bool, error) {
	steps := tx.ownDecisions().Select("id").Where("at >= ? AND at <= ? AND undo_of IS NULL AND undone_by IS NULL", at(since), at(until))
	ids, err := pluck[int64](tx.ctx(), gorm.G[changeRow](tx.few()).Distinct("object_id").Where("journal_id IN (?) AND object = 'conversation'", steps), "object_id")
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}
