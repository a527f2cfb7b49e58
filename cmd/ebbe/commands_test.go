package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/store"
)

// ebbe runs a command and gives what it printed.
func ebbe(args ...string) (string, error) {
	var out bytes.Buffer
	cmd := root()
	cmd.SetOut(&out)
	cmd.SetErr(&bytes.Buffer{})
	cmd.SetArgs(args)
	err := cmd.Execute()
	return out.String(), err
}

// What an Ebbe begins to read files is Ebbe itself; it ends when nothing more is asked.
func TestReadFiles(t *testing.T) {
	begin := readFiles()
	require.NotNil(t, begin)
	assert.Equal(t, readFilesName, begin().Args[1])
	out, err := ebbe(readFilesName)
	require.NoError(t, err)
	assert.Empty(t, out)
}

func database(t *testing.T) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "ebbe.db")
	s, err := store.Open(file)
	require.NoError(t, err)
	_, err = s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "UTC"}, []store.Account{{Address: "ines@n.example"}}, time.Now())
	require.NoError(t, err)
	require.NoError(t, s.Close())
	return file
}

func TestImportBackupCheck(t *testing.T) {
	db, folder := database(t), t.TempDir()
	mbox, eml := filepath.Join(folder, "old.mbox"), filepath.Join(folder, "one.eml")
	require.NoError(t, os.WriteFile(mbox, []byte("From a\nFrom: a@x.example\nSubject: One\n\n>From here\n\nFrom b\nno header at all\n"), 0o600))
	require.NoError(t, os.WriteFile(eml, []byte("From: b@x.example\nSubject: Two\n\nHello\n"), 0o600))

	out, err := ebbe("--db", db, "import", mbox)
	assert.Equal(t, partCode, codeOf(err), "one is damaged")
	assert.Contains(t, out, "old.mbox, letter 2: no letter header was found; it was kept")
	assert.Contains(t, out, "Read 2 letters: 2 new, 0 known already, 1 damaged or left out.")
	out, err = ebbe("--db", db, "import", mbox)
	require.NoError(t, err)
	assert.Contains(t, out, "Read 2 letters: 0 new, 2 known already")
	out, err = ebbe("--db", db, "import", "--inbox-days", "7", eml)
	require.NoError(t, err)
	assert.Contains(t, out, "Read 1 letter: 1 new")

	copied := filepath.Join(folder, "copy.db")
	_, err = ebbe("--db", db, "backup", copied)
	require.NoError(t, err)
	_, err = ebbe("--db", db, "backup", copied)
	assert.ErrorContains(t, err, "there already")
	out, err = ebbe("--db", copied, "check")
	require.NoError(t, err)
	assert.Equal(t, "Sound.\n", out)

	require.NoError(t, os.WriteFile(copied, []byte("this is no database, but it is long enough to be taken for one"), 0o600))
	_, err = ebbe("--db", copied, "check")
	assert.Error(t, err)
}

// The whole way round: in, out as a file, in again, out again; and everything
// as an archive into an empty Ebbe.
func TestOutAndInAgain(t *testing.T) {
	db, folder := database(t), t.TempDir()
	in := filepath.Join(folder, "in")
	require.NoError(t, os.MkdirAll(in, 0o755))
	for name, text := range map[string]string{
		"a.eml": "From: a@x.example\nDate: Mon, 2 Nov 2026 08:00:00 +0000\nSubject: One\n\n>From here\nFrom there\n", "b.eml": "From: b@x.example\r\nSubject: no date\r\n\r\nHello\r\n\r\n", "c.txt": "no letter",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(in, name), []byte(text), 0o600))
	}
	out, err := ebbe("--db", db, "import", in)
	require.NoError(t, err)
	assert.Contains(t, out, "Read 2 letters: 2 new, 0 known already, 0 damaged or left out.\n1 file is no letter and was passed over.")

	first, second := filepath.Join(folder, "first.mbox"), filepath.Join(folder, "second.mbox")
	out, err = ebbe("--db", db, "export", first)
	require.NoError(t, err)
	assert.Contains(t, out, "Wrote 2 letters")
	empty := database(t)
	_, err = ebbe("--db", empty, "import", first)
	require.NoError(t, err)
	_, err = ebbe("--db", empty, "export", second)
	require.NoError(t, err)
	a, err := os.ReadFile(first)
	require.NoError(t, err)
	b, err := os.ReadFile(second)
	require.NoError(t, err)
	assert.Equal(t, string(a), string(b), "export, import, export again")
	_, err = ebbe("--db", db, "export", first)
	assert.ErrorContains(t, err, "nothing was written")
	_, err = ebbe("--db", db, "export", "--format", "scroll", filepath.Join(folder, "x"))
	assert.ErrorContains(t, err, "no format")

	maildir := filepath.Join(folder, "maildir")
	_, err = ebbe("--db", db, "export", "--format", "maildir", maildir)
	require.NoError(t, err)
	out, err = ebbe("--db", database(t), "import", maildir)
	require.NoError(t, err)
	assert.Contains(t, out, "2 new")
	_, err = ebbe("--db", db, "export", "--format", "eml", "--search", "from:a@x.example", filepath.Join(folder, "eml"))
	require.NoError(t, err)
	files, err := filepath.Glob(filepath.Join(folder, "eml", "*.eml"))
	require.NoError(t, err)
	assert.Equal(t, []string{filepath.Join(folder, "eml", "2026-11-02 1 One.eml")}, files)

	archive, restored := filepath.Join(folder, "all.zip"), filepath.Join(folder, "new", "restored.db")
	_, err = ebbe("--db", db, "archive", archive)
	require.NoError(t, err)
	out, err = ebbe("--db", restored, "restore", archive)
	require.NoError(t, err)
	assert.Contains(t, out, "Restored the Ebbe of Ines")
	out, err = ebbe("--db", restored, "check")
	require.NoError(t, err)
	assert.Equal(t, "Sound.\n", out)
	_, err = ebbe("--db", restored, "restore", archive)
	assert.ErrorContains(t, err, "there already")
	_, err = ebbe("--db", filepath.Join(folder, "no.db"), "restore", first)
	assert.ErrorContains(t, err, "no archive")
}

func TestCommandsSayWhatIsWrong(t *testing.T) {
	db := database(t)
	for _, c := range []struct{ args, say string }{
		{"import", "no such file"}, {"check", "there is no database"},
	} {
		file := db
		if c.args == "check" {
			file = filepath.Join(t.TempDir(), "none.db")
		}
		args := []string{"--db", file, c.args}
		if c.args == "import" {
			args = append(args, "nowhere.mbox")
		}
		_, err := ebbe(args...)
		assert.ErrorContains(t, err, c.say)
	}
	_, err := ebbe("--db", db, "import", "--person", "eve", "x")
	assert.ErrorContains(t, err, "nobody signs in")
}

// Scripts can tell by the code how a command ended, and a slip of the pen makes
// no database.
func TestCodesAndMisspelledDatabases(t *testing.T) {
	db, folder := database(t), t.TempDir()
	none := filepath.Join(folder, "none.db")
	text, eml := filepath.Join(folder, "a.txt"), filepath.Join(folder, "a.eml")
	require.NoError(t, os.WriteFile(text, []byte("no letter"), 0o600))
	require.NoError(t, os.WriteFile(eml, []byte("From: a@x.example\nSubject: One\n\nHello\n"), 0o600))
	for _, c := range []struct {
		args []string
		code int
	}{
		{[]string{"--db", db, "import", eml}, 0},
		{[]string{"--db", db, "import", eml}, 0}, // known already
		{[]string{"--db", db, "import", text}, nothingCode},
		{[]string{"--db", db, "import", filepath.Join(folder, "nowhere")}, failedCode},
		{[]string{"--db", db, "import", "--inbox-days", "-3", eml}, usageCode},
		{[]string{"--db", db, "import", "--no-such-flag", eml}, usageCode},
		{[]string{"--db", db, "export", "--format", "scroll", "-"}, usageCode},
		{[]string{"--db", none, "import", eml}, failedCode},
		{[]string{"--db", none, "export", "-"}, failedCode},
		{[]string{"--db", none, "archive", "-"}, failedCode},
		{[]string{"--db", none, "backup", filepath.Join(folder, "b.db")}, failedCode},
		{[]string{"--db", none, "check"}, failedCode},
		{[]string{"--db", db, "serve", "--smtp", "0.0.0.0:0"}, usageCode},
		{[]string{"--db", db, "check"}, 0},
	} {
		_, err := ebbe(c.args...)
		assert.Equal(t, c.code, codeOf(err), "%s: %v", c.args, err)
	}
	assert.NoFileExists(t, none)
}

func TestStandardInputAndOutput(t *testing.T) {
	db, other := database(t), database(t)
	cmd := root()
	cmd.SetIn(strings.NewReader("From: a@x.example\nSubject: One\n\nHello\n"))
	cmd.SetOut(&bytes.Buffer{})
	cmd.SetArgs([]string{"--db", db, "import", "-"})
	require.NoError(t, cmd.Execute())
	mbox, err := ebbe("--db", db, "export", "-")
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(mbox, "From a@x.example "), mbox)
	cmd = root()
	cmd.SetIn(strings.NewReader(mbox))
	cmd.SetOut(&bytes.Buffer{})
	cmd.SetArgs([]string{"--db", other, "import", "-"})
	require.NoError(t, cmd.Execute())
	again, err := ebbe("--db", other, "export", "-")
	require.NoError(t, err)
	assert.Equal(t, mbox, again)
}

func TestASecondServerIsRefused(t *testing.T) {
	db := database(t)
	l, err := lock(db)
	require.NoError(t, err)
	defer func() { require.NoError(t, l.Unlock()) }()
	_, err = ebbe("--db", db, "serve", "--listen", "127.0.0.1:0", "--smtp", "127.0.0.1:0")
	assert.ErrorContains(t, err, "another Ebbe serves")
}

func TestHelpAndVersion(t *testing.T) {
	out, err := ebbe("export", "--help")
	require.NoError(t, err)
	assert.NotContains(t, out, `\n`)
	out, err = ebbe("--version")
	require.NoError(t, err)
	assert.Equal(t, "ebbe "+version+"\n", out)
}

func TestTheAPIIsDescribed(t *testing.T) {
	out, err := ebbe("api")
	require.NoError(t, err)
	checkedIn, err := os.ReadFile("../../api/openapi.json")
	require.NoError(t, err)
	assert.Equal(t, string(checkedIn), out, "stale: run make types")
}

// A letter is begun with files, and nothing is sent.
func TestWrite(t *testing.T) {
	db, folder := database(t), t.TempDir()
	file := filepath.Join(folder, "plan å.txt")
	require.NoError(t, os.WriteFile(file, []byte("A plan."), 0o600))
	out, err := ebbe("--db", db, "write", "bram@x.example", "--subject", "Plan", "--text", "See it.", "--attach", file)
	require.NoError(t, err)
	assert.Contains(t, out, "with 1 files. Go on with it at /write?draft=")
	_, err = ebbe("--db", db, "write", "--attach", folder)
	assert.ErrorContains(t, err, "is no file")
	_, err = ebbe("--db", db, "write", "nobody")
	assert.Error(t, err)
	s, err := store.Open(db)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Read(t.Context(), store.Own(1), func(tx *store.Tx) error {
		drafts, err := tx.Drafts()
		require.NoError(t, err)
		require.Len(t, drafts, 1)
		assert.Contains(t, string(drafts[0].Value), "See it.")
		files, err := tx.AttachmentsOf(drafts[0].ID)
		require.Len(t, files, 1)
		assert.Equal(t, "plan å.txt", files[0].Name)
		assert.True(t, files[0].Whole())
		return err
	}))
}
