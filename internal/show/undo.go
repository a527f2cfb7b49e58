package show

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
)

// LastUndoable is the person's own latest step that is not yet undone. A hold
// that is over is none: taking it back would do nothing.
func LastUndoable(tx *store.Tx, now time.Time) (store.Entry, error) {
	for before := int64(0); ; {
		e, err := tx.LastUndoable(before)
		if err != nil || e.Kind != HoldKind {
			return e, err
		}
		over, err := holdOver(tx, e.ID, now)
		if err != nil || !over {
			return e, err
		}
		before = e.ID
	}
}

// holdOver tells whether the hold that a step made holds no longer.
func holdOver(tx *store.Tx, entry int64, now time.Time) (bool, error) {
	changes, err := tx.Changes(entry)
	if err != nil {
		return false, err
	}
	open, err := tx.OpenHolds()
	return !slices.ContainsFunc(open, func(h store.Hold) bool {
		made := slices.ContainsFunc(changes, func(c change.Recorded) bool { return c.Object == h.Object() && kinds.Hold.Alive.In(c.Change) })
		hold := h.ByHand().Hold
		return made && hold.Covers(now)
	}), err
}

// HoldKind is the kind of the step that makes a hold.
const HoldKind = "hold"
