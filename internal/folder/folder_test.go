package folder_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/folder"
)

func TestPutOverwritesNothing(t *testing.T) {
	dir := t.TempDir()
	f := folder.Folder(dir)
	put := func(at, content string) string {
		t.Helper()
		got, err := f.Put(at, []byte(content))
		require.NoError(t, err)
		return got
	}
	assert.Equal(t, "ines/2026/bill.pdf", put("ines/2026/bill.pdf", "one"))
	assert.Equal(t, "ines/2026/bill (2).pdf", put("ines/2026/bill.pdf", "two"))
	assert.Equal(t, "ines/2026/bill.pdf", put("ines/2026/bill.pdf", "one"), "the same is there already")
	assert.Equal(t, "ines/2026/bill (2).pdf", put("ines/2026/bill.pdf", "two"))
	assert.Equal(t, "empty", put("empty", ""))
	list, err := os.ReadDir(filepath.Join(dir, "ines/2026"))
	require.NoError(t, err)
	assert.Len(t, list, 2, "nothing that was begun is left")
	there, err := os.ReadFile(filepath.Join(dir, "ines/2026/bill.pdf"))
	require.NoError(t, err)
	assert.Equal(t, "one", string(there))
}

// What was broken off is taken up, and is never taken for a file that is whole.
func TestPutAfterACrash(t *testing.T) {
	dir := t.TempDir()
	got, err := folder.Folder(dir).Put("a.txt", []byte("whole"))
	require.NoError(t, err)
	require.Equal(t, "a.txt", got)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "b.txt"), []byte("wh"), 0o600))
	got, err = folder.Folder(dir).Put("b.txt", []byte("whole"))
	require.NoError(t, err)
	assert.Equal(t, "b (2).txt", got)
}

func TestNothingIsPutBeyondTheFolder(t *testing.T) {
	dir, other := t.TempDir(), t.TempDir()
	require.NoError(t, os.Symlink(other, filepath.Join(dir, "away")))
	for _, at := range []string{"../x", "away/x", "/etc/x"} {
		_, err := folder.Folder(dir).Put(at, []byte("x"))
		assert.Error(t, err, at)
	}
	list, err := os.ReadDir(other)
	require.NoError(t, err)
	assert.Empty(t, list)
	_, err = folder.Folder(filepath.Join(dir, "gone")).Put("x", nil)
	assert.Error(t, err)
}
