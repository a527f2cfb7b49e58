package vault_test

import (
	"encoding/base64"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/vault"
)

// A password comes back as it was, survives a restart, and stands nowhere in the open.
func TestPasswordsAreSealed(t *testing.T) {
	database := filepath.Join(t.TempDir(), "ebbe.db")
	v, err := vault.Open(database, "")
	require.NoError(t, err)
	_, err = v.Get(7)
	require.ErrorIs(t, err, vault.ErrNone)
	require.NoError(t, v.Set(7, "sesame, äöü"))
	require.NoError(t, v.Set(8, "other"))

	again, err := vault.Open(database, "")
	require.NoError(t, err)
	got, err := again.Get(7)
	require.NoError(t, err)
	assert.Equal(t, "sesame, äöü", got)
	require.NoError(t, again.Set(7, ""))
	_, err = again.Get(7)
	require.ErrorIs(t, err, vault.ErrNone)

	for _, end := range []string{".key", ".secrets"} {
		about, err := os.Stat(database + end)
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), about.Mode().Perm(), end)
		text, err := os.ReadFile(database + end)
		require.NoError(t, err)
		assert.False(t, strings.Contains(string(text), "other"), end)
	}
}

// With another key nothing can be read: the password is asked for again.
func TestAnotherKey(t *testing.T) {
	database := filepath.Join(t.TempDir(), "ebbe.db")
	one, two := base64.StdEncoding.EncodeToString(make([]byte, 32)), base64.StdEncoding.EncodeToString([]byte(strings.Repeat("x", 32)))
	v, err := vault.Open(database, one)
	require.NoError(t, err)
	require.NoError(t, v.Set(1, "secret"))
	v, err = vault.Open(database, two)
	require.NoError(t, err)
	_, err = v.Get(1)
	require.ErrorIs(t, err, vault.ErrNone)
	assert.NoFileExists(t, database+".key", "one was given")
}

// What can't be a key, or is one that others can read, is refused.
func TestBadKeys(t *testing.T) {
	database := filepath.Join(t.TempDir(), "ebbe.db")
	for _, key := range []string{"short", "!!", base64.StdEncoding.EncodeToString([]byte("31 bytes are not enough for it."))} {
		_, err := vault.Open(database, key)
		assert.Error(t, err, key)
	}
	_, err := vault.Open(database, "")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(database+".key", 0o640))
	_, err = vault.Open(database, "")
	assert.ErrorContains(t, err, "can be read by others")
}
