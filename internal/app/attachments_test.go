package app_test

import (
	"bytes"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// upload brings a whole file for a draft.
func (w *world) upload(draft, name, kind string, content []byte) show.AttachedFile {
	w.t.Helper()
	f := show.AttachedFile{ID: rand.Text(), Name: name, Size: int64(len(content)), ContentType: kind}
	_, err := w.app.BeginFile(w.ctx, w.who, draft, f)
	require.NoError(w.t, err)
	got, err := w.app.FillFile(w.ctx, w.who, f.ID, 0, bytes.NewReader(content))
	require.NoError(w.t, err)
	require.Equal(w.t, f.Size, got.Came)
	return f
}

// left is the latest letter that has left, as whoever gets it reads it.
func (w *world) left() letter.Letter {
	w.t.Helper()
	w.pass(time.Minute)
	w.post.mu.Lock()
	defer w.post.mu.Unlock()
	require.NotEmpty(w.t, w.post.sent)
	return letter.Parse(w.post.sent[len(w.post.sent)-1])
}

func random(n int) []byte {
	b := make([]byte, n)
	_, _ = rand.Read(b)
	return b
}

// A file goes along byte for byte, under its name; undoing the send gives the draft back
// with it.
func TestAFileGoesAlong(t *testing.T) {
	w := newWorld(t)
	draft := rand.Text()
	plan := random(5 << 20)
	files := []show.AttachedFile{w.upload(draft, "plan å.pdf", "application/pdf", plan), w.upload(draft, "empty.txt", "text/plain", nil)}
	w.send(nil, func(s *app.Sending) { s.Draft, s.Files = draft, files })
	w.undo()
	drafts, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, drafts, 1)
	require.Equal(t, files, drafts[0].Writing.Files)

	w.send(nil, func(s *app.Sending) { s.Draft, s.Files = rand.Text(), files })
	got := w.left().Attachments()
	require.Len(t, got, 2)
	assert.Equal(t, []string{"plan å.pdf", "application/pdf"}, []string{got[0].Name, got[0].ContentType})
	assert.True(t, bytes.Equal(plan, got[0].Content))
	assert.Equal(t, "empty.txt", got[1].Name)
	w.sound()
}

// However an upload breaks off and is begun again: what has come is kept, nothing is doubled
// and nothing missing.
func TestAnUploadGoesOnWhereItBrokeOff(t *testing.T) {
	w := newWorld(t)
	rapid.Check(t, func(t *rapid.T) {
		content := random(rapid.IntRange(1, 9<<20).Draw(t, "size"))
		f := show.AttachedFile{ID: rand.Text(), Name: "plan.pdf", Size: int64(len(content)), ContentType: "application/pdf"}
		came := int64(0)
		for range 20 {
			begun, err := w.app.BeginFile(w.ctx, w.who, "draft-of-it", f)
			require.NoError(t, err)
			require.GreaterOrEqual(t, begun.Came, came, "what has come is kept")
			came = begun.Came
			from := max(0, came-int64(rapid.IntRange(0, 3<<20).Draw(t, "once more")))
			rest := content[from:]
			if rapid.Bool().Draw(t, "breaks off") {
				some := rest[:rapid.IntRange(0, len(rest)).Draw(t, "after")]
				_, err = w.app.FillFile(w.ctx, w.who, f.ID, from, io.MultiReader(bytes.NewReader(some), iotest.ErrReader(errors.New("the line went dead"))))
				require.Error(t, err)
				continue
			}
			got, err := w.app.FillFile(w.ctx, w.who, f.ID, from, bytes.NewReader(rest))
			require.NoError(t, err)
			require.Equal(t, f.Size, got.Came)
			break
		}
		begun, err := w.app.BeginFile(w.ctx, w.who, "draft-of-it", f)
		require.NoError(t, err)
		_, err = w.app.FillFile(w.ctx, w.who, f.ID, begun.Came, bytes.NewReader(content[begun.Came:]))
		require.NoError(t, err)
		_, kept, err := w.app.File(w.ctx, w.who, f.ID)
		require.NoError(t, err)
		require.True(t, bytes.Equal(content, kept))
		require.NoError(t, w.app.Store.Write(w.ctx, w.who, func(tx *store.Tx) error { return tx.DropAttachment(f.ID) }))
	})
	w.sound()
}

// What can't go is said in words, and the draft stays.
func TestFilesThatCannotGo(t *testing.T) {
	w := newWorld(t)
	draft := rand.Text()
	begin := func(size int64) error {
		_, err := w.app.BeginFile(w.ctx, w.who, draft, show.AttachedFile{ID: rand.Text(), Name: "film.mov", Size: size})
		return err
	}
	assert.ErrorContains(t, begin(2<<30), "“film.mov” is too large for a letter: it has 2048.0 MB")
	assert.NoError(t, begin(1000), "and broke off")
	half, err := w.app.Files(w.ctx, w.who, draft)
	require.NoError(t, err)
	require.Len(t, half, 1)

	send := func(files ...show.AttachedFile) error {
		_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Draft: draft, Writing: show.Writing{
			Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Files: files,
		}})
		return err
	}
	assert.ErrorContains(t, send(half[0].AttachedFile), "“film.mov” is not here whole yet")
	assert.ErrorContains(t, send(show.AttachedFile{ID: "never-begun", Name: "gone.pdf"}), "“gone.pdf” is not here whole yet")
	large := random(10 << 20)
	a, b := w.upload(draft, "a.bin", "", large), w.upload(draft, "b.bin", "", large)
	assert.ErrorContains(t, send(a, b), "With its files the letter has 27.4 MB; this account sends up to 25.0 MB.")
	assert.ErrorContains(t, send(make([]show.AttachedFile, 300)...), "up to 100 files; this one has 300")
	many := 0
	for many < 300 && begin(1) == nil {
		many++
	}
	assert.Less(t, many, 2*writing.MostFiles)

	_, err = w.app.FillFile(w.ctx, w.who, half[0].ID, 0, bytes.NewReader(make([]byte, 1001)))
	assert.ErrorContains(t, err, "longer than it was said to be")
	_, err = w.app.FillFile(w.ctx, w.who, half[0].ID, 10, strings.NewReader("x"))
	assert.ErrorContains(t, err, "Something of “film.mov” is missing before that")
	_, err = w.app.BeginFile(w.ctx, w.who, draft, show.AttachedFile{ID: half[0].ID, Name: "other.mov", Size: 999})
	assert.ErrorContains(t, err, "another file than the one that broke off")
	named := w.upload("another-draft", "../../etc/\r\nBcc: x@y.example", "text/html; charset=\"x\"\r\nX-A: b", []byte("x"))
	w.send(nil, func(s *app.Sending) { s.Files = []show.AttachedFile{named} })
	got := w.left()
	require.Len(t, got.Attachments(), 1)
	assert.NotContains(t, got.Attachments()[0].Name, "/")
	assert.NotContains(t, got.Attachments()[0].Name, "\n")
	w.sound()
}

// Files whose letter was thrown away go once that can't be undone any more.
func TestFilesOfWhatIsOver(t *testing.T) {
	w := newWorld(t)
	draft := rand.Text()
	f := w.upload(draft, "plan.pdf", "", random(100))
	_, err := w.app.SaveDraft(w.ctx, w.who, draft, 0, show.Writing{Kind: "new", Files: []show.AttachedFile{f}})
	require.NoError(t, err)
	left := func() int {
		w.upload("another-draft", "x", "", nil) // with the next file they are looked for
		files, err := w.app.Files(w.ctx, w.who, draft)
		require.NoError(t, err)
		return len(files)
	}
	w.pass(40 * 24 * time.Hour)
	assert.Equal(t, 1, left(), "the draft lives")
	_, err = w.app.SaveDraft(w.ctx, w.who, draft, 0, show.Writing{Kind: "new", Files: []show.AttachedFile{f}})
	require.NoError(t, err)
	_, err = w.app.DropDraft(w.ctx, w.who, rand.Text(), draft)
	require.NoError(t, err)
	w.pass(29 * 24 * time.Hour)
	assert.Equal(t, 1, left())
	w.pass(2 * 24 * time.Hour)
	assert.Equal(t, 0, left())
	w.sound()
}

// A letter that leaves in two months can be written on until then, with its files.
func TestFilesOfWhatLeavesMuchLater(t *testing.T) {
	w := newWorld(t)
	draft := rand.Text()
	f := w.upload(draft, "plan.pdf", "", random(100))
	sent := w.send(nil, func(s *app.Sending) {
		s.Draft, s.Files, s.Later = draft, []show.AttachedFile{f}, w.clock.Now().AddDate(0, 2, 0).Format("2 jan 2006")
	})
	w.pass(45 * 24 * time.Hour)
	w.upload("another-draft", "x", "", nil) // with it what is stale is looked for
	require.NoError(t, w.editAhead("cancel", "", app.EntryRef{Kind: "send", ID: sent.Outgoing}))
	files, err := w.app.Files(w.ctx, w.who, draft)
	require.NoError(t, err)
	require.Len(t, files, 1)
	assert.Equal(t, f.Size, files[0].Came)
	w.sound()
}

// Markdown goes as a page beside its source, with pictures in it; plain text alone does not.
func TestMarkdownGoesAsAPage(t *testing.T) {
	w := newWorld(t)
	draft := rand.Text()
	crates := w.upload(draft, "crates.png", "image/png", random(300))
	plan := w.upload(draft, "plan.pdf", "application/pdf", random(300))
	source := "The **crates**:\n\n![crates](cid:" + crates.ID + ")\n\n-- \nInes\n"
	w.send(nil, func(s *app.Sending) {
		s.Text, s.Markdown, s.Files = source, true, []show.AttachedFile{crates, plan}
	})
	got := w.left()
	assert.Equal(t, strings.TrimSpace(source), strings.TrimSpace(got.Text))
	assert.Contains(t, got.HTML, "<strong>crates</strong>")
	require.Len(t, got.Parts, 2)
	assert.Contains(t, got.HTML, `src="cid:`+got.Parts[0].ContentID+`"`)
	assert.Len(t, got.Attachments(), 1, "the picture is in the text")
	shown := letter.Clean(got.HTML, false, func(id string) string { return "/" + id })
	assert.Contains(t, shown.HTML, "<strong>crates</strong>")
	assert.Contains(t, shown.HTML, `src="/`+got.Parts[0].ContentID+`"`)

	w.send(nil, func(s *app.Sending) { s.Text, s.Files = source, []show.AttachedFile{crates} })
	got = w.left()
	assert.Empty(t, got.HTML)
	assert.Len(t, got.Attachments(), 1)
}

// A letter is handed on with its files, without them, or whole.
func TestHandingOnWithAndWithout(t *testing.T) {
	for _, c := range []struct {
		along string
		files []string
	}{{"", []string{"crates.txt"}}, {"files", []string{"crates.txt"}}, {"text", nil}, {"letter", []string{"Crates.eml"}}} {
		w := newWorld(t)
		w.receive(mail{
			id: "one@freight.example", from: "Bram <bram@freight.example>", subject: "Crates",
			extra: "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n",
			text:  "--b\r\n\r\nThe sizes are attached.\r\n--b\r\nContent-Type: text/plain; name=crates.txt\r\nContent-Disposition: attachment; filename=crates.txt\r\n\r\n62 x 62\r\n--b--",
		})
		row := w.row(decide.Inbox)
		w.send(&row, func(s *app.Sending) {
			s.Kind, s.Along, s.To, s.Text, s.Quoted = "hand-on", c.along, []string{"tove@away.example"}, "See below.", "-- Forwarded letter --\n\nThe sizes"
		})
		got := w.left()
		var names []string
		for _, p := range got.Attachments() {
			names = append(names, p.Name)
		}
		assert.Equal(t, c.files, names, c.along)
		assert.Equal(t, c.along != "letter", strings.Contains(got.Text, "Forwarded letter"), c.along)
		if c.along == "letter" {
			whole := letter.Parse(got.Attachments()[0].Content)
			assert.Equal(t, "one@freight.example", whole.MessageID)
			assert.Len(t, whole.Attachments(), 1)
		}
	}
}

// Who gets a hidden copy is told to nobody, and gets the letter.
func TestHiddenCopies(t *testing.T) {
	w := newWorld(t)
	w.send(nil, func(s *app.Sending) { s.Bcc = []string{"Tove <tove@away.example>"} })
	got := w.left()
	assert.Equal(t, [][]string{{"bram@freight.example", "tove@away.example"}}, w.post.to)
	assert.NotContains(t, string(w.post.sent[0]), "tove@away.example")
	assert.Len(t, got.Recipients(), 1)
	_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Bcc: []string{"no address"}}})
	assert.ErrorContains(t, err, "“no address” is not an address")
}

// The asks of the answered letter tick themselves off, and what is doubtful is told.
func TestAsksAndDoubts(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{
		id: "one@freight.example", from: "Bram <bram@freight.example>", subject: "Crates", extra: "Cc: tove@norrholm.example\r\n",
		text: "Dear Ines,\r\n\r\nCan you confirm the four crate sizes? Which courier do you use for the last leg?\r\n\r\nBram",
	})
	c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	answer := show.Writing{Kind: "answer", Letter: c.Answer.Letter, From: "ines@norrholm.example", To: []string{"bram@freight.example"}, All: true, Text: "The four crates are 62 cm, see attached."}
	asks, err := w.app.Asks(w.ctx, w.who, answer)
	require.NoError(t, err)
	assert.Equal(t, []writing.Ask{{Text: "Can you confirm the four crate sizes?", Covered: true, Line: 1}, {Text: "Which courier do you use for the last leg?"}}, asks)
	kinds := func() (out []writing.DoubtKind) {
		doubts, err := w.app.Doubts(w.ctx, w.who, answer)
		require.NoError(t, err)
		for _, d := range doubts {
			out = append(out, d.Kind)
		}
		return out
	}
	assert.Equal(t, []writing.DoubtKind{writing.NoAttachment, writing.Uncovered, writing.Missing}, kinds())
	answer.Covered, answer.Files, answer.To = []string{asks[1].Text}, []show.AttachedFile{{}}, []string{"bram@frieght.example", "tove@norrholm.example"}
	assert.Equal(t, []writing.DoubtKind{writing.LikeAnother}, kinds())

	none, err := w.app.Asks(w.ctx, w.who, show.Writing{Kind: "new"})
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = w.app.Asks(w.ctx, w.who, show.Writing{Kind: "answer", Letter: 999})
	assert.Error(t, err)
}

// Nobody else's files are to be had, and none of a letter come twice.
func TestFilesAreOnesOwn(t *testing.T) {
	w := newWorld(t)
	f := w.upload("a-draft-of-mine", "plan.pdf", "", random(10))
	other, err := w.app.Store.AddPerson(w.ctx, store.Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []store.Account{{Address: "tove@norrholm.example", Name: "Tove"}}, start)
	require.NoError(t, err)
	tove := w.at(other)
	_, _, err = tove.app.File(w.ctx, tove.who, f.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = tove.app.FillFile(w.ctx, tove.who, f.ID, 10, strings.NewReader("x"))
	assert.ErrorContains(t, err, "no longer there")
	files, err := tove.app.Files(w.ctx, tove.who, "a-draft-of-mine")
	require.NoError(t, err)
	assert.Empty(t, files)
	_, err = tove.app.Send(w.ctx, tove.who, app.Sending{Command: rand.Text(), Writing: show.Writing{
		Kind: "new", From: "tove@norrholm.example", To: []string{"bram@freight.example"}, Files: []show.AttachedFile{f},
	}})
	assert.ErrorContains(t, err, "is not here whole yet")
	again, err := w.app.BeginFile(w.ctx, w.who, "a-draft-of-mine", f)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(f.Size), fmt.Sprint(again.Came))
}
