package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"log/slog"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// dump gives all rows of all tables of an archive.
func dump(t *testing.T, s *store.Store, who store.Who) map[string][]string {
	t.Helper()
	out := map[string][]string{}
	require.NoError(t, s.Read(t.Context(), who, func(tx *store.Tx) error {
		for _, table := range store.ArchivedTables() {
			if err := tx.Dump(table, func(line json.RawMessage) error {
				out[table] = append(out[table], string(line))
				return nil
			}); err != nil {
				return err
			}
		}
		return nil
	}))
	return out
}

func archived(t *testing.T, w *world) *zip.Reader {
	t.Helper()
	var b bytes.Buffer
	_, err := w.app.Archive(w.ctx, w.who, &b)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	return z
}

func TestAnArchiveRestoresEverything(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	file := filepath.Join(t.TempDir(), "restored.db")
	m, _, err := app.Restore(w.ctx, archived(t, w), file)
	require.NoError(t, err)
	assert.Equal(t, "Ines", m.Name)

	s, err := store.Open(file)
	require.NoError(t, err)
	defer s.Close()
	before, after := dump(t, w.app.Store, w.who), dump(t, s, store.Own(m.Owner))
	for _, table := range store.ArchivedTables() {
		assert.Equal(t, before[table], after[table], table)
		if table != "senders" {
			assert.NotEmpty(t, before[table], "the filled world leaves %s empty, so nothing is shown of it", table)
		}
	}
	problems, err := s.Check(w.ctx)
	require.NoError(t, err)
	assert.Empty(t, problems)

	// It goes on working: search finds, undo takes back, what is due comes.
	there := app.New(s, w.clock, slog.New(slog.DiscardHandler))
	found, err := there.Search(w.ctx, store.Own(m.Owner), show.Asked{Q: "accept"})
	require.NoError(t, err)
	assert.Len(t, found.Rows, 1)
	undone, err := there.Undo(w.ctx, store.Own(m.Owner), "an undo elsewhere", 0, true)
	require.NoError(t, err)
	here, err := w.app.Undo(w.ctx, w.who, "an undo elsewhere", 0, true)
	require.NoError(t, err)
	assert.Equal(t, here, undone)
}

func TestWhatIsNoArchiveIsRefused(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	whole := archived(t, w)
	// change writes the archive again, with one entry changed or left out.
	change := func(name string, edit func(string) string) *zip.Reader {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, f := range whole.File {
			r, err := f.Open()
			require.NoError(t, err)
			var text bytes.Buffer
			_, err = text.ReadFrom(r)
			require.NoError(t, err)
			content := text.String()
			if strings.HasPrefix(f.Name, name) {
				if content = edit(content); content == "" {
					continue
				}
			}
			e, err := z.Create(f.Name)
			require.NoError(t, err)
			_, err = e.Write([]byte(content))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		out, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
		require.NoError(t, err)
		return out
	}
	for name, c := range map[string]struct {
		archive *zip.Reader
		say     string
	}{
		"no manifest":         {change("archive.json", func(string) string { return "" }), "no archive"},
		"another format":      {change("archive.json", func(s string) string { return strings.Replace(s, "ebbe archive 2", "ebbe archive 9", 1) }), "no archive"},
		"a newer schema":      {change("archive.json", func(s string) string { return strings.Replace(s, store.Schema(), "9999", 1) }), "9999"},
		"a letter tampered":   {change("letters/", func(s string) string { return s + "x" }), "was changed"},
		"a letter is missing": {change("tables/accounts", func(s string) string { return strings.Replace(s, "position", "rank", 1) }), "not known"},
		"it broke off":        {change("end.json", func(string) string { return "" }), "broke off"},
		"rows are missing":    {change("tables/changes", func(s string) string { return s[strings.Index(s, "\n")+1:] }), "should have"},
		"impossible values":   {change("tables/conversations", func(s string) string { return strings.Replace(s, `"place":"archive"`, `"place":"nowhere"`, 1) }), "does not exist"},
		"an impossible date": {change("tables/letters", func(s string) string {
			return regexp.MustCompile(`"received_at":\d+`).ReplaceAllString(s, `"received_at":9000000000000000000`)
		}), "restored"},
		"rubbish in a table": {change("tables/letters", func(string) string { return "{\n" }), "restore letters"},
	} {
		_, _, err := app.Restore(w.ctx, c.archive, filepath.Join(t.TempDir(), "x.db"))
		assert.ErrorContains(t, err, c.say, name)
	}
	_, _, err := app.Restore(w.ctx, whole, w.app.Store.Path())
	assert.ErrorIs(t, err, store.ErrNotEmpty)
}

// One unreadable original does not keep the rest from being archived and
// restored; it is named.
func TestAnUnreadableOriginalIsNamedAndTheRestTaken(t *testing.T) {
	w := newWorld(t)
	fillWorld(w)
	id := w.rows(decide.Inbox)[0].Last
	raw, err := w.app.Original(w.ctx, w.who, id)
	require.NoError(t, err)
	w.behind(fmt.Sprintf("UPDATE blobs SET packed = x'00' WHERE sha = (SELECT sha FROM letters WHERE id = %d)", id))
	problems, err := w.app.Store.Check(w.ctx)
	require.NoError(t, err)
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0], "is damaged")

	var b bytes.Buffer
	end, err := w.app.Archive(w.ctx, w.who, &b)
	require.NoError(t, err)
	require.Len(t, end.Missing, 1)
	assert.NotEmpty(t, end.Missing[0].Letters)
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "restored.db")
	_, again, err := app.Restore(w.ctx, z, file)
	require.NoError(t, err, "and what is restored is sound")
	assert.Equal(t, end, again)
	w.behind("DELETE FROM blobs WHERE packed = x'00'")
	require.NoError(t, w.app.Store.Write(w.ctx, w.who, func(tx *store.Tx) error { return tx.Keep(store.Pack(raw)) }))
}

// A single flipped bit of an original does not pass for sound.
func TestAFlippedBitIsFound(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.behind("UPDATE blobs SET packed = CAST(substr(packed, 1, length(packed) - 1) || x'ff' AS BLOB)")
	problems, err := w.app.Store.Check(w.ctx)
	require.NoError(t, err)
	assert.Len(t, problems, 1)
	w.behind("DELETE FROM blobs")
	require.NoError(t, w.app.Store.Write(w.ctx, w.who, func(tx *store.Tx) error { return tx.Keep(store.Pack(bramAsks.bytes(start))) }))
}
