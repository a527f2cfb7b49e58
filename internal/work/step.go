package work

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/store"
)

// Command says who does what. Its ID is made by the client; the same ID again
// returns the first result.
type Command struct {
	ID    string
	Who   store.Who
	Actor string
	Cause string
	Kind  string
	Title string
	// At is when it takes effect; the time of the clock if zero.
	At time.Time
}

// Step is a command being carried out: a transaction, its entry in the Journal,
// and what it touches.
type Step struct {
	*store.Tx
	Work *Work
	// ID is that of the entry in the Journal, At when the step takes effect.
	ID int64
	At time.Time
	// Kind and Title are what the command came to; they begin as it said.
	Kind, Title string
	// Changed tells that there is something to undo, Final that it can't be.
	Changed, Final bool

	news news
	left []leftEvent
}

// leftEvent is something that the step had to leave, with the reason; it is
// tried again by itself.
type leftEvent struct {
	schedule.Event
	why error
}

// Change carries out changes and notes what they touch.
func (s *Step) Change(changes change.List) error {
	if len(changes) == 0 {
		return nil
	}
	s.Changed = true
	for _, c := range changes {
		s.Touch(c.Object)
	}
	return s.Apply(s.ID, s.At, changes)
}

// Touch notes objects that open pages show otherwise from now on.
func (s *Step) Touch(objects ...change.Object) {
	for _, o := range objects {
		s.news.add(o)
	}
}

// Stale notes what open pages read that is stale, beside what follows from the
// objects touched.
func (s *Step) Stale(readings ...Reading) { s.news.also = append(s.news.also, readings...) }

// Touched tells whether an object of one of the kinds was touched.
func (s *Step) Touched(kinds ...change.Kind) bool { return s.news.touched(kinds) }

// Under carries out a part of the step as a step of its own in the Journal, which can be undone
// alone. It gives what stands there of it.
func (s *Step) Under(e store.Entry, do func(*Step) error) (*Step, error) {
	e.At, e.RecordedAt = s.At, s.Work.Now()
	id, err := s.AddEntry(e)
	if err != nil {
		return nil, err
	}
	part := &Step{Tx: s.Tx, Work: s.Work, ID: id, At: s.At, Kind: e.Kind, Title: e.Title}
	if err := do(part); err != nil {
		return nil, err
	}
	s.news.join(part.news)
	s.left = append(s.left, part.left...)
	return part, s.SetResult(id, part.Kind, part.Title, part.Changed && !part.Final, change.Null)
}

// Leave leaves an event to be tried again by itself, for a reason.
func (s *Step) Leave(ev schedule.Event, why error) { s.left = append(s.left, leftEvent{ev, why}) }

// Run carries out a command once, in one transaction with its Journal step.
func Run[T any](ctx context.Context, w *Work, cmd Command, fn func(*Step) (T, error)) (T, error) {
	var result T
	var told news
	var left []leftEvent
	known := false
	if cmd.ID == "" {
		return result, Refuse("The command has no id.")
	}
	now := w.Now()
	if cmd.At.IsZero() {
		cmd.At = now
	}
	err := w.Store.Write(ctx, cmd.Who, func(tx *store.Tx) error {
		done, err := tx.EntryOf(cmd.ID, cmd.Actor)
		if err == nil {
			if done.Asked != "" && done.Asked != cmd.Kind {
				return Refuse("This command’s id was used for something else (“%s”). Nothing was done.", done.Title)
			}
			known = true
			return json.Unmarshal(done.Result, &result)
		} else if !errors.Is(err, store.ErrNotFound) && (cmd.Actor == ByPerson || !errors.Is(err, store.ErrForeign)) {
			return err // one letter may well arrive at two people
		}
		id, err := tx.AddEntry(store.Entry{
			CommandID: cmd.ID, Asked: cmd.Kind, Kind: cmd.Kind, Actor: cmd.Actor, Cause: cmd.Cause, Title: cmd.Title, At: cmd.At, RecordedAt: now,
		})
		if err != nil {
			return err
		}
		s := &Step{Tx: tx, Work: w, ID: id, At: cmd.At, Kind: cmd.Kind, Title: cmd.Title}
		if result, err = fn(s); err != nil {
			return err
		}
		kept, err := json.Marshal(result)
		if err != nil {
			return err
		}
		w.At("command.before-commit")
		told, left = s.news, s.left
		return tx.SetResult(id, s.Kind, s.Title, s.Changed && !s.Final, kept)
	})
	if err != nil {
		return result, err
	}
	w.At("command.after-commit")
	for _, l := range left {
		if err := w.setAside(ctx, l.Event, l.why); err != nil {
			w.Log.Error("what a step had to leave could not be written down", "event", l.Key(), "reason", err)
		}
	}
	if w.Done != nil && !known {
		w.Done(cmd)
	}
	made(ctx, known, told.stale())
	w.tell(cmd.Who, told, cmd.ID)
	return result, nil
}
