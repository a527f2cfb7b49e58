package main

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/store"
)

// settled gives a flag of serve as it is set by the command line, the environment and a
// file.
func settled(t *testing.T, name, file string, args ...string) (string, error) {
	t.Helper()
	cmd := root()
	got := ""
	for _, c := range cmd.Commands() {
		if c.Name() == "serve" {
			c.RunE = func(c *cobra.Command, _ []string) error {
				got = c.Flags().Lookup(name).Value.String()
				return nil
			}
		}
	}
	all := []string{"serve"}
	if file != "" {
		path := filepath.Join(t.TempDir(), "ebbe.toml")
		require.NoError(t, os.WriteFile(path, []byte(file), 0o600))
		all = append(all, "--config", path)
	}
	cmd.SetArgs(append(all, args...))
	return got, cmd.Execute()
}

// The command line comes first, then the environment, then the file; a slip in the file is
// named.
func TestSettings(t *testing.T) {
	const inFile = "listen = \"1.1.1.1:1\"\nhost = [\"a.example\", \"b.example\"]\n"
	got, err := settled(t, "listen", "")
	require.NoError(t, err)
	assert.Equal(t, "127.0.0.1:8600", got)
	got, err = settled(t, "listen", inFile)
	require.NoError(t, err)
	assert.Equal(t, "1.1.1.1:1", got)
	got, err = settled(t, "host", inFile)
	require.NoError(t, err)
	assert.Equal(t, "[a.example,b.example]", got)
	t.Setenv("EBBE_LISTEN", "2.2.2.2:2")
	got, err = settled(t, "listen", inFile)
	require.NoError(t, err)
	assert.Equal(t, "2.2.2.2:2", got)
	got, err = settled(t, "listen", inFile, "--listen", "3.3.3.3:3")
	require.NoError(t, err)
	assert.Equal(t, "3.3.3.3:3", got)

	_, err = settled(t, "listen", "lisen = \"1.1.1.1:1\"\n")
	assert.ErrorContains(t, err, "there is no such setting")
	assert.Equal(t, usageCode, codeOf(err))
	_, err = settled(t, "listen", "smtp-anywhere = \"perhaps\"\n")
	assert.ErrorContains(t, err, "smtp-anywhere")
	_, err = settled(t, "listen", "listen = \n")
	assert.ErrorContains(t, err, "read the settings")
}

// Copies are kept in number, and what broke off is never taken for one.
func TestBackupsInARow(t *testing.T) {
	db, folder := database(t), t.TempDir()
	s, err := store.Open(db)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	at := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "ebbe-20260101-000000.db.part"), []byte("half"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "notes.txt"), []byte("mine"), 0o600))
	for n := range 4 {
		_, err := backUpOnce(t.Context(), s, folder, at.Add(time.Duration(n)*time.Hour), 2)
		require.NoError(t, err)
	}
	entries, err := os.ReadDir(folder)
	require.NoError(t, err)
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	assert.Equal(t, []string{"ebbe-20260101-000000.db.part", "ebbe-20261124-100000.db", "ebbe-20261124-110000.db", "notes.txt"}, names)
	out, err := ebbe("--db", filepath.Join(folder, "ebbe-20261124-110000.db"), "check")
	require.NoError(t, err)
	assert.Contains(t, out, "Sound.")
}

func TestLogsNameNoAddress(t *testing.T) {
	for text, want := range map[string]string{
		"deliver to ines@norrholm.example: full": "deliver to (an address): full",
		"<a.b+c@x.example>, \"d@y.example\"":     "<(an address)>, \"(an address)\"",
		"nothing at all":                         "nothing at all",
	} {
		assert.Equal(t, want, withoutAddresses(text))
	}
}

// Accounts are listed, and what can't be is said.
func TestAccountsByTheTerminal(t *testing.T) {
	db := database(t)
	out, err := ebbe("--db", db, "account", "list")
	require.NoError(t, err)
	assert.Equal(t, "ines@n.example\tnot connected\n", out)
	_, err = ebbe("--db", db, "account", "pause", "nobody@n.example")
	assert.ErrorContains(t, err, "there is no account nobody@n.example")
	_, err = ebbe("--db", db, "account", "pause", "ines@n.example")
	assert.ErrorContains(t, err, "not connected")
	_, err = ebbe("--db", db, "account", "add", "ines@n.example", "--incoming", "nowhere", "--outgoing", "x:1")
	assert.Equal(t, usageCode, codeOf(err))
	for text, want := range map[string]string{"imap.x.example:993": "tls", "imap.x.example:143": "starttls", "smtp.x.example:587": "starttls", "plain:localhost:8643": "plain"} {
		s, err := serverOf(text)
		require.NoError(t, err)
		assert.Equal(t, want, s.Security, fmt.Sprint(s))
	}
}
