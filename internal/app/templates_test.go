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
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) template(name, subject, text string, files ...string) int64 {
	w.t.Helper()
	made, err := w.app.NewTemplate(w.ctx, w.who, rand.Text(), app.TemplateFields{Name: &name, Subject: &subject, Text: &text, Files: files})
	require.NoError(w.t, err)
	return made.ID
}

func (w *world) prepared() show.Prepared {
	w.t.Helper()
	p, err := w.app.Prepared(w.ctx, w.who)
	require.NoError(w.t, err)
	return p
}

// A template is filled in for whoever gets the letter; what it does not know stops sending, and
// its files go along as copies.
func TestATemplateIsPutIn(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	content := random(100)
	file := w.upload("for-a-template", "terms.pdf", "application/pdf", content)
	id := w.template("Crates", "{Work} by {date: fri}\r\nBcc: all@x.example", "Dear {first name},\n\nyou ask: {ask}\n{amount} crates.\n\n{my name}", file.ID)
	draft := rand.Text()
	row := w.row(decide.Inbox)
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	answer := show.Writing{Kind: "answer", From: c.Answer.From, To: c.Answer.To, Subject: "Re: Crates", Letter: c.Answer.Letter, Text: "\n-- \nInes\n"}
	got, err := w.app.PutIn(w.ctx, w.who, draft, id, answer)
	require.NoError(t, err)
	assert.Contains(t, got.Text, "Dear Bram,\n\nyou ask: ")
	assert.NotContains(t, got.Text, "{ask}")
	assert.True(t, strings.HasSuffix(got.Text, "\n\n-- \nInes\n"), got.Text)
	assert.Equal(t, "Re: Crates", got.Subject, "an answer keeps its subject")
	require.Len(t, got.Files, 1)
	assert.NotEqual(t, file.ID, got.Files[0].ID)
	fresh := answer
	fresh.Kind, fresh.Letter = "new", 0
	new, err := w.app.PutIn(w.ctx, w.who, rand.Text(), id, fresh)
	require.NoError(t, err)
	assert.Equal(t, "{work} by Friday 27 November Bcc: all@x.example", new.Subject, "one line")

	send := func(text string) error {
		got.Text = text
		_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Draft: draft, Conversation: row.ID, Saw: row.Last, Writing: got})
		return err
	}
	assert.ErrorContains(t, send(got.Text), "{amount}")
	assert.Empty(t, w.post.sent)
	require.NoError(t, send(strings.ReplaceAll(got.Text, "{amount}", "Four {4}")))
	l := w.left()
	require.Len(t, l.Attachments(), 1)
	assert.Equal(t, content, l.Attachments()[0].Content)
	assert.Contains(t, l.Text, "Four {4} crates.")

	// It stays with its template when all drafts are long over.
	w.clock.Advance(60 * 24 * time.Hour)
	w.upload(rand.Text(), "x", "", nil)
	_, kept, err := w.app.File(w.ctx, w.who, w.prepared().Templates[0].Files[0].File)
	require.NoError(t, err)
	assert.Equal(t, content, kept)
	w.sound()
}

func TestTemplatesAreChangedAndUndone(t *testing.T) {
	w := newWorld(t)
	id := w.template("Walk", "", "Dear {first name}, {day}")
	for _, bad := range []string{"", " walk ", strings.Repeat("x", 81)} {
		_, err := w.app.NewTemplate(w.ctx, w.who, rand.Text(), app.TemplateFields{Name: &bad})
		assert.Error(t, err, bad)
	}
	assert.Equal(t, []string{"first name", "day"}, w.prepared().Templates[0].Fields)
	_, err := w.app.EditTemplate(w.ctx, w.who, rand.Text(), id, app.TemplateFields{Remove: true})
	require.NoError(t, err)
	assert.Empty(t, w.prepared().Templates)
	w.undo()
	assert.Len(t, w.prepared().Templates, 1)
	w.undo()
	assert.Empty(t, w.prepared().Templates, "making it is undone, too")
	_, err = w.app.PutIn(w.ctx, w.who, rand.Text(), id, show.Writing{})
	assert.Error(t, err)
	assert.Empty(t, w.at(w.stranger()).prepared().Templates)
	w.sound()
}

// A sent letter is a template without what it told its reader alone.
func TestATemplateOfASentLetter(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.Text = "Dear Bram,\n\nfour.\n\n-- \nInes\n" })
	w.left()
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	got, err := w.app.TemplateOf(w.ctx, w.who, c.LetterList[len(c.LetterList)-1].ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Crates", "Dear {first name},\n\nfour."}, []string{got.Subject, got.Text})
}

func TestGroupsOfReceivers(t *testing.T) {
	w := newWorld(t)
	name, members := "Walk guides", "Tove <tove@n.example>, henrik@n.example; TOVE@n.example"
	made, err := w.app.NewGroup(w.ctx, w.who, rand.Text(), app.GroupFields{Name: &name, Members: &members})
	require.NoError(t, err)
	want := []string{"Tove <tove@n.example>", "henrik@n.example"}
	for typed, found := range map[string]bool{"walk": true, "gui": true, "Walk g": true, "alk": false} {
		known, err := w.app.Knows(w.ctx, w.who, typed)
		require.NoError(t, err)
		assert.Equal(t, found, len(known) > 0, typed)
		if found {
			assert.Equal(t, want, known[0].Members)
		}
	}
	bad := "tove@n.example, nobody"
	_, err = w.app.EditGroup(w.ctx, w.who, rand.Text(), made.ID, app.GroupFields{Members: &bad})
	assert.ErrorContains(t, err, "nobody")
	assert.Equal(t, want, w.prepared().Groups[0].Members)
	_, err = w.app.EditGroup(w.ctx, w.who, rand.Text(), made.ID, app.GroupFields{Remove: true})
	require.NoError(t, err)
	w.undo()
	assert.Len(t, w.prepared().Groups, 1)
	w.sound()
}

// Answers that were given to letters like this one are proposed, and nothing in them is of
// anybody else's.
func TestSuggestedAnswers(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@school.example", from: "Oda Lind <oda@school.example>", subject: "Class visit", text: "May we visit the orangery with our class on 8 December? We are 24 children, and a guided walk would be lovely."})
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) {
		s.Text = "Dear Oda,\n\na guided walk is possible, and Jonas meets you at 10:30 at the orangery.\n\n-- \nInes\n"
	})
	w.left()
	w.receive(mail{id: "b@school.example", from: "Per Vik <per@other.example>", subject: "Our class", text: "Could we visit the orangery with our class? A guided walk would be lovely for the children."})
	row = w.row(decide.Inbox)
	answer := show.Writing{Kind: "answer", Letter: row.Last}
	got, err := w.app.Suggestions(w.ctx, w.who, answer)
	require.NoError(t, err)
	require.NotEmpty(t, got)
	assert.Equal(t, writing.SuggestPast, got[0].Kind)
	assert.Equal(t, "Dear Per,\n\na guided walk is possible, and {name} meets you at {time} at the orangery.", got[0].Text)
	assert.Contains(t, got[0].From, "Oda Lind")

	// A date that is offered is compared with the calendar.
	w.receive(mail{id: "c@freight.example", from: "Bram <bram@freight.example>", subject: "Lift", text: "Can we meet on Friday at 10:00?"})
	ask := show.Writing{Kind: "answer", Letter: w.titled(decide.Inbox, "Lift").Last}
	got, err = w.app.Suggestions(w.ctx, w.who, ask)
	require.NoError(t, err)
	assert.Equal(t, "Friday 27 November at 10:00 suits me.", got[0].Text)
	w.appoint(app.AppointmentFields{Title: ref("Rota"), When: ref("fri 9:30 to 10:30")})
	got, err = w.app.Suggestions(w.ctx, w.who, ask)
	require.NoError(t, err)
	assert.Equal(t, []string{"date"}, got[0].Fields)
	assert.NotContains(t, got[0].Text, "Rota")
	other, err := w.app.Suggestions(w.ctx, w.stranger(), ask)
	require.NoError(t, err)
	assert.Empty(t, other, "it is nobody else's letter")
}
