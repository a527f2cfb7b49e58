package app_test

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/show"
)

// What was decided elsewhere is decided here once, also if Ebbe dies right after it, or the
// server does not let the letter move on.
func TestDecidedElsewhereOnce(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	w.phone("INBOX", "Load 1", moves("Follow up"))
	w.app.Hook = func(point string) {
		if point == "command.after-commit" && w.overview().FollowUp == 1 {
			panic("died")
		}
	}
	assert.Panics(t, func() { _ = w.app.SyncOnce(w.ctx, w.who, w.account) })
	w.app.Hook = nil
	assert.Equal(t, 1, w.overview().FollowUp)
	w.there.Fail(func(command string) error {
		if command == "MOVE" {
			return &imap.Error{Type: imap.StatusResponseTypeNo, Text: "Not now"}
		}
		return nil
	})
	w.sync()
	w.phone("Follow up", "Load 1", flags([]string{`\Flagged`}, nil))
	w.sync()
	assert.Equal(t, 1, w.overview().FollowUp)
	w.there.Fail(nil)
	w.pass(time.Hour)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen \Flagged`}, w.lies("Load 1"))
	assert.Equal(t, 1, w.overview().FollowUp)
}

// One conversation that can't be read keeps no other from what was done elsewhere, and says
// what it is.
func TestOneThatCantBeReadElsewhere(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2))
	w.connect()
	w.behind("UPDATE conversations SET back = '{' WHERE subject = 'Load 1'")
	defer w.behind("UPDATE conversations SET back = NULL WHERE subject = 'Load 1'")
	w.phone("INBOX", "Load 1", moves("Archive"))
	w.phone("INBOX", "Load 2", moves("Archive"))
	w.sync()
	assert.Equal(t, []string{"Load 2"}, w.titles(decide.Archive))
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"), "it stays as it is here")
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "but not here"})
	require.NoError(t, err)
	require.Len(t, entries, 1)
	assert.Contains(t, entries[0].Title, "Load 1")
}

// Servers that offer less do as well.
func TestLesserServers(t *testing.T) {
	for _, without := range [][]imap.Cap{{imap.CapMove}, {imap.CapMove, imap.CapUIDPlus}, {imap.CapSpecialUse}, {imap.CapIdle, imap.CapNamespace}, {imap.CapUIDPlus}} {
		t.Run(fmt.Sprint(without), func(t *testing.T) {
			w := onAServer(t, without...)
			w.comes("INBOX", load(1))
			w.comes("INBOX", load(2))
			w.connect()
			for _, r := range w.rows(decide.Inbox) {
				if r.Title == "Load 1" {
					w.decide(decide.Done, r)
				}
			}
			w.phone("INBOX", "Load 2", moves("Trash"))
			w.sync()
			w.sync()
			assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
			assert.Equal(t, []string{"Load 2"}, w.titles(decide.Bin))
			for subject, want := range map[string]string{"Load 1": "Archive", "Load 2": "Trash"} {
				var left []string
				for _, l := range w.lies(subject) { // those marked as deleted are left out
					left = append(left, strings.Fields(l)[0])
				}
				assert.Equal(t, []string{want}, left, subject)
			}
		})
	}
}

// errCut ends the connection, as a cable does that is pulled.
var errCut = errors.New("cut")

// Wherever the connection fails or the server refuses, the next time both sides become
// alike: nothing is lost, nothing is there twice.
func TestFaultsAtEachCommand(t *testing.T) {
	w := onAServer(t)
	w.connect()
	first := 0
	for _, refused := range []bool{true, false} {
		for at, done := 1, false; !done; at++ {
			first += 10
			for n := range 3 {
				w.comes("INBOX", load(first+n))
			}
			w.sync()
			for _, r := range w.rows(decide.Inbox) {
				if r.Title == load(first).subject {
					w.decide(decide.Done, r)
				}
			}
			w.phone("INBOX", load(first+1).subject, moves("Later/next week"))
			w.comes("INBOX", load(first+3))
			n := 0
			w.there.Fail(func(string) error {
				if n++; n != at {
					return nil
				}
				if refused {
					return &imap.Error{Type: imap.StatusResponseTypeNo, Text: "Not now"}
				}
				return errCut
			})
			err := w.app.SyncOnce(w.ctx, w.who, w.account)
			if done = n < at; done {
				require.NoError(t, err)
			}
			w.there.Fail(nil)
			w.pass(time.Minute)
			w.sync()
			w.sync()
			for n, want := range []struct {
				place  decide.Place
				folder string
			}{{decide.Archive, "Archive"}, {decide.Later, "Later"}, {decide.Inbox, "INBOX"}, {decide.Inbox, "INBOX"}} {
				subject := load(first + n).subject
				assert.Contains(t, w.titles(want.place), subject, "%v at %d", refused, at)
				require.Len(t, w.lies(subject), 1, "%s, %v at %d", subject, refused, at)
				assert.Equal(t, want.folder, strings.Fields(w.lies(subject)[0])[0], "%s, %v at %d", subject, refused, at)
			}
			for _, r := range w.rows(decide.Inbox) { // out of the way of the next
				w.decide(decide.Done, r)
			}
		}
	}
}

// A server that can't be used is named in words, and the page is never kept waiting.
func TestServersThatCantBeUsed(t *testing.T) {
	w := onAServer(t)
	nobody, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	port := nobody.Addr().(*net.TCPAddr).Port
	require.NoError(t, nobody.Close())
	cases := []struct {
		name   string
		change func(*app.Connecting)
		step   post.Step
		reason string
	}{
		{"a wrong password", func(c *app.Connecting) { c.Password = "wrong" }, post.AtPassword, "refused the name or the password"},
		{"nobody there", func(c *app.Connecting) { c.Incoming.Port = port }, post.AtPort, "can’t be reached at port"},
		{"in the open to another machine", func(c *app.Connecting) { c.Incoming.Host = "192.0.2.1" }, post.AtTLS, "is not on this machine"},
		{"no TLS where it should be", func(c *app.Connecting) { c.Incoming.Security = post.TLS }, post.AtTLS, "does not speak TLS"},
		{"no STARTTLS", func(c *app.Connecting) { c.Incoming.Security = post.StartTLS }, post.AtTLS, "offers no TLS"},
	}
	for _, c := range cases {
		with := app.Connecting{Account: w.account, Login: w.login, Password: sesame, Incoming: w.server, Outgoing: w.server}
		c.change(&with)
		got, err := w.app.TryServers(w.ctx, w.who, with)
		require.NoError(t, err, c.name)
		assert.False(t, got.OK(), c.name)
		assert.Equal(t, c.step, got.Incoming.Step, c.name)
		assert.Contains(t, got.Incoming.Reason, c.reason, c.name)
		_, err = w.app.Connect(w.ctx, w.who, rand.Text(), with)
		var p *app.Problem
		require.ErrorAs(t, err, &p, c.name)
		assert.Equal(t, "incoming", p.Field, c.name)
	}
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, list, "nothing was connected")
}

// UIDs that mean something else, as after a server was restored, lose and double nothing.
func TestRenumbered(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2))
	w.connect()
	w.there.Renumber(walks, "INBOX")
	w.sync()
	assert.ElementsMatch(t, []string{"Load 1", "Load 2"}, w.titles(decide.Inbox))
	w.phone("INBOX", "Load 1", moves("Archive"))
	w.sync()
	assert.Equal(t, []string{"Load 2"}, w.titles(decide.Inbox))
}

// A folder that is renamed or removed changes nothing of its letters here.
func TestFoldersComeAndGo(t *testing.T) {
	w := onAServer(t)
	w.comes("Projects", load(1))
	w.connect()
	require.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
	w.phone("Projects", "Load 1", func(post.Mailbox, []uint32) error { w.there.Rename(walks, "Projects", "Works"); return nil })
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
	w.there.Remove(walks, "Works")
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
}

// Two Ebbes on one account come to agree, whatever is done in either, and no letter is lost
// or doubled on the way.
func TestTwoOfThemOnOneAccount(t *testing.T) {
	one := onAServer(t)
	other := &twoSides{world: newWorld(t), there: one.there, login: walks}
	t.Cleanup(other.app.StopSyncing)
	other.reachedAt(one.server.Port)
	one.connect()
	other.connect()
	const letters = 3
	places := []decide.Place{decide.Inbox, decide.Archive, decide.Bin, decide.Junk, decide.Later}
	first := 0
	rapid.Check(t, func(rt *rapid.T) {
		first += letters
		for n := range letters {
			one.comes("INBOX", load(first+n))
		}
		one.sync()
		other.sync()
		for range rapid.IntRange(1, 5).Draw(rt, "acts") {
			w := rapid.SampledFrom([]*twoSides{one, other}).Draw(rt, "who")
			if rapid.Bool().Draw(rt, "sync") {
				w.sync()
				continue
			}
			subject := load(first + rapid.IntRange(0, letters-1).Draw(rt, "letter")).subject
			kind := rapid.SampledFrom([]decide.Kind{decide.Done, decide.ToBin, decide.ToJunk, decide.PutOff, decide.ToInbox}).Draw(rt, "kind")
			for _, place := range places {
				for _, r := range w.rows(place) {
					if r.Title == subject {
						w.decide(kind, r, until("friday"), sure)
					}
				}
			}
		}
		for range 3 {
			one.sync()
			other.sync()
		}
		for _, place := range places {
			here, there := one.titles(place), other.titles(place)
			slices.Sort(here)
			slices.Sort(there)
			if !slices.Equal(here, there) {
				rt.Fatalf("%s: %v in one, %v in the other", place, here, there)
			}
		}
		for n := range letters {
			if lies := one.lies(load(first + n).subject); len(lies) != 1 {
				rt.Fatalf("%s is at %v", load(first+n).subject, lies)
			}
		}
	})
}

// A password that is no longer right is said, and the day goes on with the new one.
func TestPasswordChangedMeanwhile(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	w.decide(decide.Done, w.row(decide.Inbox))
	w.there.Fail(func(command string) error {
		if command == "LOGIN" {
			return &imap.Error{Type: imap.StatusResponseTypeNo, Code: imap.ResponseCodeAuthenticationFailed, Text: "Wrong password"}
		}
		return nil
	})
	err := w.app.SyncOnce(w.ctx, w.who, w.account)
	var f *post.Fault
	require.ErrorAs(t, err, &f)
	assert.Equal(t, post.AtPassword, f.Step)
	assert.Contains(t, f.Reason, "Wrong password")
	w.there.Fail(nil)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 1"))
}

// What a full server refuses is shown with its words and done once there is room; the rest is
// not kept from it.
func TestQuotaFull(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	w.send(nil, func(s *app.Sending) { s.From, s.Subject = walks, "From here" })
	w.pass(time.Minute)
	w.decide(decide.Done, w.row(decide.Inbox))
	w.there.Fail(func(command string) error {
		if command == "APPEND" {
			return &imap.Error{Type: imap.StatusResponseTypeNo, Code: "OVERQUOTA", Text: "There is no room left"}
		}
		return nil
	})
	w.sync()
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 1"))
	assert.Empty(t, w.lies("From here"))
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, []string{"There is no room left."}, list[0].Refused)
	w.there.Fail(nil)
	w.pass(time.Hour)
	w.sync()
	assert.Len(t, w.lies("From here"), 1)
	list, err = w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, list[0].Refused)
}

// A server that says yes and does nothing is named.
func TestAServerThatOnlySaysYes(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	w.decide(decide.Done, w.row(decide.Inbox))
	w.there.Fail(func(command string) error {
		if command == "MOVE" {
			return mailstore.ErrPretend
		}
		return nil
	})
	for range 6 {
		w.sync()
		w.pass(10 * time.Minute)
	}
	assert.Equal(t, []string{`INBOX \Seen`}, w.lies("Load 1"))
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, []string{"The server said that it did it, and did nothing."}, list[0].Refused)
	w.there.Fail(nil)
	w.pass(6 * time.Hour)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 1"))
}

// interrupted is a mailbox in which something happens just before letters are fetched.
type interrupted struct {
	post.Mailbox
	happens func()
}

func (i *interrupted) Fetch(uids []uint32, each func(post.Message) error) error {
	if happens := i.happens; happens != nil {
		i.happens = nil
		happens()
	}
	return i.Mailbox.Fetch(uids, each)
}

// What comes and goes while letters are fetched is as it should be the next time.
func TestChangedWhileFetched(t *testing.T) {
	w := onAServer(t)
	w.connect()
	dial := w.app.Reach
	during := func(happens func()) {
		t.Helper()
		w.app.Reach = func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error) {
			box, err := dial(ctx, server, login)
			return &interrupted{box, func() { w.app.Reach = dial; happens() }}, err
		}
		w.sync()
	}
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2))
	during(func() { w.phone("INBOX", "Load 1", purges) })
	assert.Equal(t, []string{"Load 2"}, w.titles(decide.Inbox))
	w.comes("INBOX", load(3))
	during(func() { w.comes("Entwürfe & Küche", load(4)) })
	w.pass(time.Hour)
	w.sync()
	assert.ElementsMatch(t, []string{"Load 2", "Load 3"}, w.titles(decide.Inbox))
	assert.Equal(t, []string{"Entwürfe & Küche"}, w.row(decide.Archive).Labels)
	w.comes("INBOX", load(5))
	during(func() { w.there.Rename(walks, "Entwürfe & Küche", "Küche") })
	assert.ElementsMatch(t, []string{"Load 2", "Load 3", "Load 5"}, w.titles(decide.Inbox))
	w.sync()
	assert.Equal(t, []string{"Load 4"}, w.titles(decide.Archive))
}
