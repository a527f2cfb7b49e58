package app_test

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	reach "ebbe.example/ebbe/internal/post/imap"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/vault"
)

// reaches lets accounts be on mail servers, over which a sender sends.
func reaches(a *app.App, sender app.Sender) error {
	a.Reach = func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error) {
		return reach.Dial(ctx, server, login, nil)
	}
	a.Submit = func(post.Server, post.Login) app.Sender { return sender }
	secrets, err := vault.Open(a.Store.Path(), "")
	a.Secrets = secrets
	return err
}

// letters are how many a server has at first.
const letters = 250

// syncing is what a person does while the account is on a server, and both sides made alike.
// It can be done again after a crash.
func syncing(a *app.App, clock *clockwork.FakeClock, who store.Who) error {
	ctx := context.Background()
	if err := reaches(a, a.Sender); err != nil {
		return err
	}
	page, err := a.List(ctx, who, decide.Inbox, true, 0, "")
	if err != nil {
		return err
	}
	spared := []string{load(2).subject, load(3).subject, load(letters).subject} // something else is done with them
	i := slices.IndexFunc(page.Rows, func(r show.Row) bool { return !slices.Contains(spared, r.Title) })
	if i >= 0 {
		r := page.Rows[i]
		if _, err := a.Decide(ctx, who, app.Deciding{Command: "crash-sync-done", Kind: decide.Done, On: []store.Seen{{ID: r.ID, Last: r.Last}}}); err != nil {
			return err
		}
	}
	_, err = a.Send(ctx, who, app.Sending{Command: "crash-sync-send", Writing: show.Writing{
		Kind: "new", From: "ines@norrholm.example", To: []string{"mats@norrholm.example"}, Subject: "From here", Text: "Yes."}})
	if err != nil {
		return err
	}
	if _, err := a.SaveDraft(ctx, who, "crash-sync-draft", 0, show.Writing{Kind: "new", From: "ines@norrholm.example", Subject: "Half of it", Text: "I"}); err != nil {
		return err
	}
	clock.Advance(time.Minute)
	if _, err := a.RunDue(ctx); err != nil {
		return err
	}
	accounts, err := a.Accounts(ctx, who)
	if err != nil {
		return err
	}
	return a.SyncOnce(ctx, who, accounts[0].ID)
}

// Killed in the middle of the first sync, or of any later one in either direction, both
// sides become alike after all: nothing is lost, nothing is there twice.
func TestKilledWhileSyncing(t *testing.T) {
	cases := []struct {
		point string
		nth   int
		first bool // in the first sync
	}{
		{"sync.before-fetch", 1, true}, {"sync.before-fetch", 2, true}, {"sync.before-fetch", 4, true}, {"sync.after-store", 1, true},
		{"sync.before-fetch", 1, false}, {"sync.before-fetch", 2, false}, {"sync.after-store", 1, false},
		{"push.before", 1, false}, {"push.before", 2, false}, {"push.after", 1, false}, {"push.after", 2, false},
		{"command.after-commit", 3, false}, {"command.before-commit", 4, false}, {"command.after-commit", 4, false}, {"command.after-commit", 5, false},
	}
	for _, c := range cases {
		t.Run(fmt.Sprintf("%s-%d-%v", c.point, c.nth, c.first), func(t *testing.T) {
			t.Parallel()
			killedWhileSyncing(t, c.point, c.nth, c.first)
		})
	}
}

func killedWhileSyncing(t *testing.T, point string, nth int, first bool) {
	t.Helper()
	there := &mailstore.Server{Log: slog.New(slog.DiscardHandler)}
	_, err := there.AddUser(walks, sesame)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = there.Serve(l) }()
	t.Cleanup(func() { assert.NoError(t, there.Close()) })
	var list []mailstore.Letter
	for n := range letters {
		list = append(list, mailstore.Letter{At: start.Add(lastHour), Raw: load(n).sentTo("ines@norrholm.example").bytes(start.Add(lastHour))})
	}
	require.NoError(t, there.Put(walks, "INBOX", list...))

	a, file, who := newCrashed(t)
	require.NoError(t, reaches(a, spool{t.TempDir()}))
	accounts, err := a.Accounts(t.Context(), who)
	require.NoError(t, err)
	account := accounts[0].ID
	server := remote.Server{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: post.Plain}
	connects := func(server remote.Server) {
		_, err := a.Connect(t.Context(), who, "crash-connect", app.Connecting{Account: account, Login: walks, Password: sesame, Incoming: server, Outgoing: server})
		require.NoError(t, err)
		a.StopSyncing()
	}
	connects(server)
	w := &twoSides{world: &world{t: t, app: a, who: who, ctx: t.Context()}, there: there, server: server, login: walks, account: account}
	if !first {
		w.sync()
		w.phone("INBOX", load(2).subject, moves("Later/next week"))
		w.phone("INBOX", load(3).subject, flags([]string{`\Flagged`, "Spring_fair"}, nil))
		require.NoError(t, there.Put(walks, "INBOX", mailstore.Letter{At: start, Raw: load(letters).sentTo("ines@norrholm.example").bytes(start)}))
		require.NoError(t, there.Put(walks, "Archive", mailstore.Letter{At: start, Raw: load(letters + 1).sentTo("ines@norrholm.example").bytes(start)}))
	}
	require.NoError(t, a.Store.Close())
	killIn(t, "sync", file, point, nth)

	a, clock := openCrashed(t, file)
	w.app = a
	for range 2 {
		require.NoError(t, syncing(a, clock, who), "the day goes on")
	}
	lies := func(n int) string {
		found := w.lies(load(n).subject)
		require.Len(t, found, 1, "letter %d", n)
		return strings.Fields(found[0])[0]
	}
	for _, title := range w.titles(decide.Archive) {
		want := map[bool]string{true: "Sent", false: "Archive"}[title == "From here"]
		assert.Equal(t, want, strings.Fields(w.lies(title)[0])[0], title)
	}
	assert.Len(t, w.lies("From here"), 1, "what was sent")
	assert.Len(t, w.lies("Half of it"), 1, "what is being written")
	assert.Equal(t, []string{"Half of it"}, w.drafts())
	inbox, err := a.Everything(t.Context(), who, decide.Inbox, 0)
	require.NoError(t, err)
	if first {
		assert.Len(t, inbox, letters-1)
		assert.Len(t, w.titles(decide.Archive), 2)
	} else {
		assert.Equal(t, "Later", lies(2))
		assert.Equal(t, "INBOX", lies(letters))
		assert.Len(t, inbox, letters-1)
		assert.Len(t, w.titles(decide.Archive), 3)
		found, err := a.Search(t.Context(), who, show.Asked{Q: `label:"Spring fair"`})
		require.NoError(t, err)
		require.Len(t, found.Rows, 1)
		assert.True(t, found.Rows[0].Star)
	}
	problems, err := a.Store.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, problems)
	require.NoError(t, a.Store.Close())
}
