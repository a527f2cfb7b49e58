// Package app holds Ebbe's use cases. Each loads what a rule needs, asks the
// core, saves what it decided in one transaction with its Journal step, and
// tells the open pages what changed.
package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// Sender hands a finished letter to the outside mail service, and says what
// became of it for each recipient. Recipients of whom it says nothing were not
// reached; the error says why.
type Sender interface {
	Send(ctx context.Context, from string, to []string, raw []byte) ([]post.Outcome, error)
}

// Bringer brings the letters of the stand-in post office that have come due.
type Bringer interface {
	Bring(ctx context.Context, id int64) error
}

// App is Ebbe at work on one database.
type App struct {
	Store  *store.Store
	Clock  clockwork.Clock
	Sender Sender
	Post   Bringer
	// Confined tells that no outside mail service is connected: letters reach
	// only people of this Ebbe.
	Confined bool
	Log      *slog.Logger
	// Hook is called at named points between the steps of a change; tests let
	// the process die there.
	Hook func(point string)
	// NewID makes the left half of a Message-ID that nobody can guess.
	NewID func() string

	hub     hub
	imports imports
	wake    chan struct{}
	// due lets one batch of due events run at a time.
	due sync.Mutex
	// sending are the letters that are just being handed over, and beside is how
	// that is done; nil for at once.
	sending under
	beside  func(send func())
}

// New makes an App with the usual settings.
func New(s *store.Store, clock clockwork.Clock, log *slog.Logger) *App {
	return &App{Store: s, Clock: clock, Log: log, NewID: func() string { return strings.ToLower(rand.Text()) }, wake: make(chan struct{}, 1)}
}

// Now is the time by the App's clock, in UTC.
func (a *App) Now() time.Time { return a.Clock.Now().UTC() }

func (a *App) hook(point string) {
	if a.Hook != nil {
		a.Hook(point)
	}
}

// The actors of Journal steps.
const (
	ByPerson = "person"
	ByClock  = "clock"
	ByImport = "import"
	ByPost   = "post" // a letter that arrived
)

// Problem is an error meant for the person: what happened, and what to do.
type Problem struct {
	Reason string
	// Kind says for programs what it is, Field what of the command was refused,
	// Choices what can be done instead, and On with which conversations; all may
	// be empty.
	Kind, Field string
	Choices     []string
	On          []int64
}

func (p *Problem) Error() string { return p.Reason }

func problem(format string, args ...any) error { return &Problem{Reason: fmt.Sprintf(format, args...)} }

// Command says who does what. Its ID is made by the client; the same ID again
// returns the first result.
type Command struct {
	ID    string
	Who   store.Who
	Actor string
	Cause string
	Kind  string
	Title string
	// At is when it takes effect; the time of the App's clock if zero.
	At time.Time
}

// step is a command being carried out.
type step struct {
	*store.Tx
	app   *App
	id    int64
	at    time.Time
	kind  string
	title string
	final bool // can't be undone
	// importing lets letters join without steps of their own.
	importing bool
	own       map[string]int64 // see addresses
	changed   bool
	news      news
	left      []leftEvent
	missing   int // of what the command names, see named
	// often are conversations that the step would put off once more and that
	// were often already; unless the person is sure, the step is refused.
	often []store.Row
	// since are conversations that were decided otherwise since they were seen;
	// the same goes for them.
	since []store.Row
	sure  bool
}

// leftEvent is something that the step had to leave, with the reason; it is
// tried again by itself.
type leftEvent struct {
	schedule.Event
	why error
}

// apply carries out changes and notes what they touch.
func (s *step) apply(changes change.List) error {
	if len(changes) == 0 {
		return nil
	}
	s.changed = true
	for _, c := range changes {
		s.news.add(c.Object)
	}
	return s.Apply(s.id, s.at, changes)
}

// run carries out a command once, in one transaction with its Journal step.
func run[T any](ctx context.Context, a *App, cmd Command, fn func(*step) (T, error)) (T, error) {
	var result T
	var told news
	var left []leftEvent
	known := false
	if cmd.ID == "" {
		return result, problem("The command has no id.")
	}
	now := a.Now()
	if cmd.At.IsZero() {
		cmd.At = now
	}
	err := a.Store.Write(ctx, cmd.Who, func(tx *store.Tx) error {
		done, err := tx.EntryOf(cmd.ID, cmd.Actor)
		if err == nil {
			if done.Asked != "" && done.Asked != cmd.Kind {
				return problem("This command’s id was used for something else (“%s”). Nothing was done.", done.Title)
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
		s := &step{Tx: tx, app: a, id: id, at: cmd.At, kind: cmd.Kind, title: cmd.Title}
		if result, err = fn(s); err != nil {
			return err
		}
		if err := cmp.Or(decidedSince(s.since), putOffAgain(s.often)); err != nil {
			return err
		}
		if s.news.touchGate() {
			if err := s.regate(); err != nil {
				return err
			}
		}
		kept, err := json.Marshal(result)
		if err != nil {
			return err
		}
		a.hook("command.before-commit")
		told, left = s.news, s.left
		return tx.SetResult(id, s.kind, s.title, s.changed && !s.final, kept)
	})
	if err != nil {
		return result, err
	}
	a.hook("command.after-commit")
	for _, l := range left {
		if err := a.setAside(ctx, l.Event, l.why); err != nil {
			a.Log.Error("what a step had to leave could not be written down", "event", l.Key(), "reason", err)
		}
	}
	made(ctx, known, told.stale())
	a.tell(cmd.Who, told, cmd.ID)
	return result, nil
}

// read loads something for somebody, all of one moment.
func read[T any](ctx context.Context, a *App, who store.Who, fn func(*store.Tx) (T, error)) (T, error) {
	var out T
	err := a.Store.Read(ctx, who, func(tx *store.Tx) (err error) {
		out, err = fn(tx)
		return err
	})
	return out, err
}
