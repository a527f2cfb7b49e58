package app_test

import (
	"crypto/rand"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
)

// drafts are the subjects of what is being written here.
func (w *twoSides) drafts() (out []string) {
	w.t.Helper()
	list, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(w.t, err)
	for _, d := range list {
		out = append(out, d.Writing.Subject)
	}
	slices.Sort(out)
	return out
}

func (w *twoSides) writes(id, subject, text string) {
	w.t.Helper()
	_, err := w.app.SaveDraft(w.ctx, w.who, id, 0, show.Writing{Kind: "new", From: walks, To: []string{"mats@norrholm.example", "half an addr"}, Subject: subject, Text: text})
	require.NoError(w.t, err)
	w.clock.Advance(time.Minute)
	w.sync()
}

// purges takes a letter away, as a program does that replaces a draft.
func purges(box post.Mailbox, uids []uint32) error { return box.Purge(uids) }

// What is being written is in the drafts of both sides, once, in its newest version.
func draftsAlike(t *testing.T, w *twoSides) {
	w.put("Drafts", nil)
	w.comes("INBOX", load(1))
	w.connect()
	w.writes("draft-of-here", "A plan", "First words")
	assert.Equal(t, []string{`Drafts \Seen \Draft`}, w.lies("A plan"))
	w.writes("draft-of-here", "A plan", "First words, and more")
	assert.Equal(t, []string{`Drafts \Seen \Draft`}, w.lies("A plan"))
	box := w.second()
	assert.Contains(t, string(found(t, box, "Drafts", "A plan")[0].Raw), "and more")
	require.NoError(t, box.Close())
	w.sync()
	assert.Equal(t, []string{"A plan"}, w.drafts())
	assert.Empty(t, w.titles(decide.Archive), "it has not come")

	// Thrown away here.
	_, err := w.app.DropDraft(w.ctx, w.who, rand.Text(), "draft-of-here")
	require.NoError(t, err)
	w.sync()
	assert.Empty(t, w.lies("A plan"))
	w.undo()
	w.sync()
	assert.Len(t, w.lies("A plan"), 1)

	// Sent or thrown away there.
	w.phone("Drafts", "A plan", purges)
	w.sync()
	w.sync()
	assert.Empty(t, w.drafts())
	assert.Contains(t, w.latest().Title, "Draft sent or thrown away elsewhere: “A plan”")

	// Written there, as an answer, and replaced by its next version.
	answer := mail{id: "d1@phone.example", from: walks, to: "bram1@freight.example", subject: "Re: Load 1", text: "On the phone", answers: "l1@outside.example"}
	w.put("Drafts", answer.bytes(start), `\Draft`)
	w.sync()
	require.Equal(t, []string{"Re: Load 1"}, w.drafts())
	list, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, w.row(decide.Inbox).ID, list[0].Conversation)
	assert.Equal(t, "answer", list[0].Writing.Kind)
	answer.text = "On the phone, later"
	w.put("Drafts", answer.bytes(start), `\Draft`)
	w.sync()
	list, err = w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "On the phone, later", strings.TrimSpace(list[0].Writing.Text))
	assert.Len(t, w.lies("Re: Load 1"), 1, "the older version is gone")

	// One with a file stays there alone.
	w.put("Drafts", []byte("From: "+walks+"\r\nSubject: With a file\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nHere.\r\n"+
		"--b\r\nContent-Type: application/pdf\r\nContent-Disposition: attachment; filename=a.pdf\r\n\r\nx\r\n--b--\r\n"), `\Draft`)
	w.sync()
	assert.Equal(t, []string{"Re: Load 1"}, w.drafts())
	assert.Len(t, w.lies("With a file"), 1)
}

// Of a draft that was changed on both sides nothing is lost.
func draftsOfBoth(t *testing.T, w *twoSides) {
	w.put("Drafts", nil)
	w.connect()
	w.writes("draft-of-here", "A plan", "First words")
	w.phone("Drafts", "A plan", purges)
	phone := mail{id: "d2@phone.example", from: walks, to: "mats@norrholm.example", subject: "A plan, on the phone", text: "Other words"}
	w.put("Drafts", phone.bytes(start), `\Draft`)
	w.writes("draft-of-here", "A plan, here", "First words, and more")
	w.sync()
	assert.Equal(t, []string{"A plan, here", "A plan, on the phone"}, w.drafts())
	assert.Len(t, w.lies("A plan, here"), 1)
	assert.Len(t, w.lies("A plan, on the phone"), 1)

	// Thrown away here, and written on there all the same.
	list, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	i := slices.IndexFunc(list, func(d show.DraftView) bool { return d.Writing.Subject == "A plan, on the phone" })
	_, err = w.app.DropDraft(w.ctx, w.who, rand.Text(), list[i].ID)
	require.NoError(t, err)
	w.sync()
	assert.Empty(t, w.lies("A plan, on the phone"))
	w.put("Drafts", phone.bytes(start), `\Draft`)
	w.sync()
	w.sync()
	assert.Equal(t, []string{"A plan, here", "A plan, on the phone"}, w.drafts())
	assert.Len(t, w.lies("A plan, on the phone"), 1)
}

// What one Ebbe writes is a draft of the other, and no other draft of either is touched.
func TestDraftsOfTwoOfThem(t *testing.T) {
	one := onAServer(t)
	other := &twoSides{world: newWorld(t), there: one.there, login: walks}
	t.Cleanup(other.app.StopSyncing)
	other.reachedAt(one.server.Port)
	one.connect()
	other.connect()
	one.writes("draft-of-one", "Of one", "First words")
	other.writes("draft-of-other", "Of the other", "Others")
	both := []string{"Of one", "Of the other"}
	for range 2 {
		one.sync()
		other.sync()
	}
	assert.Equal(t, both, one.drafts())
	assert.Equal(t, both, other.drafts())
	_, err := one.app.DropDraft(one.ctx, one.who, rand.Text(), "draft-of-one")
	require.NoError(t, err)
	for range 2 {
		one.sync()
		other.sync()
	}
	assert.Equal(t, both[1:], one.drafts())
	assert.Equal(t, both[1:], other.drafts())
	assert.Len(t, one.lies("Of the other"), 1)
}
