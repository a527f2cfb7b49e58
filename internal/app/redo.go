package app

import (
	"context"
	"fmt"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/steps"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

const (
	undoKind = "undo"
	redoKind = "redo"
)

// mostBack is how many steps are looked at to find what can be redone.
const mostBack = 500

func stepOf(e store.Entry, c when.Calendar) steps.Step {
	return steps.Step{Kind: e.Kind, Day: c.Today(e.At), Undo: e.Kind == undoKind, Redo: e.Kind == redoKind}
}

// askBeforeStraying asks before an undo goes on to something else than what the
// person has just done or taken back.
func (s *step) askBeforeStraying(next store.Entry) error {
	latest, err := s.OwnLatest(2) // this very step is one of them
	if err != nil {
		return err
	}
	last := next
	if len(latest) == 2 {
		last = latest[1]
	}
	if last.Kind == undoKind || last.Kind == redoKind {
		if last, err = s.meant(last); err != nil {
			return err
		}
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	c := p.Calendar()
	today := c.Today(s.At)
	if !steps.Strays(stepOf(next, c), stepOf(last, c), today) {
		return nil
	}
	words := when.Speak(when.Exact(next.At, c), s.At, c)
	return &work.Problem{Kind: "undo-further", Choices: []string{"undo"}, Reason: fmt.Sprintf("Next would be “%s”, of %s.", next.Title, words)}
}

// meant is the step that an undo took back, or a redo did again.
func (s *step) meant(e store.Entry) (store.Entry, error) {
	for e.UndoOf != 0 {
		var err error
		if e, err = s.Entry(e.UndoOf); err != nil {
			return e, err
		}
	}
	return e, nil
}

// anew are the kinds of steps that can't be done again by putting values back:
// what they did besides is done anew by doing it.
var anew = append([]string{importKind, planKind, "split", joinKind, "send"}, roundKinds...)

// Redo does once more what the latest undo took back, as long as nothing else
// was done since.
func (a *App) Redo(ctx context.Context, who store.Who, command string) (Undone, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: redoKind}
	return run(ctx, a, cmd, func(s *step) (Undone, error) {
		undo, err := s.redoable()
		if err != nil {
			return Undone{}, err
		}
		e, err := s.Entry(undo.UndoOf)
		if err != nil {
			return Undone{}, err
		}
		recorded, err := s.Changes(undo.ID)
		if err != nil {
			return Undone{}, err
		}
		sends := slices.ContainsFunc(recorded, func(r change.Recorded) bool { return r.Kind == kinds.Outbox.Kind })
		if sends || slices.Contains(anew, e.Kind) {
			return Undone{}, work.Refuse("“%s” can’t be done again by a key. Do it anew.", say.Shorten(e.Title, 60))
		}
		again, kept, gone, err := s.Invert(recorded)
		if err != nil {
			return Undone{}, err
		}
		out := Undone{Entry: e.ID, Title: "Done again: " + e.Title, Left: s.leftInWords(kept, gone), Conversations: placed(again)}
		if len(out.Left) > 0 {
			out.Title = "Done again in part: " + e.Title
		}
		s.Title, s.Final = out.Title, true
		if err := s.TakeBack(again); err != nil {
			return Undone{}, err
		}
		if err := s.freeStranded(again); err != nil {
			return Undone{}, err
		}
		if out.Now, err = s.standing(moved(again)); err != nil {
			return Undone{}, err
		}
		return out, s.SetRedone(s.ID, undo.ID, e.ID)
	})
}

// redoable is the undo that is to be taken back next.
func (s *step) redoable() (store.Entry, error) {
	latest, err := s.OwnLatest(mostBack)
	if err != nil {
		return store.Entry{}, err
	}
	p, err := s.Person()
	if err != nil {
		return store.Entry{}, err
	}
	before := latest[1:] // without this very step
	list := make([]steps.Step, len(before))
	for i, e := range before {
		list[i] = stepOf(e, p.Calendar())
	}
	i := steps.Again(list)
	if i < 0 || before[i].UndoOf == 0 {
		return store.Entry{}, work.Refuse("There is nothing to do again.")
	}
	return before[i], nil
}
