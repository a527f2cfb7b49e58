package store

import (
	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/routine"
)

// Routine is several steps on one key.
type Routine struct {
	ID       int64
	Name     string
	Key      string // "" for none
	Position int
	Steps    []routine.Step
}

// Object names the routine in changes.
func (r Routine) Object() change.Object { return kinds.Routine.Of(r.ID) }

// Routines lists the routines in the order of their keys' row.
func (tx *Tx) Routines() ([]Routine, error) {
	rows, err := gorm.G[routineRow](tx.db).Where("alive").Order("position, id").Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	return readable(tx, "routine", rows, func(r routineRow) int64 { return r.ID }, func(r routineRow) (Routine, error) {
		return Routine{r.ID, r.Name, r.Key, r.Position, r.Steps.V}, r.Steps.Err
	}), nil
}

// AddRoutine writes a routine that is not alive yet.
func (tx *Tx) AddRoutine() (int64, error) {
	row := routineRow{Steps: keep([]routine.Step{})}
	err := gorm.G[routineRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}
