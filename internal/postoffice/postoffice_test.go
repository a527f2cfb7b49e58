package postoffice

import (
	"bytes"
	"fmt"
	"log/slog"
	"net"
	"path/filepath"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

var now = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

// echo answers everybody after an hour.
type echo struct{}

func (echo) Answer(to string, l letter.Letter, _ time.Time) []Coming {
	return []Coming{{After: time.Hour, From: to, To: l.From.Email,
		Raw: []byte("From: " + to + "\r\nTo: " + l.From.Email + "\r\nSubject: Re: " + l.Subject + "\r\nMessage-ID: <r" + l.MessageID + ">\r\n\r\nYes.\r\n")}}
}

func (echo) Knows(address string) bool { return address == "tove@n.example" }

func open(t *testing.T) (*Office, post.Relay, *clockwork.FakeClock) {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "ebbe.db"))
	require.NoError(t, err)
	_, err = s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "UTC"}, []store.Account{{Address: "ines@n.example", Name: "Ines"}}, now)
	require.NoError(t, err)
	clock := clockwork.NewFakeClockAt(now)
	o := &Office{App: app.New(s, clock, slog.New(slog.DiscardHandler)), Correspondent: echo{}, Log: slog.New(slog.DiscardHandler)}
	o.App.Post = o
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	o.Start(l)
	t.Cleanup(func() { _ = o.Stop(); _ = s.Close() })
	relay := post.Relay{Addr: l.Addr().String(), Timeout: 5 * time.Second}
	o.App.Sender = relay
	return o, relay, clock
}

func inbox(t *testing.T, o *Office) []show.Row {
	t.Helper()
	page, err := o.App.List(t.Context(), store.Own(1), decide.Inbox, false, 0, "")
	require.NoError(t, err)
	return page.Rows
}

func TestCorrespondentsAnswerOnTheClock(t *testing.T) {
	o, _, clock := open(t)
	_, err := o.App.Send(t.Context(), store.Own(1), app.Sending{Command: "command-1", Writing: show.Writing{
		Kind: "new", From: "ines@n.example", To: []string{"eva@x.example"}, Subject: "Well?", Text: "?"}})
	require.NoError(t, err)
	clock.Advance(10 * time.Second)
	next, err := o.App.RunDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, now.Add(time.Hour+10*time.Second), next.UTC(), "the answer is on its way")
	assert.Empty(t, inbox(t, o))
	clock.Advance(time.Hour)
	_, err = o.App.RunDue(t.Context())
	require.NoError(t, err)
	rows := inbox(t, o)
	require.Len(t, rows, 1)
	assert.Equal(t, "Well?", rows[0].Title, "it joins by its subject")

	// Brought once more, as after a crash, it is known.
	again := echo{}.Answer("eva@x.example", letter.Letter{MessageID: "again", From: letter.Address{Email: "ines@n.example"}}, now)[0].Raw
	ines, err := o.recipient(t.Context(), "ines@n.example")
	require.NoError(t, err)
	for range 2 {
		require.NoError(t, o.deliver(t.Context(), "eva@x.example", []recipient{ines}, again, now))
	}
	assert.Len(t, inbox(t, o), 2)
}

func TestWhoIsGoneIsRefusedAndTheOthersGetIt(t *testing.T) {
	_, relay, _ := open(t)
	said, err := relay.Send(t.Context(), post.Envelope{From: "ines@n.example", To: []string{"gone@x.example", "eva@x.example"}}, []byte("Subject: x\r\n\r\ny\r\n"))
	require.NoError(t, err)
	require.Len(t, said, 2)
	assert.True(t, said[0].Refused)
	assert.Contains(t, said[0].Reason, "nobody of that name")
	assert.Equal(t, post.Outcome{Recipient: "eva@x.example", Accepted: true}, said[1])
}

func TestAClosedOfficeIsTriedAgain(t *testing.T) {
	o, relay, _ := open(t)
	require.NoError(t, o.Stop())
	said, err := relay.Send(t.Context(), post.Envelope{From: "ines@n.example", To: []string{"eva@x.example"}}, []byte("x"))
	require.Error(t, err)
	assert.Empty(t, said, "not a refusal for good")
}

// What is taken has somewhere to go; all else is refused while the sender can
// still be told.
func TestNothingIsTakenAndThenDropped(t *testing.T) {
	o, relay, _ := open(t)
	_, err := o.App.NewAccount(t.Context(), store.Own(1), "second", "old@n.example", app.AccountFields{})
	require.NoError(t, err)
	no := false
	_, err = o.App.EditAccount(t.Context(), store.Own(1), "lay-aside", 2, app.AccountFields{Alive: &no})
	require.NoError(t, err)
	cases := []struct {
		to, refused string
		arrives     bool
	}{
		{"ines@n.example", "", true},
		{"Ines@N.Example.", "", true},
		{"ines+walks@n.example", "", true},
		{"nobody@n.example", "5.1.1", false},
		{"old@n.example", "5.2.1", false},
		{"old+tag@n.example", "5.2.1", false},
		{"tove@n.example", "", false}, // a colleague outside
		{"eva@x.example", "", false},
	}
	for i, c := range cases {
		before := len(inbox(t, o))
		raw := fmt.Appendf(nil, "From: a@x.example\r\nSubject: %d\r\nMessage-ID: <%d@x.example>\r\n\r\nHello.\r\n", i, i)
		said, err := relay.Send(t.Context(), post.Envelope{From: "a@x.example", To: []string{c.to}}, raw)
		require.NoError(t, err, c.to)
		require.Len(t, said, 1, c.to)
		assert.Equal(t, c.refused != "", said[0].Refused, "%s: %s", c.to, said[0].Reason)
		assert.Contains(t, said[0].Reason, c.refused, c.to)
		if c.arrives {
			before++
		}
		assert.Len(t, inbox(t, o), before, c.to)
	}
}

func TestWithoutAMailServiceLettersOutsideAreRefused(t *testing.T) {
	o, relay, _ := open(t)
	o.Correspondent = nil
	said, err := relay.Send(t.Context(), post.Envelope{From: "ines@n.example", To: []string{"eva@x.example", "ines@n.example"}}, []byte("Subject: x\r\n\r\ny\r\n"))
	require.NoError(t, err)
	require.Len(t, said, 2)
	assert.True(t, said[0].Refused)
	assert.Contains(t, said[0].Reason, "No mail service is connected")
	assert.True(t, said[1].Accepted)
}

// Long lines come in whole; what is too large is answered.
func TestLongLinesAreTaken(t *testing.T) {
	_, relay, _ := open(t)
	relay.Timeout = time.Minute
	for _, size := range []int{1001, 2001, 1 << 20, 20 << 20} {
		raw := fmt.Appendf(nil, "From: a@x.example\r\nSubject: %d\r\n\r\n%s\r\n", size, bytes.Repeat([]byte("x"), size))
		said, err := relay.Send(t.Context(), post.Envelope{From: "a@x.example", To: []string{"ines@n.example"}}, raw)
		require.NoError(t, err, size)
		require.Len(t, said, 1)
		assert.True(t, said[0].Accepted, "%d: %s", size, said[0].Reason)
	}
	said, err := relay.Send(t.Context(), post.Envelope{From: "a@x.example", To: []string{"ines@n.example"}}, bytes.Repeat([]byte("x"), post.MaxLetter+1))
	require.NoError(t, err)
	require.Len(t, said, 1)
	assert.True(t, said[0].Refused)
	assert.Contains(t, said[0].Reason, "552")
}

// The envelope's sender belongs to the arrival: one without is automatic mail,
// whatever the letter itself says.
func TestTheEnvelopeCounts(t *testing.T) {
	o, relay, _ := open(t)
	_, err := relay.Send(t.Context(), post.Envelope{From: "", To: []string{"ines@n.example"}}, []byte("From: a@x.example\r\nReturn-Path: <a@x.example>\r\nSubject: bounced\r\n\r\nHello.\r\n"))
	require.NoError(t, err)
	page, err := o.App.List(t.Context(), store.Own(1), decide.Shallows, false, 0, "")
	require.NoError(t, err)
	require.Len(t, page.Rows, 1, "it is a machine's")
	c, err := o.App.Open(t.Context(), store.Own(1), page.Rows[0].ID)
	require.NoError(t, err)
	assert.Equal(t, letter.Report, c.LetterList[0].Automatic)
}
