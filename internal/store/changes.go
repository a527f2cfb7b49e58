package store

import (
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
)

type fieldKey struct {
	object change.Object
	field  string
	person int64
}

func keyOf(c change.Change) fieldKey { return fieldKey{c.Object, c.Field, c.Person} }

// Changes gives what a step changed, in order.
//
// By hand: ten thousand at once, in a third of the time that a model takes.
func (tx *Tx) Changes(journalID int64) ([]change.Recorded, error) {
	rows, err := tx.query(`SELECT object, object_id, field, was, now, person, version_before, version_after FROM changes
		WHERE journal_id = ? AND +owner = ? ORDER BY id`, journalID, tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []change.Recorded
	for rows.Next() {
		var r change.Recorded
		if err := rows.Scan(&r.Kind, &r.ID, &r.Field, (*[]byte)(&r.Was), (*[]byte)(&r.Now), &r.Person, &r.Before, &r.After); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// Versions gives the version that each changed field has today.
func (tx *Tx) Versions(recorded []change.Recorded) (func(change.Change) int64, error) {
	changes := make([]change.Change, len(recorded))
	for i, r := range recorded {
		changes[i] = r.Change
	}
	versions, err := tx.versions(changes)
	return func(c change.Change) int64 { return versions[keyOf(c)] }, err
}

// By hand: ten thousand at once.
func (tx *Tx) versions(changes []change.Change) (map[fieldKey]int64, error) {
	ids := map[change.Kind][]int64{}
	for _, c := range changes {
		ids[c.Kind] = append(ids[c.Kind], c.ID)
	}
	out := make(map[fieldKey]int64, len(changes))
	for kind, list := range ids {
		rows, err := tx.db.Raw(`SELECT object_id, field, person, version FROM field_versions
			WHERE object = ? AND object_id IN (SELECT value FROM json_each(?)) AND owner = ?`, string(kind), jsonIDs(list), tx.who.Inbox).Rows()
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			k := fieldKey{object: change.Object{Kind: kind}}
			var version int64
			if err := rows.Scan(&k.object.ID, &k.field, &k.person, &version); err != nil {
				return nil, err
			}
			out[k] = version
		}
		if err := rows.Close(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func jsonIDs(ids []int64) string {
	b, _ := json.Marshal(ids) // a list of numbers can always be written
	return string(b)
}

// Apply carries out changes that happened at the time at, and writes them
// down under the Journal step.
func (tx *Tx) Apply(journalID int64, at time.Time, changes change.List) error {
	if len(changes) == 0 {
		return nil
	}
	for i, c := range changes {
		if f, _ := change.FieldOf(c); c.Person == 0 && f.Personal {
			changes[i].Person = tx.who.Person
		}
	}
	versions, err := tx.versions(changes)
	if err != nil {
		return err
	}
	recorded := make([]change.Recorded, len(changes))
	for i, c := range changes {
		recorded[i] = change.Recorded{Change: c, Before: versions[keyOf(c)], After: newVersion}
	}
	return tx.record(journalID, at, recorded, false)
}

// Revert carries out changes that take a step back: fields get their old
// versions again, and a conversation that returns to the inbox stands where
// it stood.
func (tx *Tx) Revert(journalID int64, at time.Time, undo []change.Recorded) error {
	return tx.record(journalID, at, undo, true)
}

// newVersion asks record to make a version: the id of the change itself.
const newVersion = -1

// By hand: the id of a change is its version, so it is known before it is written.
func (tx *Tx) record(journalID int64, at time.Time, recorded []change.Recorded, undo bool) error {
	last, err := tx.lastID("changes")
	if err != nil {
		return err
	}
	type sort struct {
		kind   change.Kind
		person int64
	}
	type rows struct{ changes, versions *bulk }
	var order []rows
	sorts := map[sort]rows{}
	made := map[fieldKey]int64{} // a step may change one field twice
	for i, r := range recorded {
		id := last + int64(i) + 1
		if r.After == newVersion {
			k := keyOf(r.Change)
			if v, ok := made[k]; ok {
				r.Before = v
			}
			r.After, made[k] = id, id
		}
		of, ok := sorts[sort{r.Kind, r.Person}]
		if !ok {
			of = rows{tx.bulk(tx.who.Inbox, journalID, string(r.Kind), r.Person), tx.bulk(string(r.Kind), r.Person, tx.who.Inbox)}
			sorts[sort{r.Kind, r.Person}] = of
			order = append(order, of)
		}
		of.changes.add(id, r.ID, r.Field, string(r.Was), string(r.Now), r.Before, r.After)
		of.versions.add(r.ID, r.Field, r.After)
	}
	for _, of := range order {
		if err := of.changes.flush("INSERT INTO changes (owner, journal_id, object, person, id, object_id, field, was, now, version_before, version_after) VALUES ", ""); err != nil {
			return err
		}
		if err := of.versions.flush("INSERT INTO field_versions (object, person, owner, object_id, field, version) VALUES ",
			" ON CONFLICT DO UPDATE SET version = excluded.version"); err != nil {
			return err
		}
	}
	return tx.carryOut(journalID, at, recorded, undo)
}

// fewValues is up to how many values of one field are written one by one.
const fewValues = 4

// carryOut writes the values into their tables: all objects that get the same value of
// the same field at once, and all values of a field at once where they are many.
func (tx *Tx) carryOut(journalID int64, at time.Time, recorded []change.Recorded, undo bool) error {
	tx.ending.touch(tx.who.Inbox, millis(at))
	var letters []int64
	for _, r := range recorded {
		if r.Kind == kinds.Letter.Kind {
			letters = append(letters, r.ID)
		}
	}
	if len(letters) > 0 {
		if err := tx.touchLetters(jsonIDs(letters)); err != nil {
			return err
		}
	}
	type field struct {
		kind   change.Kind
		name   string
		person int64
	}
	type group struct {
		field
		now string
	}
	var order []group
	members, values := map[group][]change.Recorded{}, map[field]int{}
	for _, r := range recorded {
		g := group{field{r.Kind, r.Field, r.Person}, string(r.Now)}
		if _, ok := members[g]; !ok {
			order = append(order, g)
			values[g.field]++
		}
		members[g] = append(members[g], r)
	}
	for _, g := range order {
		object, b, err := writerOf(g.kind, g.name)
		if err != nil {
			return err
		}
		w := setting{tx: tx, object: object, journal: journalID, at: at, undo: undo, now: g.now, person: g.person, members: members[g]}
		switch n := values[g.field]; {
		case n > fewValues && b.each != nil:
			values[g.field] = -1 // done
			err = b.each(w, lastValues(recorded, g.kind, g.name, g.person))
		case n >= 0:
			ids := make([]int64, len(w.members))
			for i, r := range w.members {
				ids[i] = r.ID
			}
			w.ids = jsonIDs(ids)
			err = b.write(w)
		}
		if err != nil {
			return fmt.Errorf("set %s of %s: %w", g.name, g.kind, err)
		}
	}
	return nil
}

// objectValue is the value that a field of an object ends with.
type objectValue struct {
	id  int64
	now json.RawMessage
}

// lastValues are the values that a field of objects ends with.
func lastValues(recorded []change.Recorded, kind change.Kind, field string, person int64) (out []objectValue) {
	at := make(map[int64]int, len(recorded))
	for _, r := range recorded {
		if r.Kind != kind || r.Field != field || r.Person != person {
			continue
		}
		if i, ok := at[r.ID]; ok {
			out[i].now = r.Now
			continue
		}
		at[r.ID] = len(out)
		out = append(out, objectValue{r.ID, r.Now})
	}
	return out
}

// bulk collects rows and inserts many with one statement. The first columns may be
// the same in all of them; they are bound once.
type bulk struct {
	tx   *Tx
	same []any
	rows [][]any
}

func (tx *Tx) bulk(same ...any) *bulk { return &bulk{tx: tx, same: same} }

func (b *bulk) add(values ...any) { b.rows = append(b.rows, values) }

// bulkSizes are few, so that few statements are kept prepared; what one decision
// writes is one of them.
var bulkSizes = [...]int{500, 25, 4, 3, 2, 1}

// flush inserts them.
//
// By hand: ten thousand at once, in a third of the time that models take.
func (b *bulk) flush(head, tail string) error {
	for _, size := range bulkSizes {
		if len(b.rows) < size {
			continue
		}
		width := len(b.rows[0])
		statement := head + places(len(b.same), width, size) + tail
		for len(b.rows) >= size {
			args := append(make([]any, 0, len(b.same)+size*width), b.same...)
			for _, r := range b.rows[:size] {
				args = append(args, r...)
			}
			if err := b.tx.exec(statement, args...); err != nil {
				return err
			}
			b.rows = b.rows[size:]
		}
	}
	return nil
}

// places are those of the values of some rows, of which the first columns are the
// same: (?1,?2,?3),(?1,?4,?5).
func places(same, width, rows int) string {
	var b []byte
	for row := range rows {
		if row > 0 {
			b = append(b, ',')
		}
		b = append(b, '(')
		for i := range same + width {
			n := i + 1
			if i >= same {
				n += row * width
			}
			if i > 0 {
				b = append(b, ',')
			}
			b = strconv.AppendInt(append(b, '?'), int64(n), 10)
		}
		b = append(b, ')')
	}
	return string(b)
}

// Version is the version of one shared field of an object today; 0 if no command
// ever changed it.
func (tx *Tx) Version(f change.Named, id int64) (int64, error) {
	v, err := orNone(gorm.G[fieldVersionRow](tx.few()).Where("object = ? AND object_id = ? AND field = ? AND person = 0", f.Kind, id, f.Name).Take(tx.ctx()))
	return v.Version, err
}
