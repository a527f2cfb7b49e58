package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
)

// Undone says what an undo took back, and what it had to leave.
type Undone struct {
	Entry int64  `json:"entry"`
	Title string `json:"title"`
	// Left says in words what was changed since and stays.
	Left          []string `json:"left,omitempty"`
	Conversations []int64  `json:"conversations,omitempty"`
	// Now is that of Decided.
	Now []store.Seen `json:"now,omitempty"`
	// Draft is the draft that a send taken back gives free again.
	Draft string `json:"draft,omitempty"`
}

// Undo takes back a step of the Journal; 0 is the person's own latest one not
// yet undone. Before it goes on to what the person hardly means (steps.Strays)
// it asks, unless the person is sure.
func (a *App) Undo(ctx context.Context, who store.Who, command string, entry int64, sure bool) (Undone, error) {
	cmd := Command{ID: command, Who: who, Actor: ByPerson, Kind: undoKind}
	return run(ctx, a, cmd, func(s *step) (Undone, error) {
		e, err := s.undoable(entry)
		if err != nil {
			return Undone{}, err
		}
		if entry == 0 && !sure {
			if err := s.askBeforeStraying(e); err != nil {
				return Undone{}, err
			}
		}
		if e.Kind == importKind {
			n, left, err := s.takeBack(e.ID)
			if err != nil {
				return Undone{}, err
			}
			s.news.reads(ofImports...)
			s.title = fmt.Sprintf("Undone: %s (%s binned)", e.Title, countOf(n, "conversation"))
			return Undone{Entry: e.ID, Title: s.title, Left: left}, s.SetUndoOf(s.id, e.ID)
		}
		recorded, err := s.Changes(e.ID)
		if err != nil {
			return Undone{}, err
		}
		if e.Actor == ByPerson { // what is one person's, only they take back
			recorded = slices.DeleteFunc(recorded, func(r change.Recorded) bool { return r.Person != 0 && r.Person != s.Who().Person })
		}
		if slices.Contains(roundKinds, e.Kind) {
			moved, held, stay, err := s.holdAgain(e, recorded)
			if err != nil {
				return Undone{}, err
			}
			out := Undone{Entry: e.ID, Title: "Held again: " + countOf(held, "letter"), Conversations: moved[:min(len(moved), named)]}
			for _, title := range stay[:min(len(stay), namedLeft)] {
				out.Left = append(out.Left, "Not held again: “"+shorten(title, 60)+"”, worked on since or tied to something that changed.")
			}
			if n := len(stay) - namedLeft; n > 0 {
				out.Left = append(out.Left, fmt.Sprintf("Not held again: %d more.", n))
			}
			s.title = out.Title
			return out, s.SetUndoOf(s.id, e.ID)
		}
		if e.Kind == planKind { // what it let in has been seen
			recorded = slices.DeleteFunc(recorded, func(r change.Recorded) bool { return r.Kind != kinds.Person.Kind && r.Kind != kinds.Account.Kind })
		}
		current, err := s.Versions(recorded)
		if err != nil {
			return Undone{}, err
		}
		undo, kept := change.Inverse(recorded, current)
		undo = change.Together(undo, kept)
		undo = withoutSent(undo, kept)
		undo, gone, err := s.withoutGone(undo)
		if err != nil {
			return Undone{}, err
		}
		more, other, err := s.followed(undo)
		if err != nil {
			return Undone{}, err
		}
		undo, kept = append(undo, more...), append(other, kept...)
		out := Undone{Entry: e.ID, Title: "Undone: " + e.Title, Left: s.leftInWords(kept, gone)}
		for _, u := range undo {
			s.changed = true
			s.news.add(u.Object)
			if decide.Conversation.Place.In(u.Change) {
				out.Conversations = append(out.Conversations, u.ID)
			}
			if u.Kind == kinds.Draft.Kind {
				if out.Draft, err = s.DraftByNumber(u.ID); err != nil {
					return Undone{}, err
				}
			}
		}
		switch {
		case len(undo) == 0 && len(recorded) > 0:
			out.Title = "Nothing left to undo of: " + e.Title
		case len(out.Left) > 0:
			out.Title = "Undone in part: " + e.Title
		}
		if err := s.Revert(s.id, s.at, undo); err != nil {
			return Undone{}, err
		}
		if err := s.takeAlong(undo); err != nil {
			return Undone{}, err
		}
		if err := s.keepApart(undo); err != nil {
			return Undone{}, err
		}
		s.title = out.Title
		if out.Now, err = s.standing(moved(undo)); err != nil {
			return Undone{}, err
		}
		return out, s.SetUndoOf(s.id, e.ID)
	})
}

// moved are the conversations of which changes touch where they stand or when
// they come back.
func moved(changes []change.Recorded) (ids []int64) {
	for _, c := range changes {
		if (decide.Conversation.Place.In(c.Change) || decide.Conversation.Return.In(c.Change)) && !slices.Contains(ids, c.ID) {
			ids = append(ids, c.ID)
		}
		if len(ids) > named {
			return ids
		}
	}
	return ids
}

// takeAlong lets letters that came to a split-off conversation follow it back
// when the split is undone: none is left without a place.
func (s *step) takeAlong(undo []change.Recorded) error {
	for _, u := range undo {
		from, ok := kinds.Letter.Conversation.Was(u.Change)
		if !ok {
			continue
		}
		into, ok := kinds.Letter.Conversation.Now(u.Change)
		if !ok {
			continue
		}
		row, err := s.Conversation(from)
		if err != nil || row.ID != from || row.Place != decide.Nowhere {
			continue // it has its place, or leads elsewhere already
		}
		if left, err := s.LettersIn(from); err != nil || len(left) == 0 {
			continue
		}
		if err := s.merge(into, from); err != nil {
			return err
		}
	}
	return nil
}

// keepApart lets conversations that were joined by a letter stay apart once
// the join is undone, whatever later letters refer to.
func (s *step) keepApart(undo []change.Recorded) error {
	var changes change.List
	for _, u := range undo {
		into, ok := decide.Conversation.Redirect.Was(u.Change)
		if !ok || into == 0 {
			continue
		}
		decide.Conversation.Apart.Set(&changes, u.ID, 0, into)
	}
	return s.apply(changes)
}

func (s *step) undoable(entry int64) (store.Entry, error) {
	var e store.Entry
	var err error
	if entry == 0 {
		e, err = lastUndoable(s.Tx, s.at)
	} else {
		e, err = s.Entry(entry)
	}
	switch {
	case errors.Is(err, store.ErrNotFound):
		return e, problem("There is nothing to undo.")
	case err != nil:
		return e, err
	case !e.Undoable:
		return e, problem("“%s” can't be undone.", e.Title)
	case e.UndoneBy != 0:
		return e, problem("“%s” is undone already.", e.Title)
	}
	return e, nil
}

// lastUndoable is the person's own latest step that is not yet undone. A hold
// that is over is none: taking it back would do nothing.
func lastUndoable(tx *store.Tx, now time.Time) (store.Entry, error) {
	for before := int64(0); ; {
		e, err := tx.LastUndoable(before)
		if err != nil || e.Kind != holdKind {
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

// handedOver tells whether a change is of what a conversation hands over when it
// is joined to another.
func handedOver(c change.Change) bool {
	return decide.Conversation.Star.In(c) || decide.Conversation.Labels.In(c)
}

// followed is what takes a change back on the conversation that another was
// joined to since: a mark that it has only by the join.
func (s *step) followed(undo []change.Recorded) (more, kept []change.Recorded, err error) {
	for _, u := range undo {
		if !handedOver(u.Change) {
			continue
		}
		into, err := s.Follow(u.ID)
		if err != nil {
			return nil, nil, err
		}
		if into == u.ID {
			continue
		}
		target := decide.Conversation.Of(into)
		there := change.Change{Object: target, Field: u.Field, Was: u.Was, Now: u.Now, Person: u.Person}
		version, by, err := s.SetBy(there)
		if err != nil {
			return nil, nil, err
		}
		if by == joinKind {
			more = append(more, change.Recorded{Change: there, Before: version, After: u.After})
		} else {
			kept = append(kept, change.Recorded{Change: there})
		}
	}
	return more, kept, nil
}

// withoutGone takes out what is no longer there to be taken back.
func (s *step) withoutGone(undo []change.Recorded) (left []change.Recorded, gone []change.Object, err error) {
	missing, err := s.Missing(undo)
	if err != nil {
		return nil, nil, err
	}
	for _, u := range undo {
		switch {
		case !missing[u.Object]:
			left = append(left, u)
		case !slices.Contains(gone, u.Object):
			gone = append(gone, u.Object)
		}
	}
	return left, gone, nil
}

// withoutSent leaves a draft asleep whose letter has gone.
func withoutSent(undo, kept []change.Recorded) []change.Recorded {
	if !slices.ContainsFunc(kept, func(r change.Recorded) bool { return r.Kind == kinds.Outbox.Kind }) {
		return undo
	}
	return slices.DeleteFunc(undo, func(r change.Recorded) bool { return r.Kind == kinds.Draft.Kind })
}
