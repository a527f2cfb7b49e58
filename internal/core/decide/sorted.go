package decide

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/sorting"
)

// RefusedTo is where letters of a kind lie that are not wanted; Nowhere of those that are.
func RefusedTo(k sorting.Kind) Place {
	switch k {
	case sorting.TurnedAway:
		return Bin
	case sorting.Junk:
		return Junk
	}
	return Nowhere
}

// LiesSorted tells of a conversation of a kind whether it lies where sorting has put it, and nobody has
// moved it since.
func LiesSorted(place Place, kind sorting.Kind) bool {
	if kind.Refused() {
		return place == RefusedTo(kind)
	}
	return place == Shallows
}

// Unsort computes what it changes that a conversation of a kind comes to the inbox that lies where sorting has
// put it; nothing elsewhere.
func Unsort(s State, kind sorting.Kind) change.List {
	if !LiesSorted(s.Place, kind) {
		return nil
	}
	if !kind.Refused() {
		return Sort(s, false)
	}
	s.Sorted = false
	return Want(s)
}
