package work

import (
	"context"
	"errors"
	"fmt"
	"runtime/debug"
	"slices"
	"sync"

	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/store"
)

// What runs unasked fails alone. An event that fails is written down as stuck
// and left out by the scheduler until its next try; its owner sees what did
// not happen, why, and when it is tried again.

// Belonging is an error in something whose owner is known, though the event
// that met it is nobody's.
type Belonging struct {
	Owner int64
	Err   error
}

func (b *Belonging) Error() string { return b.Err.Error() }
func (b *Belonging) Unwrap() error { return b.Err }

// Caught turns a panic into an error, so that nothing that runs in the
// background takes the rest with it. It is deferred.
func (w *Work) Caught(what string, err *error) {
	if thrown := recover(); thrown != nil {
		w.Log.Error(what+" panicked", "reason", thrown, "stack", string(debug.Stack()))
		*err = fmt.Errorf("panic: %v", thrown)
	}
}

// setAside takes a failed event out of the way. It gives an error if the event
// is not at fault, or can't even be written down: then all has to wait.
func (w *Work) setAside(ctx context.Context, ev schedule.Event, why error) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if store.Unavailable(why) != "" {
		return fmt.Errorf("%s: %w", ev.Key(), why)
	}
	before, err := w.Store.StuckOf(ctx, ev.Kind, ev.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	now := w.Now()
	tries := before.Tries + 1
	e := store.Stuck{
		Owner: ev.Owner, Kind: ev.Kind, Object: ev.ID, Title: w.Store.TitleOf(ctx, ev.Kind, ev.ID), Reason: ReasonOf(why),
		Tries: tries, Since: now, AgainAt: now.Add(schedule.Again(tries)),
	}
	var belongs *Belonging
	if errors.As(why, &belongs) {
		e.Owner = belongs.Owner
	}
	w.Log.Error("an event failed; the others go on, and it is tried again", "event", ev.Key(), "owner", e.Owner, "again", e.AgainAt, "reason", why)
	if err := w.Store.SetStuck(ctx, e); err != nil {
		return err
	}
	w.Publish(e.Owner, News{Stale: []Reading{ReadOverview}})
	return nil
}

// freed forgets that an event had failed before.
func (w *Work) freed(ctx context.Context, ev schedule.Event) error {
	before, err := w.Store.StuckOf(ctx, ev.Kind, ev.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil {
		err = w.Store.FreeStuck(ctx, ev.Kind, ev.ID)
	}
	w.Publish(before.Owner, News{Stale: []Reading{ReadOverview}})
	return err
}

// ReasonOf says in people's words why something failed.
func ReasonOf(err error) string {
	if why := store.Unavailable(err); why != "" {
		return why
	}
	if store.Garbled(err) {
		return "A value that is kept of it can’t be read; “ebbe check” says which."
	}
	return err.Error()
}

// under is what is under way, by id.
type under struct {
	mu  sync.Mutex
	ids []int64
}

func (u *under) list() []int64 {
	u.mu.Lock()
	defer u.mu.Unlock()
	return slices.Clone(u.ids)
}

func (u *under) begin(id int64) {
	u.mu.Lock()
	defer u.mu.Unlock()
	u.ids = append(u.ids, id)
}

func (u *under) end(id int64) {
	u.mu.Lock()
	defer u.mu.Unlock()
	u.ids = slices.DeleteFunc(u.ids, func(x int64) bool { return x == id })
}

// doBeside lets an event happen beside the clock, or at once where nothing runs
// beside it.
func (w *Work) doBeside(ctx context.Context, ev schedule.Event) {
	w.under.begin(ev.ID)
	do := func() {
		defer w.Wake()
		defer w.under.end(ev.ID)
		err := w.attempt(ctx, ev)
		if again, still, _ := w.Store.StillDue(ctx, ev.Kind, ev.ID); err == nil && still && again.Due.Equal(ev.Due) {
			err = errNothingDone
		}
		if err != nil {
			if err := w.setAside(ctx, ev, err); err != nil && ctx.Err() == nil {
				w.Log.Error("an event beside the clock failed; trying again soon", "event", ev.Key(), "reason", err)
			}
		}
	}
	if w.beside == nil {
		do()
		return
	}
	w.beside(do)
}
