package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
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
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: undoKind}
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
		recorded, err := s.Changes(e.ID)
		if err != nil {
			return Undone{}, err
		}
		if e.Actor == work.ByPerson { // what is one person's, only they take back
			recorded = slices.DeleteFunc(recorded, func(r change.Recorded) bool { return r.Person != 0 && r.Person != s.Who().Person })
		}
		undo := undoers[e.Kind]
		if undo == nil {
			undo = (*step).undo
		}
		out, err := undo(s, e, recorded)
		if err != nil {
			return Undone{}, err
		}
		out.Entry, s.Title = e.ID, out.Title
		return out, s.SetUndoOf(s.ID, e.ID)
	})
}

// undo takes back a step field by field.
func (s *step) undo(e store.Entry, recorded []change.Recorded) (Undone, error) {
	if e.Actor == work.ByRule {
		s.Stale(work.ReadRules)
	}
	undo, kept, gone, err := s.Invert(recorded)
	if err != nil {
		return Undone{}, err
	}
	undo = withoutSent(undo, kept)
	more, other, err := s.followed(undo)
	if err != nil {
		return Undone{}, err
	}
	undo, kept = append(undo, more...), append(other, kept...)
	out := Undone{Title: "Undone: " + e.Title, Left: s.leftInWords(kept, gone)}
	if out.Draft, err = s.draftOf(undo); err != nil {
		return Undone{}, err
	}
	out.Conversations = placed(undo)
	switch {
	case len(undo) == 0 && len(recorded) > 0:
		out.Title = "Nothing left to undo of: " + e.Title
	case len(out.Left) > 0:
		out.Title = "Undone in part: " + e.Title
	}
	for _, do := range []func([]change.Recorded) error{s.TakeBack, s.takeAlong, s.keepApart, s.freeStranded} {
		if err := do(undo); err != nil {
			return Undone{}, err
		}
	}
	out.Now, err = s.standing(moved(undo))
	return out, err
}

// draftOf is the draft that an undo gives free again; empty if none.
func (s *step) draftOf(undo []change.Recorded) (string, error) {
	for _, u := range slices.Backward(undo) {
		if u.Kind == kinds.Draft.Kind {
			return s.DraftByNumber(u.ID)
		}
	}
	return "", nil
}

// placed are the conversations that changes move.
func placed(changes []change.Recorded) (ids []int64) {
	for _, c := range changes {
		if decide.Conversation.Place.In(c.Change) {
			ids = append(ids, c.ID)
		}
	}
	return ids
}

// undoImport bins what an import brought.
func (s *step) undoImport(e store.Entry, _ []change.Recorded) (Undone, error) {
	n, left, err := s.takeBack(e.ID)
	s.Stale(work.ReadImports)
	return Undone{Title: fmt.Sprintf("Undone: %s (%s binned)", e.Title, say.Count(n, "conversation")), Left: left}, err
}

// undoRound holds again what a delivery let in.
func (s *step) undoRound(e store.Entry, recorded []change.Recorded) (Undone, error) {
	ruled, err := s.RuleEntriesOf(e.ID) // what rules did with the letters goes first
	if err != nil {
		return Undone{}, err
	}
	for _, r := range ruled {
		if _, err := s.undoOne(r); err != nil {
			return Undone{}, err
		}
	}
	moved, held, stay, err := s.holdAgain(e, recorded)
	if err != nil {
		return Undone{}, err
	}
	out := Undone{Title: "Held again: " + say.Count(held, "letter"), Conversations: moved[:min(len(moved), work.Named)]}
	for _, title := range stay[:min(len(stay), namedLeft)] {
		out.Left = append(out.Left, "Not held again: “"+say.Shorten(title, 60)+"”, worked on since or tied to something that changed.")
	}
	if n := len(stay) - namedLeft; n > 0 {
		out.Left = append(out.Left, fmt.Sprintf("Not held again: %d more.", n))
	}
	return out, nil
}

// undoPlan puts the plan before in force again; what it let in has been seen.
func (s *step) undoPlan(e store.Entry, recorded []change.Recorded) (Undone, error) {
	return s.undo(e, slices.DeleteFunc(recorded, func(r change.Recorded) bool { return r.Kind != kinds.Person.Kind && r.Kind != kinds.Account.Kind }))
}

// moved are the conversations of which changes touch where they stand or when
// they come back.
func moved(changes []change.Recorded) (ids []int64) {
	for _, c := range changes {
		if (decide.Conversation.Place.In(c.Change) || decide.Conversation.Return.In(c.Change)) && !slices.Contains(ids, c.ID) {
			ids = append(ids, c.ID)
		}
		if len(ids) > work.Named {
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
	return s.Change(changes)
}

// freeStranded lets conversations into the inbox that would be put off again until somebody answers of whom nothing is
// left to wait for: they were erased.
func (s *step) freeStranded(undo []change.Recorded) error {
	var ids []int64
	for _, u := range undo {
		if back, _ := decide.Conversation.Return.Now(u.Change); back != nil && back.If.Awaits() {
			ids = append(ids, u.ID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	stranded, err := s.Stranded(ids)
	if err != nil || len(stranded) == 0 {
		return err
	}
	rows, err := s.Conversations(stranded)
	var changes change.List
	for _, r := range rows {
		changes = append(changes, s.decideOn(r, decide.Decision{Kind: decide.ToInbox, At: s.At, Saw: r.LastLetter})...)
	}
	return errors.Join(err, s.Change(changes))
}

func (s *step) undoable(entry int64) (store.Entry, error) {
	var e store.Entry
	var err error
	if entry == 0 {
		e, err = show.LastUndoable(s.Tx, s.At)
	} else {
		e, err = s.Entry(entry)
	}
	switch {
	case errors.Is(err, store.ErrNotFound):
		return e, work.Refuse("There is nothing to undo.")
	case err != nil:
		return e, err
	case !e.Undoable:
		return e, work.Refuse("“%s” can't be undone.", e.Title)
	case e.UndoneBy != 0:
		return e, work.Refuse("“%s” is undone already.", e.Title)
	}
	return e, nil
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

// withoutSent leaves a draft asleep whose letter has gone.
func withoutSent(undo, kept []change.Recorded) []change.Recorded {
	if !slices.ContainsFunc(kept, func(r change.Recorded) bool { return r.Kind == kinds.Outbox.Kind }) {
		return undo
	}
	return slices.DeleteFunc(undo, func(r change.Recorded) bool { return r.Kind == kinds.Draft.Kind })
}
