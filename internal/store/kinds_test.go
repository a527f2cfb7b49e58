package store

import (
	"database/sql/driver"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
	"gorm.io/gorm/schema"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/when"
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
			_, err = all[string](tx.db.Raw("SELECT " + titleOr(o.title) + " FROM " + o.table + " LIMIT 1"))
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

func titleOr(title string) string {
	if title == "" {
		return "''"
	}
	return title
}

// Every table of the schema has a model with its columns, and it is known whose
// its rows are and what they name; what holds bytes is told apart.
func TestTablesAreKnown(t *testing.T) {
	s, who := open(t)
	require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
		there, err := all[string](tx.db.Raw("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name NOT LIKE 'letters_text%' AND name NOT LIKE 'notes_text%'"))
		require.NoError(t, err)
		var known []string
		for _, k := range tables {
			known = append(known, k.name)
			columns, err := all[struct {
				Name, Type  string
				Notnull, Pk int
			}](tx.db.Raw("SELECT * FROM pragma_table_info(?)", k.name))
			require.NoError(t, err)
			var modelled []string
			for _, f := range k.columns {
				modelled = append(modelled, f.DBName)
			}
			var written []string
			for _, c := range columns {
				written = append(written, c.Name)
			}
			assert.ElementsMatch(t, written, modelled, "the model of %s", k.name)
			for _, c := range columns {
				if f := k.columns[slices.Index(modelled, c.Name)]; k.name != "migrations" {
					assert.Equal(t, c.Type, columnType(f), "%s.%s", k.name, c.Name)
					assert.Equal(t, c.Pk > 0, f.PrimaryKey, "%s.%s in the key", k.name, c.Name)
					assert.Equal(t, c.Notnull == 1 || c.Pk > 0, !mayBeNull(f), "%s.%s may be NULL", k.name, c.Name)
				}
				named := slices.ContainsFunc(k.refs, func(r reference) bool { return r.column == c.Name })
				assert.True(t, named || !strings.HasSuffix(c.Name, "_id") || elsewhere[k.name+"."+c.Name], "%s.%s names a row", k.name, c.Name)
				if k.archived {
					assert.Equal(t, c.Type == "BLOB", k.blob == c.Name, "%s.%s", k.name, c.Name)
				}
				if c.Name == "owner" {
					assert.Equal(t, "owner", k.owner, k.name)
				}
			}
		}
		assert.ElementsMatch(t, there, known)
		return nil
	}))
}

// columnType is the type of the column that holds a field.
func columnType(f *schema.Field) string {
	switch {
	case f.GORMDataType == "integer" || f.DataType == schema.Bool || f.DataType == schema.Int:
		return "INTEGER"
	case f.DataType == schema.Bytes:
		return "BLOB"
	}
	return "TEXT"
}

// mayBeNull tells whether a field can hold that there is nothing.
func mayBeNull(f *schema.Field) bool {
	if f.FieldType.Kind() == reflect.Pointer {
		return true
	}
	valuer, ok := reflect.New(f.FieldType).Interface().(driver.Valuer)
	if !ok {
		return false
	}
	v, err := valuer.Value()
	return err == nil && v == nil
}

// A handle sees, changes and takes away the rows of its inbox only, whatever is
// asked besides; one that is limited to nobody sees none at all.
func TestHandlesAreLimitedToTheirInbox(t *testing.T) {
	s, who := open(t)
	other, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, time.Now())
	require.NoError(t, err)
	spots := func(who Who) (names []string) {
		require.NoError(t, s.Read(t.Context(), who, func(tx *Tx) error {
			names, err = pluck[string](tx.ctx(), gorm.G[spotRow](tx.db).Where("name <> ''").Or("true").Order("id"), "name")
			return err
		}))
		return names
	}
	add := func(who Who, name string) (id int64) {
		require.NoError(t, s.Write(t.Context(), who, func(tx *Tx) error {
			row := spotRow{Owner: 77, Spot: Spot{Name: name}, Alive: true}
			err := gorm.G[spotRow](tx.db).Create(tx.ctx(), &row)
			id = row.ID
			return err
		}))
		return id
	}
	mine, theirs := add(who, "home"), add(other, "office")
	assert.Equal(t, []string{"home"}, spots(who))
	assert.Equal(t, []string{"office"}, spots(other))

	require.NoError(t, s.Write(t.Context(), who, func(tx *Tx) error {
		n, err := gorm.G[spotRow](tx.db).Where("id = ?", theirs).Or("true").Update(tx.ctx(), "name", "cellar")
		require.NoError(t, err)
		assert.Equal(t, 1, n, "its own")
		n, err = gorm.G[spotRow](tx.few()).Where("id = ?", theirs).Or("id = ?", theirs).Delete(tx.ctx())
		require.NoError(t, err)
		assert.Zero(t, n)
		_, err = gorm.G[spotRow](tx.db).Where("id = ?", theirs).Take(tx.ctx())
		assert.ErrorIs(t, err, ErrNotFound)
		n64, err := gorm.G[spotRow](tx.db).Where("id IN ?", []int64{mine, theirs}).Count(tx.ctx(), "*")
		assert.Equal(t, int64(1), n64)
		return err
	}))
	assert.Equal(t, []string{"office"}, spots(other))

	_, err = gorm.G[spotRow](s.reader).Find(t.Context())
	assert.ErrorIs(t, err, errNobodys)
	assert.ErrorIs(t, gorm.G[spotRow](s.writer).Create(t.Context(), &spotRow{}), errNobodys)
	_, err = gorm.G[spotRow](s.writer).Where("true").Delete(t.Context())
	assert.ErrorIs(t, err, errNobodys)
	all, err := gorm.G[spotRow](everybody(s.reader)).Find(t.Context())
	require.NoError(t, err)
	assert.Len(t, all, 2)
}

// What is kept comes back as it was, and what can't be read says so beside the
// rest.
func TestColumnsKeepWhatTheyAreGiven(t *testing.T) {
	s, who := open(t)
	at := time.Date(2026, 10, 25, 1, 30, 0, 123e6, time.UTC)
	m := when.Moment{UTC: at, Precision: when.ToMinute}
	require.NoError(t, s.Write(t.Context(), who, func(tx *Tx) error {
		set := holdRow{FromAt: stamp{at}, Until: maybe(&m), UntilAt: maybeAt(at)}
		none := holdRow{}
		require.NoError(t, gorm.G[holdRow](tx.db).Create(tx.ctx(), &set))
		require.NoError(t, gorm.G[holdRow](tx.db).Create(tx.ctx(), &none))
		rows, err := gorm.G[holdRow](tx.db).Order("id").Find(tx.ctx())
		require.NoError(t, err)
		assert.Equal(t, []holdRow{set, none}, rows)
		nulls, err := all[int](tx.db.Raw("SELECT (until IS NULL) + (until_at IS NULL) + (ended_at IS NULL) FROM holds ORDER BY id"))
		require.NoError(t, err)
		assert.Equal(t, []int{1, 3}, nulls)

		require.NoError(t, tx.exec("UPDATE holds SET until = 'soon' WHERE id = ?", none.ID))
		rows, err = gorm.G[holdRow](tx.db).Order("id").Find(tx.ctx())
		require.NoError(t, err, "one bad row doesn't stop the rest")
		assert.NoError(t, rows[0].Until.Err)
		assert.ErrorContains(t, rows[1].Until.Err, "invalid character")
		return nil
	}))
}

// elsewhere are columns whose ids are not those of one table of the owner's.
var elsewhere = map[string]bool{
	"changes.object_id": true, "field_versions.object_id": true, "stuck.object_id": true, "conversation_redirects.from_id": true,
	"letters.message_id": true, "letters.list_id": true, "outbox.message_id": true, "waiting_links.message_id": true, "journal.command_id": true, "imports.command_id": true,
	"expectations.start_id": true,
}
