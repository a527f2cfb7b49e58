package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An import is kept as far as it has come, with what could not be taken in, as it was met; the
// latest is listed first.
func TestImportsAreKept(t *testing.T) {
	s, who := open(t)
	var first int64
	writes(t, s, who, func(tx *Tx) {
		var err error
		first, err = tx.AddImport(Import{Command: "one", Name: "old.mbox", Path: "/tmp/old.mbox", State: "running", MadeAt: morning, Size: 1000, InboxSince: morning.AddDate(0, -1, 0)})
		require.NoError(t, err)
		second, err := tx.AddImport(Import{Command: "two", Name: "new.mbox", State: "filling", MadeAt: morning.Add(time.Minute), Spooled: true})
		require.NoError(t, err)
		im, err := tx.Import(first)
		require.NoError(t, err)
		im.State, im.Done, im.EndedAt, im.Trouble = "stopped", 400, morning.Add(time.Hour), "the disk is full"
		im.Account.Items, im.Account.Added, im.Account.Known = 12, 10, 1
		require.NoError(t, tx.SaveImport(im))
		again, err := tx.Import(first)
		require.NoError(t, err)
		assert.Equal(t, im, again)
		all, err := tx.Imports(9)
		require.NoError(t, err)
		require.Len(t, all, 2)
		assert.Equal(t, []int64{second, first}, []int64{all[0].ID, all[1].ID})
		assert.True(t, all[0].Spooled)

		for n := range 5 {
			require.NoError(t, tx.AddImportTrouble(first, ImportTrouble{Name: fmt.Sprint("letter ", n), What: "it has no end"}))
		}
		troubles, err := tx.ImportTroubles(first, 3)
		require.NoError(t, err)
		require.Len(t, troubles, 3)
		assert.Equal(t, []string{"letter 0", "it has no end"}, []string{troubles[0].Name, troubles[0].What})
		troubles, err = tx.ImportTroubles(second, 3)
		require.NoError(t, err)
		assert.Empty(t, troubles)
	})
	writes(t, s, another(t, s), func(tx *Tx) {
		_, err := tx.Import(first)
		assert.ErrorIs(t, err, ErrNotFound)
		all, err := tx.Imports(9)
		require.NoError(t, err)
		assert.Empty(t, all)
	})
}
