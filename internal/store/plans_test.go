package store

import (
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
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
	orders := map[decide.Order][]Order{decide.ByQueue: {QueueNewest, QueueOldest}, decide.BySince: {SinceFirst}, decide.ByLast: {LastFirst}}
	for _, about := range decide.PlaceTable {
		for _, o := range orders[about.Order] {
			for name, do := range map[string]func(tx *Tx) error{
				"a page":    func(tx *Tx) error { _, _, err := tx.Page(about.Place, o, nil, 0, 100); return err },
				"one after": func(tx *Tx) error { _, _, err := tx.Page(about.Place, o, &Cursor{Key: 1}, 0, 100); return err },
			} {
				for _, step := range plan(t, s, who, asked, do) {
					assert.NotContains(t, step, "TEMP B-TREE", "%s of %s", name, about.Place)
					if strings.HasPrefix(step, "SEARCH c ") || strings.HasPrefix(step, "SCAN c ") {
						assert.Contains(t, step, "SEARCH c USING INDEX", "%s of %s", name, about.Place)
					}
				}
			}
		}
	}
	for _, field := range []string{"project", "context", "assignee"} {
		steps := plan(t, s, who, asked, func(tx *Tx) error { _, err := tx.UsedNames(field); return err })
		assert.Contains(t, steps[0], "USING COVERING INDEX followups_"+field)
	}
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
		found, err := all[struct{ Detail string }](tx.db.Raw("EXPLAIN QUERY PLAN " + strings.ReplaceAll(statement, "?", "1")))
		for _, f := range found {
			steps = append(steps, f.Detail)
		}
		return err
	}))
	require.NotEmpty(t, steps)
	return steps
}
