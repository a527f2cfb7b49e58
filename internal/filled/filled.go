// Package filled keeps databases as earlier versions of Ebbe have left them,
// each with something in every table, for tests to open.
package filled

import (
	"embed"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/require"
)

// Folder is where the databases are kept, seen from the root of the module.
const Folder = "internal/filled/databases"

// Suffix ends the names of the packed databases.
const Suffix = ".db.zst"

//go:embed databases
var databases embed.FS

// Names lists the databases, the oldest first.
func Names(t testing.TB) []string {
	t.Helper()
	entries, err := databases.ReadDir("databases")
	require.NoError(t, err)
	var out []string
	for _, e := range entries {
		out = append(out, e.Name())
	}
	slices.Sort(out)
	require.NotEmpty(t, out)
	return out
}

// Newest unpacks the latest of the databases, as Unpack does.
func Newest(t testing.TB) string {
	t.Helper()
	names := Names(t)
	return Unpack(t, names[len(names)-1])
}

// Unpack writes a database into a folder of the test, and gives its path.
func Unpack(t testing.TB, name string) string {
	t.Helper()
	packed, err := databases.ReadFile("databases/" + name)
	require.NoError(t, err)
	unpacker, err := zstd.NewReader(nil)
	require.NoError(t, err)
	defer unpacker.Close()
	raw, err := unpacker.DecodeAll(packed, nil)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "ebbe.db")
	require.NoError(t, os.WriteFile(path, raw, 0o600))
	return path
}
