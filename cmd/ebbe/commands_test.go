package main

import (
	"bytes"
	"os"
	"path/filepath"
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
	require.NoError(t, err)
	assert.Contains(t, out, "damaged: letter 2")
	assert.Contains(t, out, "Read 2 letters: 2 new, 0 known already, 1 damaged.")
	out, err = ebbe("--db", db, "import", mbox)
	require.NoError(t, err)
	assert.Contains(t, out, "Read 2 letters: 0 new, 2 known already")
	out, err = ebbe("--db", db, "import", "--inbox-days", "7", eml)
	require.NoError(t, err)
	assert.Contains(t, out, "Read 1 letters: 1 new")

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
	_, err := ebbe("--db", db, "import", t.TempDir())
	assert.ErrorContains(t, err, "is a folder")
	_, err = ebbe("--db", db, "import", "--person", "eve", "x")
	assert.ErrorContains(t, err, "nobody signs in")
}

func TestTheAPIIsDescribed(t *testing.T) {
	out, err := ebbe("api")
	require.NoError(t, err)
	checkedIn, err := os.ReadFile("../../api/openapi.json")
	require.NoError(t, err)
	assert.Equal(t, string(checkedIn), out, "stale: run make types")
}
