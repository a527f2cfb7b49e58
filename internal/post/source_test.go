package post

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const one = "From: a@b.example\nSubject: one\n\nbody\n"

// files makes a folder with these files.
func files(t *testing.T, contents map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, content := range contents {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
	}
	return dir
}

// zipped makes a zip of entries in the given order.
func zipped(t *testing.T, entries ...[2]string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, e := range entries {
		w, err := z.Create(e[0])
		require.NoError(t, err)
		_, err = w.Write([]byte(e[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	path := filepath.Join(t.TempDir(), "letters.zip")
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

// taken reads a source: the letters by name, and what was left out and why.
func taken(t *testing.T, path string) (letters map[string]string, left map[string]error) {
	t.Helper()
	s, err := Open(path, QuotedRD)
	require.NoError(t, err)
	letters, left = map[string]string{}, map[string]error{}
	for item := range s.Letters() {
		if item.Err != nil {
			left[item.Name] = item.Err
		} else {
			letters[item.Name] = string(item.Raw)
		}
	}
	done, of := s.Progress()
	assert.LessOrEqual(t, done, of)
	return letters, left
}

func TestSourcesOfEveryKind(t *testing.T) {
	mbox := "From a@b Tue Nov 24 08:12:00 2026\n" + one + "\nFrom c@d Tue Nov 24 08:13:00 2026\nSubject: two\n\n>From x\n\n"
	two := "Subject: two\n\nFrom x\n"
	for name, c := range map[string]struct {
		path    string
		letters map[string]string
		left    map[string]error
	}{
		"a letter": {filepath.Join(files(t, map[string]string{"a.eml": one}), "a.eml"), map[string]string{"a.eml": one}, nil},
		"an mbox":  {filepath.Join(files(t, map[string]string{"in": mbox}), "in"), map[string]string{"in, letter 1": one, "in, letter 2": two}, nil},
		"a folder of all": {files(t, map[string]string{"sub/in": mbox, "b.eml": one, "index.cache": "\x00\x01", "notes.eml": "no field here"}),
			map[string]string{"sub/in, letter 1": one, "sub/in, letter 2": two, "b.eml": one, "notes.eml": "no field here"}, map[string]error{"index.cache": ErrNoLetter}},
		"a maildir": {files(t, map[string]string{"cur/1.x:2,S": one, "new/2.x": two, "tmp/3.x": one, ".Sent/cur/4.x:2,": one, ".Sent/new/5": two, ".Sent/tmp/6": one}),
			map[string]string{"cur/1.x:2,S": one, "new/2.x": two, ".Sent/cur/4.x:2,": one, ".Sent/new/5": two}, nil},
		"a zip": {zipped(t, [2]string{"in.mbox", mbox}, [2]string{"a/b.eml", one}), map[string]string{"in.mbox, letter 1": one, "in.mbox, letter 2": two, "a/b.eml": one}, nil},
		"a zip that climbs": {zipped(t, [2]string{"../../etc/x.eml", one}, [2]string{`..\y.eml`, one}, [2]string{"/abs.eml", one}, [2]string{"ok.eml", one}),
			map[string]string{"ok.eml": one}, map[string]error{"../../etc/x.eml": ErrClimbs, `..\y.eml`: ErrClimbs, "/abs.eml": ErrClimbs}},
		"a bomb":                {zipped(t, [2]string{"a.eml", one}, [2]string{"bomb.eml", "From: a@b\n\n" + strings.Repeat("0", 100<<20)}), map[string]string{"a.eml": one}, map[string]error{"bomb.eml": ErrBomb}},
		"an archive in another": {zipped(t, [2]string{"inner.zip", "PK"}, [2]string{"a.eml", one}), map[string]string{"a.eml": one}, map[string]error{"inner.zip": ErrNested}},
		"an empty file":         {files(t, map[string]string{"a.eml": ""}), map[string]string{}, map[string]error{"a.eml": ErrNoLetter}},
	} {
		letters, left := taken(t, c.path)
		assert.Equal(t, c.letters, letters, name)
		if c.left == nil {
			c.left = map[string]error{}
		}
		assert.Equal(t, c.left, left, name)
	}
}

func TestABrokenZipIsToldOf(t *testing.T) {
	dir := files(t, map[string]string{"a.zip": "PK\x03\x04 and then nothing", "b.eml": one})
	letters, left := taken(t, dir)
	assert.Equal(t, map[string]string{"b.eml": one}, letters, "every other letter is unharmed")
	assert.ErrorContains(t, left["a.zip"], "could not be opened")
	_, err := Open(filepath.Join(dir, "missing"), QuotedRD)
	assert.Error(t, err)
}

func TestTheTimeOfAFromLineStandsInForTheFiles(t *testing.T) {
	for line, want := range map[string]string{
		"From a@b Tue Nov 24 08:12:00 2026\n":       "2026-11-24T08:12:00Z",
		"From a@b Tue Nov  3 08:12:00 2026\r\n":     "2026-11-03T08:12:00Z",
		"From a@b Tue Nov 24 08:12:00 2026 +0100\n": "2026-11-24T07:12:00Z",
		"From - nonsense\n":                         "0001-01-01T00:00:00Z",
		"From \n":                                   "0001-01-01T00:00:00Z",
	} {
		assert.Equal(t, want, fromLineTime(line).Format(time.RFC3339), line)
	}
}

func TestNamesOfFiles(t *testing.T) {
	at := time.Date(2026, 11, 24, 7, 0, 0, 0, time.UTC)
	assert.Equal(t, "2026-11-24 7 Re- a-b-c.eml", LetterName(7, 0, at, `Re: a/b\c`))
	assert.Equal(t, "2026-11-24 8-2 letter.eml", LetterName(8, 1, at, "../.."[:2]))
	assert.Equal(t, "cur/1795503600.7.ebbe:2,FS", MaildirName(7, 0, at, true))
	assert.Len(t, []rune(FileName(strings.Repeat("å", 300))), 100)
}
