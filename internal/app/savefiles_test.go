package app_test

import (
	"crypto/rand"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/folder"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/work"
)

// cupboard is a folder that can be out of order.
type cupboard struct {
	folder.Folder
	broken error
}

func (s *cupboard) Put(at string, content []byte) (string, error) {
	if s.broken != nil {
		return "", s.broken
	}
	return s.Folder.Put(at, content)
}

// files are those in the folder, each with its text.
func (s *cupboard) files(t *testing.T) map[string]string {
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(string(s.Folder), func(at string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := os.ReadFile(at)
		name, _ := filepath.Rel(string(s.Folder), at)
		out[filepath.ToSlash(name)] = string(text)
		return err
	}))
	return out
}

func (w *world) saved() (titles []string) {
	w.t.Helper()
	require.NoError(w.t, w.app.SaveFiles(w.ctx))
	all, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(w.t, err)
	for _, e := range all {
		if e.Actor == work.ByRule && strings.Contains(e.Title, "aved “") || strings.Contains(e.Title, "could not be saved") {
			titles = append(titles, e.Title)
		}
	}
	return titles
}

func (w *world) bill(id, name, content string) {
	extra, text := attaching(name, content)
	w.receive(mail{id: id, from: "Bram <bram@freight.example>", subject: "Bill", extra: extra, text: text})
}

// Files are saved by a rule where somebody chose a folder; nothing is overwritten; what can't be saved is told
// and tried again; what was undone before is not saved.
func TestARuleSavesWhatIsAttached(t *testing.T) {
	w := newWorld(t)
	steps := []routine.Step{{Do: routine.SaveFiles, Text: "{month}/{name}"}, {Do: routine.Decide, Decision: decide.Done}}
	_, err := w.app.NewRule(w.ctx, w.who, rand.Text(), app.RuleFields{Name: ref("Bills"), Conditions: ref(from("bram@freight.example")), Steps: &steps})
	require.ErrorContains(t, err, "no folder")
	s := &cupboard{Folder: folder.Folder(t.TempDir())}
	w.app.Folder = s
	_, err = w.app.NewRule(w.ctx, w.who, rand.Text(), app.RuleFields{Name: ref("Bills"), Conditions: ref(from("bram@freight.example")), Steps: &[]routine.Step{{Do: routine.SaveFiles, Text: "{nme}"}}})
	require.ErrorContains(t, err, "no field")
	id := w.makeRule("Bills", from("bram@freight.example"), steps)

	w.bill("1@freight.example", "bill.pdf", "one")
	assert.Empty(t, s.files(t), "the step is kept first")
	assert.Equal(t, []string{"Saved “ines/2026-11/bill.pdf”"}, w.saved())
	w.bill("2@freight.example", "bill.pdf", "two")
	w.bill("3@freight.example", "../../bill.pdf", "one")
	w.saved()
	assert.Equal(t, map[string]string{"ines/2026-11/bill.pdf": "one", "ines/2026-11/bill (2).pdf": "two", "ines/2026-11/-..-bill.pdf": "one"}, s.files(t))
	assert.Len(t, w.saved(), 3, "each once")

	s.broken = errors.New("no space left on device")
	w.bill("4@freight.example", "late.pdf", "late")
	assert.Equal(t, "“ines/2026-11/late.pdf” could not be saved: No space left on device.", w.saved()[0])
	s.broken = nil
	assert.Len(t, w.saved(), 4, "not before its time")
	w.pass(5 * time.Minute)
	assert.Equal(t, "Saved “ines/2026-11/late.pdf”", w.saved()[0])

	w.bill("5@freight.example", "undone.pdf", "undone")
	_, err = w.app.UndoRule(w.ctx, w.who, rand.Text(), id)
	require.NoError(t, err)
	w.saved()
	assert.NotContains(t, s.files(t), "ines/2026-11/undone.pdf")
	assert.Len(t, s.files(t), 4, "what was saved stays")
	w.sound()
}
