package app_test

import (
	"context"
	"crypto/rand"
	"database/sql"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// behind runs statements past Ebbe, as a fault of the disk would.
func (w *world) behind(statements ...string) {
	w.t.Helper()
	db, err := sql.Open("sqlite3", "file:"+w.app.Store.Path()+"?_busy_timeout=10000")
	require.NoError(w.t, err)
	defer db.Close()
	for _, s := range statements {
		_, err := db.Exec(s)
		require.NoError(w.t, err, s)
	}
}

func (w *world) later(id, phrase string) {
	w.t.Helper()
	w.receive(mail{id: id, from: "Bram <bram@freight.example>", subject: id})
	w.decide(decide.PutOff, w.titled(decide.Inbox, id), func(d *app.Deciding) { d.When = phrase })
}

func (w *world) titled(place decide.Place, title string) show.Row {
	w.t.Helper()
	rows := w.rows(place)
	i := slices.IndexFunc(rows, func(r show.Row) bool { return r.Title == title })
	require.GreaterOrEqual(w.t, i, 0, "%s in %s", title, place)
	return rows[i]
}

func (w *world) has(place decide.Place, title string) bool {
	return slices.ContainsFunc(w.rows(place), func(r show.Row) bool { return r.Title == title })
}

// One poisoned row of every kind of event stops none of the others, is shown
// to its owner, and happens once it is mended.
func TestOnePoisonedEventStopsNoOther(t *testing.T) {
	const bad = "conversation_id = (SELECT id FROM conversations WHERE subject = 'bad')"
	broken := []struct {
		name         string
		set          func(w *world)
		poison, mend string
		title        string
		mended       func(w *world) bool
	}{
		{name: "return", set: func(w *world) { w.later("bad", "in 1 hour") },
			poison: "UPDATE returns SET value = '{' || value WHERE " + bad, mend: "UPDATE returns SET value = substr(value, 2) WHERE " + bad,
			title: "A letter did not come back: “bad”", mended: func(w *world) bool { return w.has(decide.Inbox, "bad") }},
		{name: "limit", set: func(w *world) {
			w.receive(mail{id: "bad", from: "Bram <bram@freight.example>", subject: "bad"})
			row := w.titled(decide.Inbox, "bad")
			w.send(&row, func(s *app.Sending) { s.Wait = "in 1 hour" })
		},
			poison: "UPDATE expectations SET persons = '{'", mend: `UPDATE expectations SET persons = '["bram@freight.example"]'`,
			title: "A waiting limit", mended: func(w *world) bool { return w.has(decide.Inbox, "bad") }},
		{name: "reminder", set: func(w *world) {
			title, remind := "bad", []string{"in 1 hour"}
			_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Remind: &remind})
			require.NoError(w.t, err)
		},
			poison: "CREATE TRIGGER bad BEFORE UPDATE ON reminders BEGIN SELECT raise(ABORT, 'it can not be'); END", mend: "DROP TRIGGER bad",
			title: "A reminder did not ring: “bad”", mended: func(w *world) bool { return len(w.overview().Ringing) == 1 }},
		{name: "send", set: func(w *world) {
			w.receive(mail{id: "bad", from: "Bram <bram@freight.example>", subject: "bad"})
			row := w.titled(decide.Inbox, "bad")
			w.send(&row, nil)
		},
			poison: "UPDATE outbox SET recipients = '{'", mend: `UPDATE outbox SET recipients = '["bram@freight.example"]'`,
			title: "A letter did not leave: “Re: bad”", mended: func(w *world) bool { return len(w.post.sent) == 1 }},
		{name: "purge", set: func(w *world) {
			w.receive(mail{id: "bad", from: "Bram <bram@freight.example>", subject: "bad"})
			w.decide(decide.ToBin, w.titled(decide.Inbox, "bad"))
			w.behind("UPDATE conversations SET place_since = place_since - 86400000 * 30 + 3600000 WHERE place = 'bin'")
		},
			poison: "CREATE TRIGGER bad BEFORE DELETE ON conversations BEGIN SELECT raise(ABORT, 'it can not be'); END", mend: "DROP TRIGGER bad",
			title: "The bin could not let go of a letter: “bad”", mended: func(w *world) bool { return !w.has(decide.Bin, "bad") }},
		{name: "delivery", set: func(w *world) {
			_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "in 1 hour"})
			require.NoError(w.t, err)
			w.receive(mail{id: "bad", from: "Bram <bram@freight.example>", subject: "bad"})
			w.receive(mail{id: "sound", from: "Bram <bram@freight.example>", subject: "sound"})
			w.behind("DELETE FROM prepared") // so that each goes the long way
		},
			poison: "UPDATE blobs SET packed = CAST(x'00' || packed AS BLOB) WHERE sha = (SELECT sha FROM letters WHERE subject = 'bad')",
			mend:   "UPDATE blobs SET packed = CAST(substr(packed, 2) AS BLOB) WHERE sha = (SELECT sha FROM letters WHERE subject = 'bad')",
			title:  "A held letter could not be let in: “bad”", mended: func(w *world) bool { return w.has(decide.Inbox, "bad") && w.has(decide.Inbox, "sound") }},
		{name: "foreign id", set: func(w *world) {
			w.later("bad", "in 1 hour")
			w.behind(`INSERT INTO journal (owner, command_id, kind, actor, title, at, recorded_at)
				SELECT owner, 'return:' || conversation_id || ':' || due || ':v' || (SELECT version FROM field_versions WHERE object = 'conversation' AND object_id = conversation_id AND field = 'return'), 'return', 'clock', 'x', 1, 1 FROM returns WHERE ` + bad)
		},
			poison: "SELECT 1", mend: "DELETE FROM journal WHERE title = 'x'",
			title: "A letter did not come back: “bad”", mended: func(w *world) bool { return w.has(decide.Inbox, "bad") }},
	}
	for _, b := range broken {
		t.Run(b.name, func(t *testing.T) {
			w := newWorld(t)
			w.later("other", "in 61 minutes")
			b.set(w)
			w.behind(b.poison)
			w.pass(62 * time.Minute)
			assert.True(t, w.has(decide.Inbox, "other"), "what comes after it happens")
			troubles := w.overview().Troubles
			require.Len(t, troubles, 1)
			assert.Contains(t, troubles[0].Title, b.title)
			assert.NotEmpty(t, troubles[0].Reason)
			assert.NotContains(t, troubles[0].Reason, "invalid character")
			assert.False(t, b.mended(w))

			w.behind(b.mend)
			w.pass(2 * time.Hour)
			assert.True(t, b.mended(w), "it happens once it can")
			assert.Empty(t, w.overview().Troubles)
		})
	}
}

// A panic in what runs unasked is a failure like others.
func TestAPanicStopsNothing(t *testing.T) {
	w := newWorld(t)
	w.app.Sender = panicking{}
	w.receive(mail{id: "one", from: "Bram <bram@freight.example>", subject: "one"})
	row := w.row(decide.Inbox)
	w.send(&row, nil)
	w.later("other", "in 1 minute")
	w.pass(2 * time.Minute)
	assert.True(t, w.has(decide.Inbox, "other"))
	require.Len(t, w.overview().Troubles, 1)
	assert.Contains(t, w.overview().Troubles[0].Reason, "panic")
	w.app.Sender = w.post
	w.pass(time.Hour)
	assert.Len(t, w.post.sent, 1)
}

type panicking struct{}

func (panicking) Send(context.Context, post.Envelope, []byte) ([]post.Outcome, error) {
	panic("no such thing")
}

// A letter from one own address to another is one letter with two arrivals,
// whichever comes first.
func TestALetterToOneselfIsOneLetter(t *testing.T) {
	for _, first := range []string{"sent", "brought"} {
		t.Run(first, func(t *testing.T) {
			w := newWorld(t)
			bring := func(raw []byte) {
				require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "walks@norrholm.example", Source: "smtp", Raw: append([]byte("Received: by post.example; Tue, 24 Nov 2026 08:21:00 +0100\r\n"), raw...), At: w.clock.Now()}))
			}
			if first == "brought" { // the copy is here before it is known to have left
				w.app.Sender = bringing{w, bring}
			}
			_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{
				Kind: "new", From: "ines@norrholm.example", To: []string{"walks@norrholm.example"}, Subject: "To myself", Text: "Remember."}})
			require.NoError(t, err)
			w.pass(11 * time.Second)
			if first == "sent" {
				bring(w.post.sent[0])
			}
			row := w.row(decide.Inbox)
			c, err := w.app.Open(w.ctx, w.who, row.ID)
			require.NoError(t, err)
			assert.Len(t, c.LetterList, 1)
			assert.Empty(t, w.overview().Outbox, "it has left")
			var arrivals int
			db, err := sql.Open("sqlite3", w.app.Store.Path())
			require.NoError(t, err)
			defer db.Close()
			require.NoError(t, db.QueryRow("SELECT count(*) FROM arrivals").Scan(&arrivals))
			assert.Equal(t, 2, arrivals)
		})
	}
}

// bringing brings a letter back while it is still being sent.
type bringing struct {
	w     *world
	bring func([]byte)
}

func (b bringing) Send(ctx context.Context, e post.Envelope, raw []byte) ([]post.Outcome, error) {
	b.bring(raw)
	return b.w.post.Send(ctx, e, raw)
}

// A copy to myself joins the conversation in which the letter was written, also
// if it is back before Ebbe knows that it has left.
func TestACopyToMyselfJoinsWhatItWasWrittenIn(t *testing.T) {
	w := newWorld(t)
	w.app.Sender = bringing{w, func(raw []byte) {
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "walks@norrholm.example", Source: "smtp", Raw: raw, At: w.clock.Now()}))
	}}
	_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{
		Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Cc: []string{"walks@norrholm.example"}, Subject: "Both", Text: "Hello.", Wait: "1w"}})
	require.NoError(t, err)
	w.pass(11 * time.Second)
	waits, err := w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, waits, 1)
	c, err := w.app.Open(w.ctx, w.who, waits[0].Conversation)
	require.NoError(t, err)
	assert.Len(t, c.LetterList, 1, "the letter is where it is waited for")
}

// Command ids of persons, of the clock and of arriving letters don't meet, and
// the same id for something else, or of somebody else, is refused.
func TestCommandIDsDontMeet(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "one", from: "Bram <bram@freight.example>", subject: "one"})
	row := w.row(decide.Inbox)
	_, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: "send:1:try:0", Kind: decide.Done, On: []store.Seen{{ID: row.ID, Last: row.Last}}})
	require.NoError(t, err)
	row = w.row(decide.Archive)
	w.send(&row, nil)
	w.pass(time.Minute)
	assert.Len(t, w.post.sent, 1)
	assert.Empty(t, w.overview().Outbox, "a person's id does not stop it from having left")

	_, err = w.app.Undo(w.ctx, w.who, "send:1:try:0", 0, true)
	assert.ErrorContains(t, err, "used for something else")

	other, err := w.app.Store.AddPerson(w.ctx, store.Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []store.Account{{Address: "tove@else.example", Name: "Tove"}}, start)
	require.NoError(t, err)
	_, err = w.app.Hold(w.ctx, other, "send:1:try:0", app.Holding{})
	assert.ErrorIs(t, err, store.ErrForeign)
}

// A letter goes to those for whom it is accepted; each outcome is kept.
func TestOutcomesAreKeptForEachRecipient(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.post.says = []post.Outcome{
		{Recipient: "bram@freight.example", Accepted: true},
		{Recipient: "full@x.example", Reason: "452 4.2.2 mailbox full"},
		{Recipient: "gone@x.example", Refused: true, Reason: "550 5.1.1 nobody of that name"},
	}
	w.send(&row, func(s *app.Sending) { s.Cc = []string{"full@x.example", "gone@x.example"} })
	w.pass(11 * time.Second)
	back := w.row(decide.Inbox)
	assert.Contains(t, back.Back, "gone@x.example")
	c, err := w.app.Open(w.ctx, w.who, back.ID)
	require.NoError(t, err)
	require.Len(t, c.LetterList, 2, "it has left for one of them")
	require.Len(t, c.LetterList[1].Outcomes, 3)

	w.post.says = nil
	w.pass(2 * time.Minute)
	require.Len(t, w.post.to, 1)
	assert.Equal(t, []string{"full@x.example"}, w.post.to[0], "only to whom it is still to go")
	assert.Empty(t, w.overview().Outbox)
}

// With a full disk nothing is at fault, and all goes on once there is space.
func TestAFullDiskIsWaitedFor(t *testing.T) {
	folder := t.TempDir()
	if err := exec.Command("mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", folder).Run(); err != nil {
		t.Skip("this test makes a small disk of its own, which it may not here: ", err)
	}
	t.Cleanup(func() { assert.NoError(t, exec.Command("umount", folder).Run()) })
	w := newWorldAt(t, filepath.Join(folder, "ebbe.db"))
	w.later("one", "in 1 hour")
	w.clock.Advance(2 * time.Hour)

	filler := filepath.Join(folder, "filler")
	f, err := os.Create(filler)
	require.NoError(t, err)
	for block := make([]byte, 512); err == nil; _, err = f.Write(block) {
	}
	require.ErrorContains(t, err, "no space left")
	require.NoError(t, f.Close())
	next, err := w.app.RunDue(w.ctx)
	require.Error(t, err)
	assert.Equal(t, "The disk is full.", store.Unavailable(err))
	assert.LessOrEqual(t, next.Sub(w.clock.Now()), 2*time.Second)

	require.NoError(t, os.Remove(filler))
	w.pass(next.Sub(w.clock.Now()))
	assert.True(t, w.has(decide.Inbox, "one"))
	assert.Empty(t, w.overview().Troubles)
}

// A mail server that takes a minute delays nothing but its own letter.
func TestSendingRunsBesideTheClock(t *testing.T) {
	w := newWorld(t)
	mails := holding{began: make(chan string), goOn: make(chan bool)}
	w.app.Sender = mails
	w.receive(mail{id: "one", from: "Bram <bram@freight.example>", subject: "one"})
	row := w.row(decide.Inbox)
	w.send(&row, nil)
	w.later("other", "in 1 minute")

	ctx, stop := context.WithCancel(w.ctx)
	ran := make(chan bool)
	go func() {
		w.app.Run(ctx)
		close(ran)
	}()
	news, end := w.app.Listen(w.who)
	defer end()
	w.clock.Advance(11 * time.Second)
	w.app.Wake()
	<-mails.began // and is not answered
	w.clock.Advance(time.Minute)
	w.app.Wake()
	for !w.has(decide.Inbox, "other") {
		<-news
	}
	mails.goOn <- true
	for len(w.overview().Outbox) > 0 {
		<-news
	}
	stop()
	<-ran
}

// holding is a mail service that answers when it is told to.
type holding struct {
	began chan string
	goOn  chan bool
}

func (h holding) Send(ctx context.Context, e post.Envelope, _ []byte) ([]post.Outcome, error) {
	h.began <- e.To[0]
	select {
	case <-h.goOn:
		return taken(e.To), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// One letter of an import that can't be stored is left out and listed; the
// others are taken.
func TestOneBadLetterDoesNotStopAnImport(t *testing.T) {
	w := newWorld(t)
	w.behind("CREATE TRIGGER bad BEFORE INSERT ON letters WHEN NEW.subject = 'bad' BEGIN SELECT raise(ABORT, 'it can not be'); END")
	folder := t.TempDir()
	for _, subject := range []string{"one", "bad", "two"} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, subject+".eml"), mail{id: subject, from: "Bram <bram@freight.example>", subject: subject}.bytes(start), 0o600))
	}
	v := w.importFile(folder, nil)
	assert.Equal(t, "done", v.State)
	assert.Equal(t, 2, v.New)
	require.Len(t, v.Troubles, 1)
	assert.Contains(t, v.Troubles[0].What, "it could not be stored")
}
