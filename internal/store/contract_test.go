package store

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/change"
)

// sample is a row of a table with something in every column that needs it.
func sample(t *testing.T, tx *Tx, table string, owner int64) (id int64) {
	t.Helper()
	columns, err := all[struct {
		Name, Type string
		Notnull    bool
		DfltValue  *string
		Pk         int
	}](tx.db.Raw("SELECT * FROM pragma_table_info(?)", table))
	require.NoError(t, err)
	var names, values []string
	for _, c := range columns {
		switch {
		case c.Name == "owner":
			names, values = append(names, c.Name), append(values, fmt.Sprint(owner))
		case c.Name == "number":
			names, values = append(names, c.Name), append(values, "1")
		case c.Name == "key" || c.Pk > 0 && c.Type == "INTEGER" || !c.Notnull || c.DfltValue != nil:
		case c.Type == "TEXT":
			names, values = append(names, c.Name), append(values, "'{}'")
		case c.Type == "BLOB":
			names, values = append(names, c.Name), append(values, "x'00'")
		default:
			names, values = append(names, c.Name), append(values, "abs(random() % 1000000)")
		}
	}
	require.NoError(t, tx.exec("PRAGMA defer_foreign_keys = 1"))
	require.NoError(t, tx.exec("INSERT INTO "+table+" ("+strings.Join(names, ", ")+") VALUES ("+strings.Join(values, ", ")+")"))
	id, err = tx.firstID("SELECT max(" + objectKey(table) + ") FROM " + table)
	require.NoError(t, err)
	return id
}

func objectKey(table string) string {
	for _, o := range objects {
		if o.table == table {
			return o.key()
		}
	}
	return "id"
}

// Each field that is one column writes that column, of the object and of no other,
// of the inbox and of no other; undone, it is as it was, version and all.
func TestEachFieldWritesAndUndoesItsColumn(t *testing.T) {
	s, who := open(t)
	other, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, time.Now())
	require.NoError(t, err)
	entry := 0
	tried := 0
	for _, o := range objects {
		for _, f := range o.fields {
			if f.column == "" || o.people {
				continue
			}
			abandon := s.Write(t.Context(), who, func(tx *Tx) error {
				id := sample(t, tx, o.table, who.Inbox)
				// The same row of somebody else's stays as it is.
				theirs := id
				if o.key() == "id" {
					theirs = sample(t, tx, o.table, other.Inbox)
				}
				kept := func(id int64) string {
					v, err := all[string](tx.db.Raw("SELECT quote("+f.column+") FROM "+o.table+" WHERE "+o.key()+" = ?", id))
					require.NoError(t, err)
					require.Len(t, v, 1)
					return v[0]
				}
				step := func() int64 {
					entry++
					e, err := tx.AddEntry(Entry{CommandID: fmt.Sprint(entry), Kind: "k", Actor: "person", Title: "t", At: time.Now(), RecordedAt: time.Now()})
					require.NoError(t, err)
					return e
				}
				was, before := kept(id), kept(theirs)
				now := json.RawMessage(`"1"`)
				if was == "1" {
					now = json.RawMessage("0")
				}
				if f.moment != nil {
					now = json.RawMessage(`{"utc":"2026-11-27T13:00:00Z","wall":"2026-11-27T14:00","zone":"Europe/Oslo","precision":"minute","phrase":"fri 14:00"}`)
				}
				e := step()
				c := change.Change{Object: o.Kind.Of(id), Field: f.Name, Was: change.Null, Now: now}
				if was != "NULL" && f.moment == nil {
					// What was there is read back as the change says it was.
					value, err := all[string](tx.db.Raw("SELECT json_quote("+f.column+") FROM "+o.table+" WHERE "+o.key()+" = ?", id))
					require.NoError(t, err)
					if c.Was = json.RawMessage(value[0]); strings.HasPrefix(was, "'[") {
						c.Was = json.RawMessage(strings.Trim(was, "'"))
					}
				}
				require.NoError(t, tx.Apply(e, time.Now(), change.List{c}), "%s.%s", o.Kind, f.Name)
				assert.NotEqual(t, was, kept(id), "%s.%s", o.Kind, f.Name)
				if theirs != id {
					assert.Equal(t, before, kept(theirs), "%s.%s of somebody else", o.Kind, f.Name)
				}
				recorded, err := tx.Changes(e)
				require.NoError(t, err)
				current, err := tx.Versions(recorded)
				require.NoError(t, err)
				undo, left := change.Inverse(recorded, current)
				require.Empty(t, left)
				if was == "NULL" || f.moment == nil && !strings.HasPrefix(was, "'{") {
					require.NoError(t, tx.Revert(step(), time.Now(), undo))
					assert.Equal(t, was, kept(id), "%s.%s undone", o.Kind, f.Name)
				}
				tried++
				return errAbandoned // the samples are no sound rows
			})
			require.ErrorIs(t, abandon, errAbandoned)
		}
	}
	assert.Greater(t, tried, 50)
}

var errAbandoned = fmt.Errorf("only tried")

// A change of an object of somebody else's writes nothing there.
func TestNobodyWritesWhatIsAnothers(t *testing.T) {
	s, who := open(t)
	other, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, time.Now())
	require.NoError(t, err)
	for _, o := range objects {
		for _, f := range o.fields {
			if f.column == "" || o.people {
				continue
			}
			abandon := s.Write(t.Context(), who, func(tx *Tx) error {
				id := sample(t, tx, o.table, other.Inbox)
				before, err := all[string](tx.db.Raw("SELECT quote("+f.column+") FROM "+o.table+" WHERE "+o.key()+" = ?", id))
				require.NoError(t, err)
				w := setting{tx: tx, object: &o, ids: jsonIDs([]int64{id}), now: `"1"`, at: time.Now()}
				if f.moment != nil {
					w.now = "null"
				}
				require.NoError(t, f.write(w))
				after, err := all[string](tx.db.Raw("SELECT quote("+f.column+") FROM "+o.table+" WHERE "+o.key()+" = ?", id))
				require.NoError(t, err)
				assert.Equal(t, before, after, "%s.%s", o.Kind, f.Name)
				return errAbandoned
			})
			require.ErrorIs(t, abandon, errAbandoned)
		}
	}
}
