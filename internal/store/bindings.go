// By hand: tables and columns come from the kinds that the core declares, and a value goes
// into thousands of rows at once, taken apart from its JSON by SQLite.

package store

import (
	"cmp"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/when"
)

// object says how the objects of a kind are kept.
type object struct {
	change.Kind
	table string
	// id is the column that names them, “id” if empty, and title an expression of
	// what one is called; empty for what has no name.
	id, title string
	// people tells that they are people, whose rows have no owner.
	people bool
	fields []binding
	// moments are kept moments that are no field of their own.
	moments []momentColumn
}

func (o *object) key() string { return cmp.Or(o.id, "id") }

// mine is the condition that a row is of the inbox, or the person's. “+owner”
// keeps SQLite from walking all rows of the inbox where a few are named.
func (o *object) mine(who Who) (where string, args []any) {
	if o.people {
		return o.table + ".id IN (?, ?)", []any{who.Person, who.Inbox}
	}
	return "+" + o.table + ".owner = ?", []any{who.Inbox}
}

// binding is a field and where it is kept.
type binding struct {
	change.Named
	write writer
	// each writes a value of each of many objects; nil where they are written value by
	// value.
	each func(w setting, values []objectValue) error
	// column is where it stands, where that is one column of the object's table.
	column string
	moment *momentColumn
}

// momentColumn is a column that holds a when.Moment.
type momentColumn struct {
	// table and id are those of the object where empty.
	table, id string
	value     string
	path      string // where in the value it stands; “$” where empty
	instant   string // the column of its instant, to sort by; empty for none
	fixed     bool   // it does not move with the person's zone
}

// scalar is a value that is kept as it is: a number, a text, a yes or no.
type scalar interface {
	~int | ~int64 | ~bool | ~string | *int64
}

// column is a field that is one column; its JSON value is taken apart by
// SQLite, booleans as 0 and 1.
func column[T scalar](f change.Field[T], name string) binding {
	return binding{
		Named: f.Named, column: name,
		write: func(w setting) error { return w.set(name + " = json_extract(?1, '$')") },
		each: func(w setting, values []objectValue) error {
			return w.setEach(name+" = json_extract(v.value, '$[1]')", values, nil)
		},
	}
}

// asJSON keeps a value as JSON, and NULL for null.
func asJSON[T any](f change.Field[T], name string) binding {
	return binding{Named: f.Named, column: name, write: func(w setting) error { return w.set(name + " = nullif(?1, 'null')") }}
}

// moment keeps a when.Moment, and beside it the instant to sort by, where there
// is a column for that. It moves with the person's zone.
func moment[T when.Moment | *when.Moment](f change.Field[T], value, instant string) binding {
	write := func(w setting) error {
		if instant == "" {
			return w.set(value + " = nullif(?1, 'null')")
		}
		var m *when.Moment
		if err := json.Unmarshal([]byte(w.now), &m); err != nil {
			return err
		}
		return w.set(value+" = nullif(?1, 'null'), "+instant+" = ?2", instantOf(m))
	}
	return binding{Named: f.Named, column: value, write: write, moment: &momentColumn{value: value, instant: instant}}
}

// fixedMoment is a moment that stays where it is when the person goes elsewhere.
func fixedMoment[T when.Moment | *when.Moment](f change.Field[T], value, instant string) binding {
	b := moment(f, value, instant)
	b.moment.fixed = true
	return b
}

// special is a field that more follows from than one column.
func special[T any](f change.Field[T], write writer) binding {
	return binding{Named: f.Named, write: write}
}

// orEach has many values written at once.
func (b binding) orEach(each func(setting, []objectValue) error) binding {
	b.each = each
	return b
}

// setting is one value going into one field of some objects.
type setting struct {
	tx      *Tx
	object  *object
	journal int64
	at      time.Time
	undo    bool
	ids     string // JSON list
	now     string // JSON value
	person  int64  // whose value it is, where each person has one
	members []change.Recorded
}

type writer func(setting) error

// set sets columns of the objects; ?1 is the JSON value, ?2 and on are further
// values.
func (w setting) set(columns string, more ...any) error {
	if w.object.people {
		w.tx.people = nil
	}
	mine, whose := w.object.mine(w.tx.who)
	args := append(append([]any{w.now}, more...), append(whose, w.ids)...)
	return w.tx.exec("UPDATE "+w.object.table+" SET "+columns+" WHERE "+mine+" AND "+w.object.key()+" IN (SELECT value FROM json_each(?))", args...)
}

// setEach sets columns of objects to a value of each: v.value is a JSON list of its id,
// its value, and what else is kept beside that, where anything is.
func (w setting) setEach(columns string, values []objectValue, beside func(objectValue) (int, error)) error {
	if w.object.people {
		w.tx.people = nil
	}
	list := []byte{'['}
	for i, v := range values {
		if i > 0 {
			list = append(list, ',')
		}
		list = append(strconv.AppendInt(append(list, '['), v.id, 10), ',')
		list = append(list, v.now...)
		if beside != nil {
			n, err := beside(v)
			if err != nil {
				return err
			}
			list = strconv.AppendInt(append(list, ','), int64(n), 10)
		}
		list = append(list, ']')
	}
	mine, whose := w.object.mine(w.tx.who)
	return w.tx.exec("UPDATE "+w.object.table+" SET "+columns+" FROM json_each(?) v WHERE "+w.object.table+"."+w.object.key()+" = json_extract(v.value, '$[0]') AND "+mine,
		append([]any{string(append(list, ']'))}, whose...)...)
}

// allMoments are all columns that hold moments, those of objects first.
func allMoments() (out []momentColumn) {
	for i := range objects {
		o := &objects[i]
		add := func(m momentColumn) {
			m.table, m.id, m.path = cmp.Or(m.table, o.table), cmp.Or(m.id, o.key()), cmp.Or(m.path, "$")
			out = append(out, m)
		}
		for _, f := range o.fields {
			if f.moment != nil {
				add(*f.moment)
			}
		}
		for _, m := range o.moments {
			add(m)
		}
	}
	return out
}

// writerOf is what writes a field, and how its objects are kept.
func writerOf(kind change.Kind, field string) (*object, binding, error) {
	if o := objectOf(kind); o != nil {
		for _, f := range o.fields {
			if f.Named.In(change.Change{Object: kind.Of(0), Field: field}) {
				return o, f, nil
			}
		}
	}
	return nil, binding{}, fmt.Errorf("no field %s of %s", field, kind)
}

// rezone computes the instants of a column of moments anew.
func (tx *Tx) rezone(c when.Calendar, m momentColumn) error {
	rows, err := all[struct {
		ID     int64
		Moment string
	}](tx.db.Raw("SELECT "+m.id+" AS id, json_extract("+m.value+", ?) AS moment FROM "+m.table+" WHERE owner = ? AND json_valid("+m.value+")", m.path, tx.who.Inbox))
	if err != nil {
		return err
	}
	for _, r := range rows {
		var was when.Moment
		if err := json.Unmarshal([]byte(r.Moment), &was); err != nil {
			return err
		}
		now := was.In(c)
		if now.UTC.Equal(was.UTC) {
			continue
		}
		text, err := json.Marshal(now)
		if err != nil {
			return err
		}
		set, args := m.value+" = json_set("+m.value+", '"+m.path+"', json(?))", []any{string(text)}
		if m.path == "$" {
			set = m.value + " = ?"
		}
		if m.instant != "" {
			set += ", " + m.instant + " = CASE WHEN " + m.instant + " IS NULL THEN NULL ELSE ? END"
			args = append(args, millis(now.UTC))
		}
		if err := tx.exec("UPDATE "+m.table+" SET "+set+" WHERE owner = ? AND "+m.id+" = ?", append(args, tx.who.Inbox, r.ID)...); err != nil {
			return err
		}
	}
	return nil
}
