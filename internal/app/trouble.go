package app

import (
	"context"
	"errors"
	"fmt"
	"runtime/debug"
	"slices"
	"sync"
	"time"

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

// caught turns a panic into an error, so that nothing that runs in the
// background takes the rest with it. It is deferred.
func (a *App) caught(what string, err *error) {
	if thrown := recover(); thrown != nil {
		a.Log.Error(what+" panicked", "reason", thrown, "stack", string(debug.Stack()))
		*err = fmt.Errorf("panic: %v", thrown)
	}
}

// setAside takes a failed event out of the way. It gives an error if the event
// is not at fault, or can't even be written down: then all has to wait.
func (a *App) setAside(ctx context.Context, ev schedule.Event, why error) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if store.Unavailable(why) != "" {
		return fmt.Errorf("%s: %w", ev.Key(), why)
	}
	before, err := a.Store.StuckOf(ctx, ev.Kind, ev.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	now := a.Now()
	tries := before.Tries + 1
	e := store.Stuck{
		Owner: ev.Owner, Kind: ev.Kind, Object: ev.ID, Title: a.Store.TitleOf(ctx, ev.Kind, ev.ID), Reason: reasonOf(why),
		Tries: tries, Since: now, AgainAt: now.Add(schedule.Again(tries)),
	}
	var belongs *Belonging
	if errors.As(why, &belongs) {
		e.Owner = belongs.Owner
	}
	a.Log.Error("an event failed; the others go on, and it is tried again", "event", ev.Key(), "owner", e.Owner, "again", e.AgainAt, "reason", why)
	if err := a.Store.SetStuck(ctx, e); err != nil {
		return err
	}
	a.publish(e.Owner, News{Stale: ofTrouble})
	return nil
}

// freed forgets that an event had failed before.
func (a *App) freed(ctx context.Context, ev schedule.Event) error {
	before, err := a.Store.StuckOf(ctx, ev.Kind, ev.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil {
		err = a.Store.FreeStuck(ctx, ev.Kind, ev.ID)
	}
	a.publish(before.Owner, News{Stale: ofTrouble})
	return err
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

// startSending lets a letter leave beside the clock, or at once where nothing
// runs beside it.
func (a *App) startSending(ctx context.Context, ev schedule.Event) {
	a.sending.begin(ev.ID)
	send := func() {
		defer a.Wake()
		defer a.sending.end(ev.ID)
		err := a.attempt(ctx, ev)
		if again, still, _ := a.Store.StillDue(ctx, ev.Kind, ev.ID); err == nil && still && again.Due.Equal(ev.Due) {
			err = errNothingDone
		}
		if err != nil {
			if err := a.setAside(ctx, ev, err); err != nil && ctx.Err() == nil {
				a.Log.Error("a letter could not leave; trying again soon", "reason", err)
			}
		}
	}
	if a.beside == nil {
		send()
		return
	}
	a.beside(send)
}

// StuckView is something that could not happen, as its owner sees it.
type StuckView struct {
	ID     int64      `json:"id,omitempty" doc:"To try it again by; 0 for what can only be shown"`
	Title  string     `json:"title" doc:"What did not happen"`
	Reason string     `json:"reason"`
	Since  *time.Time `json:"since,omitempty"`
	Again  string     `json:"again" doc:"When it is tried again, in words; empty if it is not"`
	// Draft is the letter that nobody got, given back to its writer.
	Draft string `json:"draft,omitempty"`
}

var troubleTitles = map[schedule.Kind]string{
	schedule.Delivery: "A delivery did not come", schedule.Limit: "A waiting limit could not be seen to", schedule.Return: "A letter did not come back",
	schedule.Look: "Someday letters were not looked through", schedule.Reminder: "A reminder did not ring", schedule.Alarm: "An appointment’s reminder did not ring",
	schedule.Send: "A letter did not leave", schedule.Post: "A letter could not be taken in", schedule.Purge: "The bin could not let go of a letter",
	schedule.Series: "A recurring appointment could not be reckoned further ahead",
	schedule.LetIn:  "A held letter could not be let in",
}

// eventsOf are the rows of which events are made, as lists call them.
var eventsOf = map[schedule.Kind]string{schedule.Limit: "waiting", schedule.Send: "letter of the outbox"}

// troubles are what is stuck, and what lists had to go on without.
func (v viewer) troubles(tx *store.Tx) ([]StuckView, error) {
	stuck, err := tx.Stuck()
	if err != nil {
		return nil, err
	}
	unsent, err := tx.GivenBack()
	if err != nil {
		return nil, err
	}
	out := []StuckView{}
	for _, s := range stuck {
		t := StuckView{ID: s.ID, Title: troubleTitles[s.Kind], Reason: s.Reason, Since: &s.Since, Again: "tried again " + v.short(s.AgainAt)}
		if s.Title != "" {
			t.Title += ": “" + shorten(s.Title, 60) + "”"
		}
		out = append(out, t)
	}
	for _, o := range unsent {
		out = append(out, StuckView{Title: "Nobody got “" + shorten(o.Subject, 60) + "”; it is a draft again", Reason: o.Trouble, Draft: o.Draft})
	}
	for _, u := range tx.PassedOver() {
		if slices.ContainsFunc(stuck, func(s store.Stuck) bool { return s.Object == u.ID && eventsOf[s.Kind] == u.What }) {
			continue // it is said already
		}
		out = append(out, StuckView{Title: fmt.Sprintf("A %s can’t be read; Ebbe goes on without it", u.What), Reason: reasonOf(u.Reason)})
	}
	return out, nil
}

// TryAgain lets something that is stuck be tried at once.
func (a *App) TryAgain(ctx context.Context, who store.Who, id int64) error {
	err := a.Store.Write(ctx, who, func(tx *store.Tx) error { return tx.RetryStuck(id, a.Now()) })
	a.Wake()
	return err
}

// reasonOf says in people's words why something failed.
func reasonOf(err error) string {
	if why := store.Unavailable(err); why != "" {
		return why
	}
	if store.Garbled(err) {
		return "A value that is kept of it can’t be read; “ebbe check” says which."
	}
	return err.Error()
}
