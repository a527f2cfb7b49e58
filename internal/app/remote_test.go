package app_test

import (
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
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
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	reach "ebbe.example/ebbe/internal/post/imap"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/vault"
)

// twoSides is an Ebbe of which one account is on a mail server, and a second program
// there: the phone.
type twoSides struct {
	*world
	there   *mailstore.Server // nil for another
	server  remote.Server
	login   string
	account int64
}

const (
	walks    = "walks@norrholm.example"
	sesame   = "sesame"
	lastHour = -time.Hour
)

// onAServer lets one account have a mail server, which lacks what is named.
func onAServer(t *testing.T, without ...imap.Cap) *twoSides {
	t.Helper()
	w := &twoSides{world: newWorld(t), login: walks, there: &mailstore.Server{Without: without, Log: slog.New(slog.DiscardHandler)}}
	_, err := w.there.AddUser(walks, sesame)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	served := make(chan error, 1)
	go func() { served <- w.there.Serve(l) }()
	t.Cleanup(func() {
		w.app.StopSyncing()
		assert.NoError(t, w.there.Close())
		assert.NoError(t, <-served)
	})
	w.reachedAt(l.Addr().(*net.TCPAddr).Port)
	return w
}

// reachedAt lets the account be on the server at a port of this machine.
func (w *twoSides) reachedAt(port int) {
	w.t.Helper()
	w.server = remote.Server{Host: "127.0.0.1", Port: port, Security: post.Plain}
	w.app.Reach = func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error) {
		return reach.Dial(ctx, server, login, nil)
	}
	w.app.Submit = func(post.Server, post.Login) app.Sender { return w.post }
	secrets, err := vault.Open(w.app.Store.Path(), "")
	require.NoError(w.t, err)
	w.app.Secrets = secrets
	accounts, err := w.app.Accounts(w.ctx, w.who)
	require.NoError(w.t, err)
	w.account = accounts[1].ID
}

// connect connects the account, without keeping it alike in the background.
func (w *twoSides) connect() {
	w.t.Helper()
	_, err := w.app.Connect(w.ctx, w.who, rand.Text(), app.Connecting{Account: w.account, Login: w.login, Password: sesame, Incoming: w.server, Outgoing: w.server})
	require.NoError(w.t, err)
	w.app.StopSyncing()
	w.sync()
}

// sync makes both sides alike.
func (w *twoSides) sync() {
	w.t.Helper()
	require.NoError(w.t, w.app.SyncOnce(w.ctx, w.who, w.account))
}

// comes lets a letter come to a folder of the server.
func (w *twoSides) comes(folder string, m mail, flags ...string) {
	w.t.Helper()
	w.put(folder, m.sentTo(walks).bytes(w.clock.Now().Add(lastHour)), flags...)
}

// put puts a letter into a folder of the server, or makes the folder if there is none.
func (w *twoSides) put(folder string, raw []byte, flags ...string) {
	w.t.Helper()
	box := w.second()
	defer func() { require.NoError(w.t, box.Close()) }()
	if folder != "INBOX" {
		require.NoError(w.t, box.Create(folder))
	}
	if raw != nil {
		_, err := box.Append(folder, raw, flags, w.clock.Now().Add(lastHour))
		require.NoError(w.t, err)
	}
}

// second is another program at the server.
func (w *twoSides) second() post.Mailbox {
	w.t.Helper()
	box, err := w.app.Reach(w.ctx, post.Server(w.server), post.Login{User: w.login, Password: sesame})
	require.NoError(w.t, err)
	return box
}

// found are the letters of a folder with a subject, as the second program sees them.
func found(t *testing.T, box post.Mailbox, folder, subject string) (out []post.Message) {
	t.Helper()
	_, err := box.Open(folder)
	require.NoError(t, err)
	standings, err := box.Standings(0)
	require.NoError(t, err)
	uids := make([]uint32, len(standings))
	for i, s := range standings {
		uids[i] = s.UID
	}
	require.NoError(t, box.Fetch(uids, func(m post.Message) error {
		if strings.Contains(string(m.Raw), "Subject: "+subject+"\r\n") {
			out = append(out, m)
		}
		return nil
	}))
	return out
}

// phone does something with the letters of a folder of a subject, in another program.
func (w *twoSides) phone(folder, subject string, act func(box post.Mailbox, uids []uint32) error) {
	w.t.Helper()
	box := w.second()
	defer func() { require.NoError(w.t, box.Close()) }()
	var uids []uint32
	if w.there != nil {
		_, err := box.Open(folder)
		require.NoError(w.t, err)
		for _, l := range w.there.Letters(walks, folder) {
			if strings.Contains(string(l.Raw), "Subject: "+subject+"\r\n") {
				uids = append(uids, l.UID)
			}
		}
	} else {
		for _, m := range found(w.t, box, folder, subject) {
			uids = append(uids, m.UID)
		}
	}
	require.NotEmpty(w.t, uids, "%s is not in %s", subject, folder)
	require.NoError(w.t, act(box, uids))
}

func moves(to string) func(post.Mailbox, []uint32) error {
	return func(box post.Mailbox, uids []uint32) error {
		_, err := box.Move(uids, to)
		return err
	}
}

func flags(set, clear []string) func(post.Mailbox, []uint32) error {
	return func(box post.Mailbox, uids []uint32) error { return box.Flag(uids, set, clear) }
}

// lies says in which folders letters of a subject lie on the server, with their flags.
func (w *twoSides) lies(subject string) (out []string) {
	w.t.Helper()
	words := func(folder string, flags []string) string {
		usual := []string{`\Recent`, `\Seen`, `\Flagged`, `\Answered`}
		slices.SortFunc(flags, func(a, b string) int {
			return cmp.Or(slices.Index(usual, b)-slices.Index(usual, a), strings.Compare(a, b))
		})
		words := []string{folder}
		for _, f := range usual[1:] {
			if slices.Contains(flags, f) {
				words = append(words, f)
			}
		}
		for _, f := range flags {
			if !slices.Contains(usual, f) {
				words = append(words, f)
			}
		}
		return strings.Join(words, " ")
	}
	if w.there != nil { // quicker
		for _, f := range w.there.FolderNames(walks) {
			for _, l := range w.there.Letters(walks, f) {
				if strings.Contains(string(l.Raw), "Subject: "+subject+"\r\n") && !slices.Contains(l.Flags, `\Deleted`) {
					out = append(out, words(f, l.Flags))
				}
			}
		}
		return out
	}
	box := w.second()
	defer func() { require.NoError(w.t, box.Close()) }()
	folders, err := box.Folders()
	require.NoError(w.t, err)
	for _, f := range folders {
		if f.NoLetters {
			continue
		}
		for _, m := range found(w.t, box, f.Name, subject) {
			out = append(out, words(f.Name, m.Flags))
		}
	}
	return out
}

// titles are the subjects in a place.
func (w *twoSides) titles(place decide.Place) (out []string) {
	w.t.Helper()
	for _, r := range w.rows(place) {
		out = append(out, r.Title)
	}
	return out
}

func load(n int) mail {
	return mail{id: fmt.Sprintf("l%d@outside.example", n), from: fmt.Sprintf("Bram <bram%d@freight.example>", n), subject: fmt.Sprintf("Load %d", n), text: fmt.Sprintf("It is number %d.", n)}
}

// alike are what must be so with any server.
var alike = map[string]func(*testing.T, *twoSides){
	"first": firstSync, "told there": toldThere, "seen there": seenThere, "comes back there": comesBackThere, "done elsewhere": doneElsewhere, "marked elsewhere": markedElsewhere,
	"arrives": arrivesFromTheServer, "both changed": bothChanged, "sent": sentIsKeptThere, "answered": answeredThere, "live": live,
	"labels": labelsAlike, "handed on": handedOnThere, "receipts": receiptsOnce, "held": heldThere, "held and found": heldButFound, "purged": purgedThere, "drafts": draftsAlike, "drafts of both": draftsOfBoth, "in the end": agreeInTheEnd,
	"sorted": sortedThere, "sorted from the phone": sortedFromThePhone, "sorted before": sortedBefore,
}

func TestBothSides(t *testing.T) {
	for name, so := range alike {
		t.Run(name, func(t *testing.T) { so(t, onAServer(t)) })
	}
}

// The letters of the server are here as they are there: in their places, read and
// starred, under the labels of their folders; no rule, expectation or notification
// takes them for new ones. A second look changes nothing.
func firstSync(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2), `\Seen`, `\Flagged`)
	w.comes("Archive", load(3))
	w.comes("Trash", load(4))
	w.comes("Junk", load(5))
	w.comes("Projects/Spring", load(6), `\Seen`)
	w.connect()
	for range 2 {
		assert.ElementsMatch(t, []string{"Load 1", "Load 2"}, w.titles(decide.Inbox))
		assert.ElementsMatch(t, []string{"Load 3", "Load 6"}, w.titles(decide.Archive))
		assert.Equal(t, []string{"Load 4"}, w.titles(decide.Bin))
		assert.Equal(t, []string{"Load 5"}, w.titles(decide.Junk))
		w.sync()
	}
	for _, r := range w.rows(decide.Inbox) {
		assert.Equal(t, r.Title == "Load 2", r.Star, r.Title)
		assert.Equal(t, r.Title == "Load 1", r.Unread, r.Title)
	}
	for _, r := range w.rows(decide.Archive) {
		assert.Equal(t, r.Title == "Load 6", len(r.Labels) == 1 && r.Labels[0] == "Projects/Spring", r.Title)
	}
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, [2]int{6, 6}, [2]int{list[0].Here, list[0].There})
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"), "nothing was done with it there")
}

// What is done here, any other program shows; and what is taken back, too.
func toldThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	cases := []struct {
		kind decide.Kind
		more []func(*app.Deciding)
		want string
	}{
		{decide.Done, nil, `Archive \Seen`},
		{decide.ToBin, nil, `Trash \Seen`},
		{decide.ToJunk, nil, `Junk \Seen`},
		{decide.PutOff, []func(*app.Deciding){until("friday")}, `Later \Seen`},
		{decide.FollowUp, []func(*app.Deciding){func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{} }}, `Archive \Seen`},
	}
	for _, c := range cases {
		w.decide(c.kind, w.row(decide.Inbox), c.more...)
		w.sync()
		assert.Equal(t, []string{c.want}, w.lies("Load 1"), c.kind)
		w.undo()
		w.sync()
		assert.Equal(t, []string{`INBOX \Seen`}, w.lies("Load 1"), "%s taken back", c.kind)
	}
	row := w.row(decide.Inbox)
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{row.ID}, Mark: "star"})
	require.NoError(t, err)
	w.sync()
	assert.Equal(t, []string{`INBOX \Seen \Flagged`}, w.lies("Load 1"))
}

// What was looked at here is read there.
func seenThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	row := w.row(decide.Inbox)
	require.NoError(t, w.app.See(w.ctx, w.who, row.ID, row.Last))
	w.sync()
	assert.Equal(t, []string{`INBOX \Seen`}, w.lies("Load 1"))
}

// What is put off comes back there as it does here.
func comesBackThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	w.decide(decide.PutOff, w.row(decide.Inbox), until("tomorrow"))
	w.sync()
	require.Equal(t, []string{`Later \Seen`}, w.lies("Load 1"))
	w.pass(48 * time.Hour)
	w.sync()
	assert.Equal(t, []string{`INBOX \Seen`}, w.lies("Load 1"))
}

// What was done in another program is done here, in the Journal by “elsewhere”, and
// can be taken back.
func doneElsewhere(t *testing.T, w *twoSides) {
	cases := []struct {
		to    string
		place decide.Place
		title string
		// then is where it lies when both sides agree.
		then string
	}{
		{"Archive", decide.Archive, "Archived elsewhere: “Load 1”", "Archive"},
		{"Trash", decide.Bin, "Binned elsewhere: “Load 1”", "Trash"},
		{"Junk", decide.Junk, "To junk elsewhere: “Load 1”", "Junk"},
		{"Later", decide.Later, "Put off elsewhere: “Load 1”", "Later"},
		{"Later/next week", decide.Later, "Put off elsewhere: “Load 1”", "Later"},
		{"Follow up", decide.Archive, "Followed up elsewhere: “Load 1”", "Archive"},
	}
	w.comes("INBOX", load(1))
	w.connect()
	for _, c := range cases {
		t.Run(c.to, func(t *testing.T) {
			w.phone("INBOX", "Load 1", moves(c.to))
			w.sync()
			assert.Equal(t, []string{"Load 1"}, w.titles(c.place))
			assert.Equal(t, []string{c.then + ` \Seen`}, w.lies("Load 1"))
			entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
			require.NoError(t, err)
			assert.Equal(t, "elsewhere", entries[0].Actor)
			assert.Equal(t, c.title, entries[0].Title)
			_, err = w.app.Undo(w.ctx, w.who, rand.Text(), entries[0].Entry, true)
			require.NoError(t, err)
			w.sync()
			assert.Equal(t, []string{"Load 1"}, w.titles(decide.Inbox))
			assert.Equal(t, []string{`INBOX \Seen`}, w.lies("Load 1"))
		})
	}
}

func markedElsewhere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	w.phone("INBOX", "Load 1", flags([]string{`\Flagged`, `\Seen`}, nil))
	w.sync()
	assert.True(t, w.row(decide.Inbox).Star)
	assert.False(t, w.row(decide.Inbox).Unread)
	w.phone("INBOX", "Load 1", flags(nil, []string{`\Flagged`}))
	w.sync()
	assert.False(t, w.row(decide.Inbox).Star)
	w.phone("INBOX", "Load 1", flags(nil, []string{`\Seen`}))
	w.sync()
	assert.True(t, w.row(decide.Inbox).Unread)
	w.label("Suppliers", false)
	w.sync()
	assert.Equal(t, []string{"INBOX Suppliers"}, w.lies("Load 1"), "and is not read again there")
}

// A letter that comes later arrives as by the post: it brings its conversation back.
func arrivesFromTheServer(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	w.decide(decide.Done, w.row(decide.Inbox))
	w.sync()
	answer := load(2)
	answer.subject, answer.answers = "Re: Load 1", "l1@outside.example"
	w.comes("INBOX", answer)
	w.sync()
	row := w.row(decide.Inbox)
	assert.Equal(t, 2, row.Letters)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 1"), "what was archived stays, the new one is enough")
	assert.Equal(t, []string{"INBOX"}, w.lies("Re: Load 1"))
}

// Where both sides have changed it, what is seen later wins; but the bin never by itself.
func bothChanged(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2))
	w.connect()
	for _, r := range w.rows(decide.Inbox) {
		w.decide(decide.PutOff, r, until("friday"))
	}
	w.phone("INBOX", "Load 1", moves("Archive"))
	w.phone("INBOX", "Load 2", moves("Trash"))
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
	assert.Equal(t, []string{"Load 2"}, w.titles(decide.Later))
	assert.Equal(t, []string{`Later \Seen`}, w.lies("Load 2"))
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Words: "elsewhere, but"})
	require.NoError(t, err)
	require.Len(t, entries, 1)
}

// What leaves over the server is kept there among what was sent, once, whoever does that.
func sentIsKeptThere(t *testing.T, w *twoSides) {
	w.connect()
	w.send(nil, func(s *app.Sending) { s.From, s.Subject = walks, "From here" })
	w.pass(time.Minute)
	w.sync()
	assert.Equal(t, []string{`Sent \Seen`}, w.lies("From here"))
	w.sync()
	assert.Equal(t, []string{`Sent \Seen`}, w.lies("From here"))

	w.send(nil, func(s *app.Sending) { s.From, s.Subject = walks, "Kept by the server" })
	w.pass(time.Minute)
	sent := w.post.sent[len(w.post.sent)-1]
	w.put("Sent", sent)
	w.sync()
	assert.Len(t, w.lies("Kept by the server"), 1)
}

// A letter that was answered is so for every program.
func answeredThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.From = walks })
	w.pass(time.Minute)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen \Answered`}, w.lies("Load 1"))
}

// Whatever both sides do, in whatever order: in the end they agree, and every letter is
// there once.
func agreeInTheEnd(t *testing.T, w *twoSides) {
	const letters = 4
	folders := map[decide.Place]string{decide.Inbox: "INBOX", decide.Archive: "Archive", decide.Bin: "Trash", decide.Junk: "Junk", decide.Later: "Later"}
	w.connect()
	first := 0
	rapid.Check(t, func(rt *rapid.T) {
		first += letters
		for n := range letters {
			w.comes("INBOX", load(first+n))
		}
		w.sync()
		at := func(subject string) string { return strings.Fields(w.lies(subject)[0])[0] }
		for range rapid.IntRange(1, 6).Draw(rt, "acts") {
			subject := load(first + rapid.IntRange(0, letters-1).Draw(rt, "letter")).subject
			switch rapid.SampledFrom([]string{"here", "there", "sync"}).Draw(rt, "who") {
			case "here":
				kind := rapid.SampledFrom([]decide.Kind{decide.Done, decide.ToBin, decide.ToJunk, decide.PutOff, decide.ToInbox}).Draw(rt, "kind")
				for place := range folders {
					for _, r := range w.rows(place) {
						if r.Title == subject {
							w.decide(kind, r, until("friday"), sure)
						}
					}
				}
			case "there":
				to := rapid.SampledFrom([]string{"INBOX", "Archive", "Trash", "Junk", "Later", "Later/tomorrow", "Projects", "Shallows/Reading", "Shallows/Notices"}).Draw(rt, "to")
				if to == "Projects" {
					w.put(to, nil)
				}
				if from := at(subject); from != to {
					w.phone(from, subject, moves(to))
				}
			case "sync":
				w.sync()
			}
		}
		w.sync()
		w.pass(time.Second)
		w.sync()
		for place, folder := range folders {
			for _, title := range w.titles(place) {
				lies := w.lies(title)
				if len(lies) != 1 {
					rt.Fatalf("%s is at %v", title, lies)
				}
				if is := at(title); is != folder && (place != decide.Archive || is != "Projects") {
					rt.Fatalf("%s is in %s here and in %s there", title, place, is)
				}
			}
		}
	})
}

// While it runs, each side learns of the other by itself.
func live(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	require.NoError(t, w.app.StartSyncing(w.ctx))
	news, stop := w.app.Listen(w.who)
	defer stop()
	within := func(so func() bool) {
		t.Helper()
		limit := time.After(20 * time.Second)
		for !so() {
			select {
			case <-news:
			case <-limit:
				require.Fail(t, "it never came")
			}
		}
	}
	w.comes("INBOX", load(2))
	within(func() bool { return len(w.rows(decide.Inbox)) == 2 })
	w.phone("INBOX", "Load 1", moves("Archive"))
	within(func() bool { return len(w.rows(decide.Archive)) == 1 })
	w.decide(decide.Done, w.row(decide.Inbox))
	within(func() bool { return strings.HasPrefix(w.lies("Load 2")[0], "Archive") })
}

// An account can be left alone and parted from its server; the letters stay.
func TestPausedAndParted(t *testing.T) {
	w := onAServer(t)
	w.comes("INBOX", load(1))
	w.connect()
	_, err := w.app.PauseRemote(w.ctx, w.who, rand.Text(), w.account, true)
	require.NoError(t, err)
	w.decide(decide.Done, w.row(decide.Inbox))
	require.Error(t, w.app.SyncOnce(w.ctx, w.who, w.account))
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"))
	_, err = w.app.PauseRemote(w.ctx, w.who, rand.Text(), w.account, false)
	require.NoError(t, err)
	w.app.StopSyncing()
	w.sync()
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 1"))

	_, err = w.app.Disconnect(w.ctx, w.who, rand.Text(), w.account)
	require.NoError(t, err)
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
	_, err = w.app.Secrets.Get(w.account)
	require.ErrorIs(t, err, vault.ErrNone)
}
