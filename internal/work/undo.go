package work

import (
	"slices"

	"ebbe.example/ebbe/internal/core/change"
)

// Invert works out what takes recorded changes back: what can be undone, what was
// changed since and stays, and what is no longer there.
func (s *Step) Invert(recorded []change.Recorded) (undo, kept []change.Recorded, gone []change.Object, err error) {
	current, err := s.Versions(recorded)
	if err != nil {
		return nil, nil, nil, err
	}
	undo, kept = change.Inverse(recorded, current)
	undo = change.Together(undo, kept)
	missing, err := s.Missing(undo)
	if err != nil {
		return nil, nil, nil, err
	}
	for _, u := range undo {
		if missing[u.Object] && !slices.Contains(gone, u.Object) {
			gone = append(gone, u.Object)
		}
	}
	return slices.DeleteFunc(undo, func(u change.Recorded) bool { return missing[u.Object] }), kept, gone, nil
}

// TakeBack carries out what Invert has worked out.
func (s *Step) TakeBack(undo []change.Recorded) error {
	if len(undo) == 0 {
		return nil
	}
	s.Changed = true
	for _, u := range undo {
		s.Touch(u.Object)
	}
	return s.Revert(s.ID, s.At, undo)
}
