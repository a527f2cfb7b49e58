package app_test

import (
	"crypto/rand"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
)

// latest is the newest entry of the Journal.
func (w *twoSides) latest() show.JournalEntry {
	w.t.Helper()
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(w.t, err)
	return entries[0]
}

func (w *twoSides) label(label string, off bool) {
	w.t.Helper()
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{w.row(decide.Inbox).ID}, Mark: "label", Value: label, Off: off})
	require.NoError(w.t, err)
}

// Labels are keywords there, both ways, whatever they are called; what programs note for
// themselves is none.
func labelsAlike(t *testing.T, w *twoSides) {
	long := strings.Repeat("ü", 20)
	w.comes("INBOX", load(1), "NonJunk")
	w.connect()
	assert.Empty(t, w.row(decide.Inbox).Labels)

	w.label("Spring fair", false)
	w.sync()
	assert.Equal(t, []string{"INBOX NonJunk Spring_fair"}, w.lies("Load 1"))
	w.label("Spring fair", true)
	w.sync()
	assert.Equal(t, []string{"INBOX NonJunk"}, w.lies("Load 1"))

	w.phone("INBOX", "Load 1", flags([]string{"K=C3=BCche"}, nil))
	w.sync()
	assert.Equal(t, []string{"Küche"}, w.row(decide.Inbox).Labels)
	entry := w.latest()
	assert.Equal(t, "Labelled “Küche” elsewhere: “Load 1”", entry.Title)
	_, err := w.app.Undo(w.ctx, w.who, rand.Text(), entry.Entry, true)
	require.NoError(t, err)
	w.sync()
	assert.Equal(t, []string{"INBOX NonJunk"}, w.lies("Load 1"))

	w.label(long, false)
	w.sync()
	lies := w.lies("Load 1")
	require.Len(t, lies, 1)
	keyword := strings.Fields(lies[0])[1]
	require.True(t, strings.HasPrefix(keyword, "$Label-"), lies)
	w.phone("INBOX", "Load 1", flags(nil, []string{keyword}))
	w.sync()
	assert.Empty(t, w.row(decide.Inbox).Labels)
	assert.Equal(t, "Took “"+long+"” off elsewhere: “Load 1”", w.latest().Title)
}

// A label that a folder tells is told by the folder.
func TestAFolderTellsItsLabel(t *testing.T) {
	w := onAServer(t)
	w.comes("Projects/Spring", load(1))
	w.connect()
	w.decide(decide.ToInbox, w.row(decide.Archive))
	w.decide(decide.Done, w.row(decide.Inbox))
	w.sync()
	assert.Equal(t, []string{"Projects/Spring \\Seen"}, w.lies("Load 1"))
}

// A letter that was handed on is not one that was answered.
func handedOnThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.connect()
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.From, s.Kind, s.To = walks, "hand-on", []string{"mats@norrholm.example"} })
	w.pass(time.Minute)
	w.sync()
	assert.Equal(t, []string{`Archive \Seen $Forwarded`}, w.lies("Load 1"))
}

// Nobody is told twice that a letter was read (RFC 3503).
func receiptsOnce(t *testing.T, w *twoSides) {
	w.connect()
	asks := func(n int) mail {
		m := load(n)
		m.extra = "Disposition-Notification-To: " + m.from + "\r\n"
		return m
	}
	w.comes("INBOX", asks(1))
	w.comes("INBOX", asks(2), "$MDNSent")
	w.sync()
	for _, r := range w.rows(decide.Inbox) {
		c, err := w.app.Open(w.ctx, w.who, r.ID)
		require.NoError(t, err)
		if r.Title == "Load 2" {
			assert.Equal(t, app.ReadReceiptSent, c.LetterList[0].ReadReceipt)
			continue
		}
		require.Equal(t, app.ReadReceiptAsked, c.LetterList[0].ReadReceipt)
		_, err = w.app.ReadReceipt(w.ctx, w.who, rand.Text(), c.LetterList[0].ID, true)
		require.NoError(t, err)
	}
	w.sync()
	assert.Contains(t, w.lies("Load 1")[0], "$MDNSent")
}

func (w *twoSides) set(holds, purges bool) {
	w.t.Helper()
	_, err := w.app.SetRemote(w.ctx, w.who, rand.Text(), w.account, app.RemoteSettings{Holds: holds, Purges: purges})
	require.NoError(w.t, err)
	w.app.StopSyncing()
	w.sync()
}

// hold lets the gate hold what comes.
func (w *twoSides) hold() {
	w.t.Helper()
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "tomorrow 12:00"})
	require.NoError(w.t, err)
}

// What the gate holds lies in the phone's inbox too, unless the account says otherwise: then
// it waits in a folder of its own, which is empty again when it is let in, or when the
// account says so no more.
func heldThere(t *testing.T, w *twoSides) {
	w.connect()
	w.hold()
	w.comes("INBOX", load(1))
	w.sync()
	require.Empty(t, w.rows(decide.Inbox))
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"))
	w.set(true, false)
	assert.Equal(t, []string{"Held"}, w.lies("Load 1"))
	w.set(false, false)
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"))
	w.set(true, false)
	w.pass(48 * time.Hour)
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Inbox))
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"))
}

// Whoever finds what is held, and moves or stars it, knows of it: it is let in, and stands
// where it was put.
func heldButFound(t *testing.T, w *twoSides) {
	w.connect()
	w.set(true, false)
	w.hold()
	for n := range 5 {
		w.comes("INBOX", load(n))
	}
	w.sync()
	require.Empty(t, w.rows(decide.Inbox))
	w.phone("Held", "Load 0", moves("Archive"))
	w.phone("Held", "Load 1", moves("INBOX"))
	w.phone("Held", "Load 2", flags([]string{`\Flagged`}, nil))
	w.phone("Held", "Load 3", flags([]string{`\Seen`}, nil))
	w.sync()
	assert.Equal(t, []string{"Load 0"}, w.titles(decide.Archive))
	assert.ElementsMatch(t, []string{"Load 1", "Load 2"}, w.titles(decide.Inbox))
	assert.Equal(t, []string{`Archive \Seen`}, w.lies("Load 0"))
	assert.Equal(t, []string{"INBOX"}, w.lies("Load 1"))
	assert.Equal(t, []string{`INBOX \Flagged`}, w.lies("Load 2"))
	assert.Equal(t, []string{`Held \Seen`}, w.lies("Load 3"))
	assert.Equal(t, []string{"Held"}, w.lies("Load 4"))
}

// What the bin lets go of stays on the server, unless the account says otherwise; and nothing
// else is ever taken away there.
func purgedThere(t *testing.T, w *twoSides) {
	w.comes("INBOX", load(1))
	w.comes("INBOX", load(2))
	w.comes("Trash", load(3))
	w.connect()
	bin := func(title string) {
		for _, r := range w.rows(decide.Inbox) {
			if r.Title == title {
				w.decide(decide.ToBin, r)
			}
		}
		w.sync()
	}
	bin("Load 1")
	w.pass(40 * 24 * time.Hour)
	w.sync()
	assert.Empty(t, w.rows(decide.Bin))
	assert.Equal(t, []string{`Trash \Seen`}, w.lies("Load 1"))
	w.set(false, true)
	assert.Equal(t, []string{`Trash \Seen`}, w.lies("Load 1"), "from then on")
	bin("Load 2")
	w.pass(40 * 24 * time.Hour)
	w.sync()
	assert.Empty(t, w.lies("Load 2"))
	assert.Len(t, w.lies("Load 1"), 1)
	assert.Len(t, w.lies("Load 3"), 1)
}
