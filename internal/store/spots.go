package store

import (
	"strings"

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
	return all[Spot](tx.db.Raw("SELECT id, name FROM spots WHERE owner = ? AND alive = 1 ORDER BY name COLLATE NOCASE, id", tx.who.Inbox))
}

// AddSpot writes a spot that is not alive yet. One of that name that was taken
// off the list is taken up again.
func (tx *Tx) AddSpot(name string) (int64, error) {
	id, err := tx.firstID("SELECT id FROM spots WHERE owner = ? AND name = ? AND alive = 0", tx.who.Inbox, name)
	if err != nil || id != 0 {
		return id, err
	}
	return tx.insertReturning("INSERT INTO spots (owner, name) VALUES (?, ?)", tx.who.Inbox, strings.TrimSpace(name))
}

// WaitingFor lists the conversations that come back at a spot, in the order in
// which they were put off.
func (tx *Tx) WaitingFor(spot int64) ([]int64, error) {
	return all[int64](tx.db.Raw("SELECT conversation_id FROM returns WHERE owner = ? AND spot_id = ? ORDER BY conversation_id", tx.who.Inbox, spot))
}
