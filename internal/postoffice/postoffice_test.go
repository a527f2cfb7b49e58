package postoffice

import (
	"context"
	"errors"
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
	"ebbe.example/ebbe/internal/store"
)

var now = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

// echo answers everybody after an hour.
type echo struct{}

func (echo) Answer(to string, l letter.Letter, _ time.Time) []Coming {
	return []Coming{{After: time.Hour, From: to, To: l.From.Email,
		Raw: []byte("From: " + to + "\r\nTo: " + l.From.Email + "\r\nSubject: Re: " + l.Subject + "\r\nMessage-ID: <r" + l.MessageID + ">\r\n\r\nYes.\r\n")}}
}

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

func inbox(t *testing.T, o *Office) []app.Row {
	t.Helper()
	page, err := o.App.List(t.Context(), 1, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	return page.Rows
}

func TestCorrespondentsAnswerOnTheClock(t *testing.T) {
	o, _, clock := open(t)
	_, err := o.App.Send(t.Context(), 1, app.Sending{Command: "command-1", Writing: app.Writing{
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
	require.NoError(t, o.deliver(context.Background(), []string{"ines@n.example"},
		echo{}.Answer("eva@x.example", letter.Letter{MessageID: "again", From: letter.Address{Email: "ines@n.example"}}, now)[0].Raw, now))
	require.NoError(t, o.deliver(context.Background(), []string{"ines@n.example"},
		echo{}.Answer("eva@x.example", letter.Letter{MessageID: "again", From: letter.Address{Email: "ines@n.example"}}, now)[0].Raw, now))
	assert.Len(t, inbox(t, o), 2)
}

func TestWhoIsGoneIsRefused(t *testing.T) {
	_, relay, _ := open(t)
	err := relay.Send(t.Context(), "ines@n.example", []string{"eva@x.example", "gone@x.example"}, []byte("Subject: x\r\n\r\ny\r\n"))
	var refused *post.Refused
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, refused.Reason, "gone@x.example")
}

func TestAClosedOfficeIsTriedAgain(t *testing.T) {
	o, relay, _ := open(t)
	require.NoError(t, o.Stop())
	err := relay.Send(t.Context(), "ines@n.example", []string{"eva@x.example"}, []byte("x"))
	var refused *post.Refused
	assert.Error(t, err)
	assert.False(t, errors.As(err, &refused), "not a refusal for good")
}
