// Package app holds Ebbe's use cases. Each loads what a rule needs, asks the
// core, and saves what it decided as a step (see package work).
package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"log/slog"
	"strings"
	"sync"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Sender hands a finished letter to the outside mail service, and says what
// became of it for each recipient. Recipients of whom it says nothing were not
// reached; the error says why.
type Sender interface {
	Send(ctx context.Context, e post.Envelope, raw []byte) ([]post.Outcome, error)
}

// Bringer brings the letters of the stand-in post office that have come due.
type Bringer interface {
	Bring(ctx context.Context, id int64) error
}

// App is Ebbe at work on one database.
type App struct {
	*work.Work
	*show.Show
	Sender Sender
	// Reach signs in at mail servers, Submit makes what hands letters to one; nil
	// where accounts have none. Secrets keeps their passwords.
	Reach   Reach
	Submit  func(server post.Server, login post.Login) Sender
	Secrets Secrets
	// MadeUp makes the letters of a small world to look around in; nil for none.
	MadeUp func(now time.Time, me letter.Address) ([][]byte, error)
	// Resolver finds the servers of a domain; nil for none.
	Resolver Resolver
	// Lists are the mailing lists outside; nil where nothing outside can be reached.
	Lists Lists
	Post  Bringer
	// Texts reads the text of files; nil where that is not done.
	Texts FileTexts
	// Folder takes the files that rules save; nil where none was chosen.
	Folder Folder
	// Alone tells that no outside mail service is connected: letters reach only
	// people of this Ebbe.
	Alone bool
	// NewID makes the left half of a Message-ID that nobody can guess.
	NewID func() string

	// Providers are where people can sign in instead of giving a password.
	Providers []Provider

	imports imports
	syncers syncers
	signing signIns
	// taught tells whoever learns that there is something new to.
	taught chan struct{}
	// filed tells whoever reads files that there may be some to read; unreadable are the letters of which that failed.
	filed      chan struct{}
	unreadable map[int64]bool
	// saved tells whoever saves files that there may be some to save.
	saved    chan struct{}
	learning sync.Mutex
	junk     junkLearned
}

// New makes an App with the usual settings.
func New(s *store.Store, clock clockwork.Clock, log *slog.Logger) *App {
	a := &App{Work: work.New(s, clock, log), NewID: func() string { return strings.ToLower(rand.Text()) }, taught: make(chan struct{}, 1), filed: make(chan struct{}, 1), saved: make(chan struct{}, 1), unreadable: map[int64]bool{}}
	a.Show = show.New(s, a.Now, about{a})
	s.OnPast(a.Pasts.Changed)
	a.register()
	return a
}

// about tells pages of the App.
type about struct{ app *App }

func (b about) Confined() bool     { return b.app.Alone }
func (b about) Failing() work.Dues { return b.app.Dues }

// Problem is an error meant for the person: what happened, and what to do.
type Problem = work.Problem

// step is a step of the job: what actions are made on, whoever takes them.
type step struct {
	*work.Step
	app *App
	// importing lets letters join without steps of their own.
	importing bool
	begun     int64            // the conversation that was made for the letter in hand
	own       map[string]int64 // see addresses
	sorting   *sorter          // see sorts
	sorted    sortedEntry      // see sortedIn
	rules     *rulebook        // see inForce
	missing   int              // of what the command names, see named
	// often are conversations that the step would put off once more and that
	// were often already; unless the person is sure, the step is refused.
	often []store.Row
	// since are conversations that were decided otherwise since they were seen;
	// the same goes for them.
	since []store.Row
	sure  bool
}

// on makes a step of the job of one of work.
func (a *App) on(s *work.Step) *step { return &step{Step: s, app: a} }

// reading is a step that only looks: what would be done is asked of it.
func (a *App) reading(tx *store.Tx, at time.Time) *step {
	return a.on(&work.Step{Tx: tx, Work: a.Work, At: at})
}

// closing is what a step of the job ends with: what it asks before it is done, and
// when delivery happens next.
func (s *step) closing() error {
	if err := cmp.Or(decidedSince(s.since), putOffAgain(s.often)); err != nil {
		return err
	}
	if err := s.tellSorted(); err != nil {
		return err
	}
	if s.Touched(gateKinds...) {
		return s.regate()
	}
	return nil
}

// run carries out a command once (see work.Run).
func run[T any](ctx context.Context, a *App, cmd work.Command, fn func(*step) (T, error)) (T, error) {
	defer a.teaches(cmd)
	if cmd.Actor != work.ByPerson {
		defer a.files()
	}
	defer a.saves()
	return work.Run(ctx, a.Work, cmd, func(ws *work.Step) (T, error) {
		s := a.on(ws)
		out, err := fn(s)
		if err == nil {
			err = s.closing()
		}
		return out, err
	})
}

// read loads something for somebody, all of one moment.
func read[T any](ctx context.Context, a *App, who store.Who, fn func(*store.Tx) (T, error)) (T, error) {
	return work.Read(ctx, a.Work, who, fn)
}
