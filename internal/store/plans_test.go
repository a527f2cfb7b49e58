package store

import (
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/counted"
)

// However many conversations there are, the first page of each place is read along an index:
// nothing is sorted, and no row of another place is looked at.
func TestPagesRunAlongAnIndex(t *testing.T) {
	driver, asked := counted.Driver()
	s, err := OpenBy(driver, filepath.Join(t.TempDir(), "ebbe.db"))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	who, err := s.AddPerson(t.Context(), Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"}, []Account{{Address: "ines@norrholm.example", Name: "Ines"}}, time.Now())
	require.NoError(t, err)
	// Oldest first runs two ways at once, which no index does: that is sorted.
	orders := map[decide.Order]Order{decide.ByQueue: QueueNewest, decide.BySince: SinceFirst, decide.ByLast: LastFirst}
	for _, about := range decide.PlaceTable {
		o, ok := orders[about.Order]
		if !ok {
			continue // it has no list
		}
		for name, after := range map[string]*Cursor{"the first page": nil, "one after": {Key: 1}} {
			steps := plan(t, s, who, asked, func(tx *Tx) error { _, _, err := tx.Page(about.Place, o, after, 0, 100); return err })
			for _, step := range steps {
				assert.NotContains(t, step, "TEMP B-TREE", "%s of %s", name, about.Place)
			}
			assert.Contains(t, steps[0], "SEARCH c USING INDEX", "%s of %s", name, about.Place)
		}
	}
	for _, field := range []string{"project", "context", "assignee"} {
		steps := plan(t, s, who, asked, func(tx *Tx) error { _, err := tx.UsedNames(field); return err })
		assert.Contains(t, steps[0], "USING COVERING INDEX followups_"+field)
	}
	// What arrived on a day is read of that day, however many letters there are.
	steps := plan(t, s, who, asked, func(tx *Tx) error { return tx.waitedIn(time.Now(), time.Now(), &review.Passed{}) })
	assert.Contains(t, strings.Join(steps, "\n"), "SEARCH letters USING INDEX letters_row_key (row_key>? AND row_key<?)")
}

// plan is how SQLite goes about the one statement that something asks for.
func plan(t *testing.T, s *Store, who Who, asked *counted.Counter, do func(*Tx) error) (steps []string) {
	t.Helper()
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		asked.Reset()
		if err := do(tx); err != nil {
			return err
		}
		statement, _ := asked.Most()
		found, err := all[struct{ Detail string }](tx.db.Raw("EXPLAIN QUERY PLAN "+statement, slices.Repeat([]any{1}, strings.Count(statement, "?"))...))
		for _, f := range found {
			steps = append(steps, f.Detail)
		}
		return err
	}))
	require.NotEmpty(t, steps)
	return steps
}
