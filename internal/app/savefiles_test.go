package app_test

import (
	"context"
	"crypto/rand"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/folder"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
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

// saving lets a rule save what a letter brings, into a folder beside the database; what of that was done before is
// not done again.
func saving(a *app.App, _ *clockwork.FakeClock, who store.Who) error {
	ctx := context.Background()
	in := filepath.Join(filepath.Dir(a.Store.Path()), "saved")
	if err := os.MkdirAll(in, 0o700); err != nil {
		return err
	}
	a.Folder = folder.Folder(in)
	steps := []routine.Step{{Do: routine.SaveFiles, Text: "{name}"}}
	if _, err := a.NewRule(ctx, who, "crash-rule", app.RuleFields{Name: ref("Bills"), Conditions: ref(from("bram@freight.example")), Steps: &steps}); err != nil {
		return err
	}
	extra, text := attaching("bill.csv", "crates;4")
	raw := mail{id: "bill@freight.example", from: "bram@freight.example", subject: "Bill", extra: extra, text: text}.bytes(start)
	if err := a.Receive(ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: raw, At: start}); err != nil {
		return err
	}
	return a.SaveFiles(ctx)
}

// Killed before a file stands in the folder, or between that and its being told: it stands there once, and
// is told once.
func TestKilledWhileAFileIsSaved(t *testing.T) {
	for _, point := range []string{"saving.put", "saving.mark"} {
		t.Run(point, func(t *testing.T) {
			t.Parallel()
			a, file, who := newCrashed(t)
			require.NoError(t, a.Store.Close())
			killIn(t, "saving", file, point, 1)
			a, clock := openCrashed(t, file)
			for range 2 {
				require.NoError(t, saving(a, clock, who))
			}
			there := cupboard{Folder: folder.Folder(filepath.Join(filepath.Dir(file), "saved"))}
			assert.Equal(t, map[string]string{"ines/bill.csv": "crates;4"}, there.files(t))
			all, err := a.Journal(t.Context(), who, show.JournalAsk{})
			require.NoError(t, err)
			told := slices.DeleteFunc(all, func(e show.JournalEntry) bool { return !strings.HasPrefix(e.Title, "Saved “") })
			assert.Len(t, told, 1)
			problems, err := a.Store.Check(t.Context())
			require.NoError(t, err)
			assert.Empty(t, problems)
			require.NoError(t, a.Store.Close())
		})
	}
}
