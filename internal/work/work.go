// Package work is how changes are made: commands, each carried out once in a
// transaction with its step in the Journal; what falls due; undo; and news for
// open pages. It knows no rule of the job. What a step does, what an event that
// falls due does, and how special steps are undone is registered by whoever
// builds on it.
package work

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/store"
)

// The actors of Journal steps.
const (
	ByPerson = "person"
	ByClock  = "clock"
	ByImport = "import"
	ByPost   = "post" // a letter that arrived
	// ByElsewhere is the person in another program, on the mail server of an account.
	ByElsewhere = "elsewhere"
	// BySorting is what puts letters that come among those of their kind.
	BySorting = "sorting"
	ByRule    = "rule"
)

// Work is how changes are made on one database.
type Work struct {
	Store *store.Store
	Clock clockwork.Clock
	Log   *slog.Logger
	// Hook is called at named points between the steps of a change; tests let
	// the process die there.
	Hook func(point string)
	// Done is told of each step that was carried out; nil for nobody.
	Done func(Command)
	// Dues say what the events of each kind do.
	Dues Dues

	hub  hub
	wake chan struct{}
	// due lets one batch of due events run at a time.
	due sync.Mutex
	// under are the events that are just being carried out beside the clock, and
	// beside is how that is done; nil for at once.
	under  under
	beside func(do func())
}

// New makes a Work that knows of no events yet.
func New(s *store.Store, clock clockwork.Clock, log *slog.Logger) *Work {
	return &Work{Store: s, Clock: clock, Log: log, Dues: Dues{}, wake: make(chan struct{}, 1)}
}

// Now is the time by the clock, in UTC.
func (w *Work) Now() time.Time { return w.Clock.Now().UTC() }

// At calls the hook of a named point.
func (w *Work) At(point string) {
	if w.Hook != nil {
		w.Hook(point)
	}
}

// Read loads something for somebody, all of one moment.
func Read[T any](ctx context.Context, w *Work, who store.Who, fn func(*store.Tx) (T, error)) (T, error) {
	var out T
	err := w.Store.Read(ctx, who, func(tx *store.Tx) (err error) {
		out, err = fn(tx)
		return err
	})
	return out, err
}
