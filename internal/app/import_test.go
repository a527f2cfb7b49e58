package app_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/work"
)

// mboxOf writes letters to an mbox file.
func mboxOf(t *testing.T, raws ...[]byte) string {
	t.Helper()
	var b bytes.Buffer
	for _, raw := range raws {
		require.NoError(t, post.WriteMbox(&b, raw, "a@x.example", start))
	}
	path := filepath.Join(t.TempDir(), "old.mbox")
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

func (w *world) importFile(path string, change func(*app.Importing)) app.ImportView {
	w.t.Helper()
	in := app.Importing{Command: rand.Text(), Name: filepath.Base(path), Path: path}
	if change != nil {
		change(&in)
	}
	v, err := w.app.ImportNow(w.ctx, w.who, in, nil)
	require.NoError(w.t, err)
	return v
}

func titlesOf(rows []show.Row) (out []string) {
	for _, r := range rows {
		out = append(out, r.Title)
	}
	slices.Sort(out)
	return out
}

func TestImport(t *testing.T) {
	w := newWorld(t)
	a := mail{id: "a@x.example", from: "eva@x.example", subject: "Old", text: "purple"}.bytes(start.AddDate(0, -2, 0))
	b := mail{id: "b@x.example", from: "eva@x.example", subject: "Fresh", to: "walks@norrholm.example"}.bytes(start.AddDate(0, 0, -1))
	mine := mail{id: "m@n.example", from: "ines@norrholm.example", to: "eva@x.example", subject: "Mine"}.bytes(start.AddDate(0, 0, -1))
	damaged := []byte("this is no letter\x00at all\n")
	path := mboxOf(t, a, b, mine, damaged, a)
	recent := func(in *app.Importing) { in.InboxDays = 7 }
	v := w.importFile(path, recent)
	assert.Equal(t, []int{5, 4, 1, 1, 0}, []int{v.Read, v.New, v.Known, v.Damaged, v.Passed})
	assert.Equal(t, "done", v.State)
	assert.Equal(t, v.Size, v.Done)
	require.Len(t, v.Troubles, 1)
	assert.Equal(t, "old.mbox, letter 4", v.Troubles[0].Name)
	opened, err := w.app.Open(w.ctx, w.who, v.Troubles[0].Conversation)
	require.NoError(t, err, "a damaged letter can be opened")
	assert.Contains(t, opened.LetterList[0].Body.Text[0].Text, "no letterat all")

	assert.Equal(t, []string{"(no subject)", "Fresh"}, titlesOf(w.rows(decide.Inbox)))
	assert.Equal(t, []string{"Mine", "Old"}, titlesOf(w.rows(decide.Archive)))
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, false, 2, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"Fresh"}, titlesOf(page.Rows), "narrowed to the account that it went to")
	found, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "purple"})
	require.NoError(t, err)
	require.Len(t, found.Rows, 1)
	raw, err := w.app.Original(w.ctx, w.who, found.Rows[0].Letter)
	require.NoError(t, err)
	assert.Equal(t, a, raw, "kept byte for byte")

	again := w.importFile(path, recent)
	assert.Equal(t, []int{0, 5}, []int{again.New, again.Known}, "the same again adds nothing")

	fresh := slices.IndexFunc(w.rows(decide.Inbox), func(r show.Row) bool { return r.Title == "Fresh" })
	w.decide(decide.Done, w.rows(decide.Inbox)[fresh])
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), v.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, []string{"Fresh"}, titlesOf(w.rows(decide.Archive)), "what was used since stays")
	assert.Len(t, w.rows(decide.Bin), 3)
	w.undo()
	assert.Len(t, w.rows(decide.Bin), 3, "the latest step of my own was before: the one letter done")
	shown, err := w.app.ImportOf(w.ctx, w.who, v.ID)
	require.NoError(t, err)
	assert.True(t, shown.Undone)
}

func TestImportBringsNothingBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri"))
	w.importFile(mboxOf(t, mail{id: "r@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id}.bytes(start)), nil)
	assert.Empty(t, w.rows(decide.Inbox))
	assert.Equal(t, 2, w.row(decide.Later).Letters)
}

func TestAnImportBySubjectMeetsNoExpectation(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.send(ref(w.row(decide.Inbox)), func(s *app.Sending) { s.Wait = "3d" })
	w.pass(time.Minute)
	w.importFile(mboxOf(t, mail{id: "r@freight.example", from: bramAsks.from, subject: "Re: Crates"}.bytes(start)), nil)
	assert.Equal(t, 1, w.overview().Waiting)
}

// many writes more letters than fit into one batch.
func many(t *testing.T, n int) string {
	t.Helper()
	var raws [][]byte
	for i := range n {
		raws = append(raws, mail{id: fmt.Sprint(i, "@x.example"), from: "eva@x.example", subject: fmt.Sprint("Letter ", i)}.bytes(start.Add(-time.Duration(i)*time.Minute)))
	}
	return mboxOf(t, raws...)
}

func TestAnImportThatWasCutOffGoesOnWhereItWas(t *testing.T) {
	w := newWorld(t)
	const letters = 3500 // of four batches the next may be under way when the first is in
	path := many(t, letters)
	ctx, cancel := context.WithCancel(w.ctx)
	w.app.Hook = func(point string) {
		if point == "import.after-commit" {
			cancel() // Ebbe stops in the middle
		}
	}
	_, err := w.app.ImportNow(ctx, w.who, app.Importing{Command: rand.Text(), Name: "x", Path: path}, nil)
	require.ErrorIs(t, err, context.Canceled)
	list, err := w.app.Imports(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Equal(t, "running", list[0].State)
	require.Less(t, list[0].New, letters)

	w.app.Hook = nil
	v := w.importFile(path, nil)
	assert.Equal(t, list[0].ID, v.ID, "the same import")
	assert.Equal(t, []int{letters, letters, 0}, []int{v.Read, v.New, v.Known}, "one account of both parts")
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), v.Entry, true)
	require.NoError(t, err)
	assert.Zero(t, len(w.rows(decide.Archive)), "undone as one")
}

func TestAnUploadIsImported(t *testing.T) {
	w := newWorld(t)
	fill := func(id int64, n int, name string, m mail) {
		require.NoError(t, w.app.FillImport(w.ctx, w.who, id, n, name, bytes.NewReader(m.bytes(start))))
	}
	in := app.Importing{Command: rand.Text(), Name: "2 files"}
	v, err := w.app.NewImport(w.ctx, w.who, in)
	require.NoError(t, err)
	assert.Equal(t, "filling", v.State)
	fill(v.ID, 0, "../../a.eml", bramAsks)
	fill(v.ID, 1, "a.eml", mail{id: "b@x.example", from: "eva@x.example", subject: "Two"})
	_, err = w.app.StartImport(w.ctx, w.who, v.ID)
	require.NoError(t, err)
	w.app.WaitForImports()
	v, err = w.app.ImportOf(w.ctx, w.who, v.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"done", 2}, []any{v.State, v.New})
	assert.Error(t, w.app.FillImport(w.ctx, w.who, v.ID, 2, "c.eml", strings.NewReader("x")), "it has begun")
	left, err := filepath.Glob(w.app.Store.Path() + ".imports/*")
	require.NoError(t, err)
	assert.Empty(t, left, "uploaded files don't stay")

	again, err := w.app.NewImport(w.ctx, w.who, in)
	require.NoError(t, err)
	assert.Equal(t, v.ID, again.ID, "the same command is the same import")

	stopped, err := w.app.NewImport(w.ctx, w.who, app.Importing{Command: rand.Text(), Name: "x"})
	require.NoError(t, err)
	stopped, err = w.app.StopImport(w.ctx, w.who, stopped.ID)
	require.NoError(t, err)
	assert.Equal(t, "stopped", stopped.State)

	half, err := w.app.NewImport(w.ctx, w.who, app.Importing{Command: rand.Text(), Name: "y"})
	require.NoError(t, err)
	require.NoError(t, w.app.ResumeImports(w.ctx)) // as after a crash in the middle of an upload
	half, err = w.app.ImportOf(w.ctx, w.who, half.ID)
	require.NoError(t, err)
	assert.Equal(t, "failed", half.State)
	assert.Contains(t, half.Trouble, "nothing was taken in")
}

func TestAnUploadThatACrashCutOffGoesOn(t *testing.T) {
	w := newWorld(t)
	raw, err := os.ReadFile(many(t, 1000))
	require.NoError(t, err)
	v, err := w.app.NewImport(w.ctx, w.who, app.Importing{Command: rand.Text(), Name: "x"})
	require.NoError(t, err)
	require.NoError(t, w.app.FillImport(w.ctx, w.who, v.ID, 0, "in.mbox", bytes.NewReader(raw)))
	reached, stop := make(chan struct{}), make(chan struct{})
	w.app.Hook = func(point string) {
		if point == "import.after-commit" {
			close(reached)
			<-stop
		}
	}
	_, err = w.app.StartImport(w.ctx, w.who, v.ID)
	require.NoError(t, err)
	<-reached
	w.app.Hook = nil
	stopped := make(chan struct{})
	go func() {
		w.app.StopImports()
		close(stopped)
	}()
	close(stop)
	<-stopped
	require.NoError(t, w.app.ResumeImports(w.ctx))
	w.app.WaitForImports()
	v, err = w.app.ImportOf(w.ctx, w.who, v.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"done", 1000, 1000}, []any{v.State, v.Read, v.New})
}

func TestNewsReachesOpenPages(t *testing.T) {
	w := newWorld(t)
	news, stop := w.app.Listen(w.who)
	defer stop()
	w.receive(bramAsks)
	n := <-news
	assert.Contains(t, n.Stale, work.ReadList)
	row := w.row(decide.Inbox)
	w.decide(decide.Done, row)
	n = <-news
	assert.Equal(t, []int64{row.ID}, n.Conversations)
	for range 100 { // a page that does not keep up
		w.decide(decide.ToInbox, w.row(decide.Archive))
		w.decide(decide.Done, w.row(decide.Inbox))
	}
	everything := false
	for len(news) > 0 {
		n := <-news
		everything = everything || n.Everything
	}
	assert.True(t, everything)
}

func TestTheSchedulerWakesForWhatIsDue(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("in 1 hour"))
	news, stop := w.app.Listen(w.who)
	defer stop()
	done := make(chan struct{})
	ctx := t.Context()
	go func() {
		defer close(done)
		w.app.Run(ctx)
	}()
	for range 120 {
		require.NoError(t, w.clock.BlockUntilContext(ctx, 1))
		w.clock.Advance(30 * time.Second)
	}
	n := <-news
	assert.Contains(t, n.Stale, work.ReadList)
	assert.Equal(t, "Crates", w.row(decide.Inbox).Title)
}
