package app_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// world is an Ebbe with one person, a clock that stands still until moved,
// and a mail service that keeps what it is given.
type world struct {
	t     *testing.T
	ctx   context.Context
	app   *app.App
	clock *clockwork.FakeClock
	who   store.Who
	post  *keeper
}

type keeper struct {
	mu     sync.Mutex
	sent   [][]byte
	from   []string
	to     [][]string
	answer error
	says   []post.Outcome // what is said instead of taking a letter
	notify bool           // whether the last one asked what becomes of it
}

func (k *keeper) Send(_ context.Context, e post.Envelope, raw []byte) ([]post.Outcome, error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.answer != nil || k.says != nil {
		return k.says, k.answer
	}
	k.sent, k.from, k.to = append(k.sent, raw), append(k.from, e.From), append(k.to, e.To)
	k.notify = e.Notify
	return taken(e.To), nil
}

// taken are the outcomes of a letter that is accepted for everybody.
func taken(to []string) []post.Outcome {
	out := make([]post.Outcome, len(to))
	for i, t := range to {
		out[i] = post.Outcome{Recipient: t, Accepted: true}
	}
	return out
}

// refusing answers the next tries to send with a refusal for these recipients.
func (k *keeper) refusing(reason string, to ...string) {
	k.says = nil
	for _, t := range to {
		k.says = append(k.says, post.Outcome{Recipient: t, Refused: true, Reason: reason})
	}
}

// start is a Tuesday morning in Oslo.
var start = time.Date(2026, 11, 24, 8, 20, 0, 0, time.FixedZone("CET", 3600))

func newWorld(t *testing.T) *world {
	t.Helper()
	return newWorldAt(t, filepath.Join(t.TempDir(), "ebbe.db"))
}

func newWorldAt(t *testing.T, file string) *world {
	t.Helper()
	s, err := store.Open(file)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	clock := clockwork.NewFakeClockAt(start)
	w := &world{t: t, ctx: context.Background(), clock: clock, post: &keeper{}, app: app.New(s, clock, slog.New(slog.DiscardHandler))}
	w.app.Sender = w.post
	w.who, err = s.AddPerson(w.ctx, store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"},
		[]store.Account{{Address: "ines@norrholm.example", Name: "Ines"}, {Address: "walks@norrholm.example", Name: "Walks"}}, start)
	require.NoError(t, err)
	t.Cleanup(w.sound)
	return w
}

// sound checks that all holds in the database that must.
func (w *world) sound() {
	problems, err := w.app.Store.Check(w.ctx)
	require.NoError(w.t, err)
	require.Empty(w.t, problems)
}

// mail is a letter to be received.
type mail struct {
	id, from, to, subject, text, answers, extra string
}

func (m mail) sentTo(address string) mail { m.to = address; return m }

func (m mail) bytes(at time.Time) []byte {
	if m.to == "" {
		m.to = "ines@norrholm.example"
	}
	if m.text == "" {
		m.text = "Hello."
	}
	head := m.extra
	if m.answers != "" {
		head += "In-Reply-To: <" + m.answers + ">\r\nReferences: <" + m.answers + ">\r\n"
	}
	return fmt.Appendf(nil, "From: %s\r\nTo: %s\r\nSubject: %s\r\nDate: %s\r\nMessage-ID: <%s>\r\n%s\r\n%s\r\n",
		m.from, m.to, m.subject, at.Format(time.RFC1123Z), m.id, head, m.text)
}

func (w *world) receive(m mail) {
	w.t.Helper()
	to := m.to
	if to == "" {
		to = "ines@norrholm.example"
	}
	require.NoError(w.t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: to, Source: "smtp", Raw: m.bytes(start), At: w.clock.Now()}))
}

func (w *world) rows(place decide.Place) []show.Row {
	w.t.Helper()
	page, err := w.app.List(w.ctx, w.who, place, false, 0, "")
	require.NoError(w.t, err)
	return page.Rows
}

// row is the only row of a place.
func (w *world) row(place decide.Place) show.Row {
	w.t.Helper()
	rows := w.rows(place)
	require.Len(w.t, rows, 1, "in %s", place)
	return rows[0]
}

func (w *world) decide(kind decide.Kind, row show.Row, more ...func(*app.Deciding)) app.Decided {
	w.t.Helper()
	d := app.Deciding{Command: rand.Text(), Kind: kind, On: []store.Seen{{ID: row.ID, Last: row.Last}}}
	for _, m := range more {
		m(&d)
	}
	out, err := w.app.Decide(w.ctx, w.who, d)
	require.NoError(w.t, err)
	return out
}

func until(phrase string) func(*app.Deciding) { return func(d *app.Deciding) { d.When = phrase } }

// sure answers beforehand what is asked before a letter is put off once more.
func sure(d *app.Deciding) { d.Sure = true }

func (w *world) undo() app.Undone {
	w.t.Helper()
	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(w.t, err)
	return out
}

// pass lets time go by and everything happen that falls due.
func (w *world) pass(d time.Duration) {
	w.t.Helper()
	w.clock.Advance(d)
	_, err := w.app.RunDue(w.ctx)
	require.NoError(w.t, err)
}

func (w *world) overview() show.Overview {
	w.t.Helper()
	o, err := w.app.Overview(w.ctx, w.who)
	require.NoError(w.t, err)
	return o
}

// send writes a letter; answering one when the row is not nil.
func (w *world) send(row *show.Row, change func(*app.Sending)) app.Sent {
	w.t.Helper()
	s := app.Sending{Command: rand.Text(), Draft: rand.Text(), Writing: show.Writing{
		Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Subject: "Hello", Text: "As asked.",
	}}
	if row != nil {
		c, err := w.app.Open(w.ctx, w.who, row.ID)
		require.NoError(w.t, err)
		s.Conversation, s.Saw, s.Kind = row.ID, row.Last, "answer"
		s.To, s.Subject, s.Letter = c.Answer.To, c.Answer.Subject, c.Answer.Letter
	}
	if change != nil {
		change(&s)
	}
	out, err := w.app.Send(w.ctx, w.who, s)
	require.NoError(w.t, err)
	return out
}

var bramAsks = mail{id: "one@freight.example", from: "Bram <bram@freight.example>", subject: "Crates", text: "Dear Ines,\n\nCan you confirm the four crate sizes?\n\nBram"}

func seen(r show.Row) store.Seen { return store.Seen{ID: r.ID, Last: r.Last} }

func seenAll(rows []show.Row) (out []store.Seen) {
	for _, r := range rows {
		out = append(out, seen(r))
	}
	return out
}
