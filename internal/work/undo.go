package work

import (
	"errors"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/thread"
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
	undo, lost, err := s.threaded(slices.DeleteFunc(undo, func(u change.Recorded) bool { return missing[u.Object] }))
	return undo, kept, append(gone, lost...), err
}

// threaded leaves out what can't be taken back because a conversation is no more, or would have no letters; lost are
// those that letters would go back to.
func (s *Step) threaded(undo []change.Recorded) (back []change.Recorded, lost []change.Object, err error) {
	var into []change.Recorded
	for _, u := range undo {
		if id, ok := kinds.Letter.Conversation.Now(u.Change); ok {
			into = append(into, change.Recorded{Change: decide.Conversation.Place.Of(id)})
		}
	}
	missing, err := s.Missing(into)
	if err != nil {
		return nil, nil, err
	}
	letters := func(conversation int64) int {
		list, failed := s.LettersIn(conversation)
		err = errors.Join(err, failed)
		return len(list)
	}
	back, ids := thread.TakeBack(undo, func(conversation int64) bool { return missing[decide.Conversation.Kind.Of(conversation)] }, letters)
	for _, id := range ids {
		lost = append(lost, decide.Conversation.Kind.Of(id))
	}
	return back, lost, err
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
