package store

import (
	"strings"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
)

// Spot is a place in the world that the person has named.
type Spot struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Object names the spot in changes.
func (s Spot) Object() change.Object { return kinds.Spot.Of(s.ID) }

// Spots lists the person's spots by name.
func (tx *Tx) Spots() ([]Spot, error) {
	return pluck[Spot](tx.ctx(), gorm.G[spotRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id"), "id, name")
}

// AddSpot writes a spot that is not alive yet. One of that name that was taken
// off the list is taken up again.
func (tx *Tx) AddSpot(name string) (int64, error) {
	former, err := orNone(gorm.G[spotRow](tx.db).Where("name = ? AND NOT alive", name).Take(tx.ctx()))
	if err != nil || former.ID != 0 {
		return former.ID, err
	}
	row := spotRow{Spot: Spot{Name: strings.TrimSpace(name)}}
	err = gorm.G[spotRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// WaitingFor lists the conversations that come back at a spot, in the order in
// which they were put off.
func (tx *Tx) WaitingFor(spot int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[returnRow](tx.db).Where("spot_id = ?", spot).Order("conversation_id"), "conversation_id")
}
