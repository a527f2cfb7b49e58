package work

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/store"
)

// Due says what an event of a kind does when it falls due.
type Due struct {
	// Happen carries it out as a step of its own.
	Happen func(s *Step, ev schedule.Event) error
	// Own carries it out without one, where it needs more than a step or less.
	Own func(ctx context.Context, ev schedule.Event) error
	// Field is that whose value made the event fall due. Its version is part of
	// the event's id: the same field set anew is another event. Version gives it
	// where it is that of no field.
	Field   change.Named
	Version func(tx *store.Tx) (int64, error)
	// Undoable tells that the step can be taken back.
	Undoable bool
	// Beside lets it happen beside the clock, so that it delays nothing else.
	Beside bool
	// Failed says in words that it did not happen.
	Failed string
}

// Dues are what the events of each kind do.
type Dues map[schedule.Kind]Due

// glance is the longest the scheduler sleeps without a look at the clock,
// since machines sleep too.
const glance = 30 * time.Second

// breath is how long the scheduler waits where the database can't be used: the
// disk is full, say. Nothing is at fault then, and all goes on once it can.
const breath = time.Second

// besideAtOnce is how many events happen beside the clock at the same time.
const besideAtOnce = 4

// Run carries out what falls due until ctx ends. Between two due times it
// asks the database nothing. What is slow, such as letters that leave, happens
// beside the clock: it delays nobody's returns.
func (w *Work) Run(ctx context.Context) {
	var workers sync.WaitGroup
	defer workers.Wait()
	turn := make(chan struct{}, besideAtOnce)
	w.due.Lock()
	w.beside = func(do func()) {
		workers.Go(func() {
			select {
			case turn <- struct{}{}:
				defer func() { <-turn }()
				do()
			case <-ctx.Done():
			}
		})
	}
	w.due.Unlock()
	for {
		next, err := w.RunDue(ctx)
		if err != nil && ctx.Err() == nil {
			w.Log.Error("what fell due could not be carried out; trying again soon", "reason", err)
		}
		if !w.sleepUntil(ctx, next) {
			return
		}
	}
}

// sleepUntil waits for the time, or for a change; false when ctx has ended.
func (w *Work) sleepUntil(ctx context.Context, next time.Time) bool {
	for {
		wait := glance
		if !next.IsZero() {
			wait = min(max(next.Sub(w.Clock.Now()), time.Millisecond), glance)
		}
		select {
		case <-ctx.Done():
			return false
		case <-w.wake:
			return true
		case <-w.Clock.After(wait):
			if !next.IsZero() && !w.Clock.Now().Before(next) {
				return true
			}
		}
	}
}

// RunDue carries out everything due by now, one by one in due order, each at
// its own time and once. One that fails is taken out of the way and tried
// again later (see trouble.go); the others go on. It returns when the next
// thing falls due; zero if nothing does. An error says that the database can't
// be used, or not all of it.
func (w *Work) RunDue(ctx context.Context) (time.Time, error) {
	w.due.Lock()
	defer w.due.Unlock()
	var last schedule.Event
	for ctx.Err() == nil {
		ev, at, ok, unknown := w.nextEvent(ctx)
		if !ok || at.After(w.Now()) {
			if unknown != nil {
				at = earlier(at, w.Now().Add(breath))
			}
			return at, unknown
		}
		var err error
		switch {
		case ev == last: // it says that it happened, and still falls due
			err = errNothingDone
		case w.Dues[ev.Kind].Beside:
			w.doBeside(ctx, ev)
			continue
		default:
			err = w.attempt(ctx, ev)
		}
		if err == nil {
			last = ev
			continue
		}
		if err := w.setAside(ctx, ev, err); err != nil {
			return w.Now().Add(breath), err
		}
	}
	return time.Time{}, ctx.Err()
}

var errNothingDone = errors.New("it was carried out already, and yet it is still due")

// nextEvent is what is to happen first, and when: something that falls due, or
// the next try of something that failed; ok is false if there is nothing. An
// error means that not everything could be looked for.
func (w *Work) nextEvent(ctx context.Context) (ev schedule.Event, at time.Time, ok bool, err error) {
	for {
		busy := w.under.list()
		next, ok, err := w.Store.NextDue(ctx, busy)
		stuck, stuckErr := w.Store.NextStuck(ctx, busy)
		switch {
		case errors.Is(stuckErr, store.ErrNotFound):
			return next, next.Due, ok, err
		case stuckErr != nil:
			return next, next.Due, ok, errors.Join(err, stuckErr)
		case ok && next.Due.Before(stuck.AgainAt):
			return next, next.Due, ok, err
		case stuck.AgainAt.After(w.Now()):
			return schedule.Event{}, stuck.AgainAt, true, err
		}
		again, still, againErr := w.Store.StillDue(ctx, stuck.Kind, stuck.Object)
		if still {
			return again, stuck.AgainAt, true, err
		}
		if againErr == nil {
			againErr = w.Store.FreeStuck(ctx, stuck.Kind, stuck.Object)
		}
		if againErr != nil {
			return next, next.Due, ok, errors.Join(err, againErr)
		}
	}
}

// earlier is the earlier of two times, of which zero is none.
func earlier(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}

// attempt lets an event happen. A panic in it is an error like others.
func (w *Work) attempt(ctx context.Context, ev schedule.Event) (err error) {
	defer w.Caught("an event", &err)
	if err := w.happen(ctx, ev); err != nil {
		return err
	}
	return w.freed(ctx, ev)
}

// happen carries out one due event.
func (w *Work) happen(ctx context.Context, ev schedule.Event) error {
	d, ok := w.Dues[ev.Kind]
	if !ok {
		return fmt.Errorf("nothing is known of %s", ev.Kind)
	}
	if d.Own != nil {
		return d.Own(ctx, ev)
	}
	cmd := Command{Who: store.Nobody(ev.Owner), Actor: ByClock, Kind: ev.Kind.String(), Title: ev.Kind.String(), At: ev.Due}
	var err error
	if cmd.ID, err = w.eventID(ctx, d, ev); err != nil {
		return err
	}
	_, err = Run(ctx, w, cmd, func(s *Step) (bool, error) {
		s.Final = !d.Undoable
		return true, d.Happen(s, ev)
	})
	return err
}

// eventID names an event so that it happens once.
func (w *Work) eventID(ctx context.Context, d Due, ev schedule.Event) (string, error) {
	return Read(ctx, w, store.Nobody(ev.Owner), func(tx *store.Tx) (string, error) {
		if d.Version != nil {
			n, err := d.Version(tx)
			return fmt.Sprintf("%s:s%d", ev.Key(), n), err
		}
		version, err := tx.Version(d.Field, ev.ID)
		return fmt.Sprintf("%s:v%d", ev.Key(), version), err
	})
}
