package store

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
)

// Every kind and field that the core declares is kept somewhere, and nothing
// else is; every column named is there.
func TestKindsAreKept(t *testing.T) {
	s, who := open(t)
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		for _, d := range change.All() {
			o := objectOf(d.Kind)
			require.NotNil(t, o, d.Kind)
			var kept []change.Named
			columns, err := tx.columns(o.table)
			require.NoError(t, err)
			for _, f := range o.fields {
				kept = append(kept, f.Named)
				if f.column != "" {
					assert.Contains(t, columns, f.column, "%s.%s", d.Kind, f.Name)
				}
			}
			assert.ElementsMatch(t, d.Fields, kept, d.Kind)
			assert.Contains(t, columns, o.key())
			assert.Equal(t, !o.people, slices.Contains(columns, "owner"), o.table)
			_, err = all[string](tx.db.Raw("SELECT " + orNone(o.title) + " FROM " + o.table + " LIMIT 1"))
			assert.NoError(t, err, "the title of %s", d.Kind)
		}
		assert.Len(t, objects, len(change.All()))
		for _, m := range allMoments() {
			columns, err := tx.columns(m.table)
			require.NoError(t, err)
			assert.Contains(t, columns, m.value)
			if m.instant != "" {
				assert.Contains(t, columns, m.instant)
			}
		}
		return nil
	}))
}

func orNone(title string) string {
	if title == "" {
		return "''"
	}
	return title
}

// Every table of the schema is known, with whose its rows are and what they
// name; what holds bytes is told apart.
func TestTablesAreKnown(t *testing.T) {
	s, who := open(t)
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		there, err := all[string](tx.db.Raw("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name NOT LIKE 'letters_text%'"))
		require.NoError(t, err)
		var known []string
		for _, k := range tables {
			known = append(known, k.name)
			columns, err := all[struct{ Name, Type string }](tx.db.Raw("SELECT name, type FROM pragma_table_info(?)", k.name))
			require.NoError(t, err)
			for _, c := range columns {
				named := slices.ContainsFunc(k.refs, func(r reference) bool { return r.column == c.Name })
				assert.True(t, named || !strings.HasSuffix(c.Name, "_id") || elsewhere[k.name+"."+c.Name], "%s.%s names a row", k.name, c.Name)
				assert.Equal(t, k.archived && c.Type == "BLOB", k.blob == c.Name && k.blob != "", "%s.%s", k.name, c.Name)
				if c.Name == "owner" {
					assert.Equal(t, "owner", k.owner, k.name)
				}
			}
		}
		assert.ElementsMatch(t, there, known)
		return nil
	}))
}

// elsewhere are columns whose ids are not those of one table of the owner's.
var elsewhere = map[string]bool{
	"changes.object_id": true, "field_versions.object_id": true, "stuck.object_id": true, "conversation_redirects.from_id": true,
	"letters.message_id": true, "outbox.message_id": true, "waiting_links.message_id": true, "journal.command_id": true, "imports.command_id": true,
	"expectations.start_id": true,
}
