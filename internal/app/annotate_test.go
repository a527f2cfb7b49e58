package app_test

import (
	"crypto/rand"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func (w *world) annotate(id int64, n app.Notes) {
	w.t.Helper()
	_, err := w.app.Annotate(w.ctx, w.who, rand.Text(), id, n)
	require.NoError(w.t, err)
}

func (w *world) open(id int64) show.Conversation {
	w.t.Helper()
	c, err := w.app.Open(w.ctx, w.who, id)
	require.NoError(w.t, err)
	return c
}

// stranger is somebody with an inbox of their own.
func (w *world) stranger() store.Who {
	w.t.Helper()
	who, err := w.app.Store.AddPerson(w.ctx, store.Person{Name: "Per", SignIn: rand.Text(), Zone: "Europe/Oslo"}, []store.Account{{Address: rand.Text() + "@else.example", Name: "Per"}}, start)
	require.NoError(w.t, err)
	return who
}

// What a person adds to a conversation is theirs: shown, found, undone, and never sent.
func TestNotesOfOnesOwn(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	id := w.row(decide.Inbox).ID
	file := w.upload(rand.Text(), "sketch.png", "image/png", random(50))
	w.annotate(id, app.Notes{Note: ref("Call *Zoë* about the ramp.\n<script>alert(1)</script>"), Title: ref(" Ramp \n for Bram "), Files: []string{file.ID}})
	row := w.row(decide.Inbox)
	assert.Equal(t, []any{"Ramp for Bram", true}, []any{row.Title, row.Noted})
	c := w.open(id)
	assert.Contains(t, c.Own.HTML, "<em>Zoë</em>")
	assert.NotContains(t, c.Own.HTML, "<script")
	assert.Equal(t, "Re: Crates", c.Answer.Subject, "their subject stays")
	require.Len(t, c.Own.Files, 1)
	for _, words := range []string{"zoe ramp", "subject:ramp", `"about the ramp"`, "crates"} {
		assert.Len(t, w.found(words), 1, words)
	}
	assert.Empty(t, w.found("from:ramp"))
	w.sound()

	w.annotate(id, app.Notes{Drop: []int64{c.Own.Files[0].ID}})
	assert.Empty(t, w.open(id).Own.Files)
	w.undo()
	assert.Len(t, w.open(id).Own.Files, 1)
	w.annotate(id, app.Notes{Note: ref("")})
	assert.Empty(t, w.found("zoe"))
	w.undo()
	assert.Len(t, w.found("zoe"), 1)
	w.send(&row, func(s *app.Sending) { s.Text = "Yes." })
	assert.NotContains(t, w.left().Text, "ramp")
	w.undo()
	w.undo()
	c = w.open(id)
	assert.Equal(t, []any{"Crates", "", 0}, []any{c.Title, c.Own.Note, len(c.Own.Files)})
	_, err := w.app.Annotate(w.ctx, w.who, rand.Text(), id, app.Notes{Note: ref(strings.Repeat("x", 50_001))})
	assert.Error(t, err)
	_, err = w.app.Annotate(w.ctx, w.stranger(), rand.Text(), id, app.Notes{Note: ref("mine")})
	assert.Error(t, err)
	w.sound()
}

// Where two conversations are joined, both notes and all files are there.
func TestNotesAreJoined(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "one@x.example", from: "Oda <oda@x.example>", subject: "One"})
	w.receive(mail{id: "two@x.example", from: "Oda <oda@x.example>", subject: "Two"})
	one, two := w.titled(decide.Inbox, "One").ID, w.titled(decide.Inbox, "Two").ID
	w.annotate(one, app.Notes{Note: ref("First")})
	w.annotate(two, app.Notes{Note: ref("Second"), Title: ref("Both"), Files: []string{w.upload(rand.Text(), "a", "", random(5)).ID}})
	w.receive(mail{id: "three@x.example", from: "Oda <oda@x.example>", subject: "Three", extra: "References: <one@x.example> <two@x.example>\r\n"})
	row := w.row(decide.Inbox)
	c := w.open(row.ID)
	assert.ElementsMatch(t, []string{"First", "Second"}, strings.Split(c.Own.Note, "\n\n"))
	assert.Equal(t, "Both", c.Title)
	assert.Len(t, c.Own.Files, 1)
	assert.Len(t, w.found("second"), 1)
	w.sound()
}
