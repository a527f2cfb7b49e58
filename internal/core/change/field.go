package change

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Kind is a sort of object that commands change.
type Kind string

// Of names an object of the kind.
func (k Kind) Of(id int64) Object { return Object{Kind: k, ID: id} }

// Named is a field of all objects of a kind.
type Named struct {
	Kind Kind
	Name string
	// Personal tells that each person has a value of their own.
	Personal bool
	// Together names the fields of an object that make sense only with each other,
	// for taking them back; empty for one that stands alone.
	Together string
	// Family tells that it stands for many fields, whose names begin with its
	// own: one for each label.
	Family bool
}

// In tells whether a change is one of the field.
func (n Named) In(c Change) bool {
	return c.Kind == n.Kind && (c.Field == n.Name || n.Family && strings.HasPrefix(c.Field, n.Name))
}

// Of is the field of one object.
func (n Named) Of(id int64) Change { return Change{Object: n.Kind.Of(id), Field: n.Name} }

// Field is a field whose values are of one type. It is declared once, by
// Declare, so that a slip in its name or in a value does not compile.
type Field[T any] struct{ Named }

// Set adds the change of the field of an object to a list, if it is one.
func (f Field[T]) Set(l *List, id int64, was, now T) { f.setFor(l, id, 0, was, now) }

// SetFor is Set for a field of which each person has their own.
func (f Field[T]) SetFor(l *List, id, person int64, was, now T) { f.setFor(l, id, person, was, now) }

func (f Field[T]) setFor(l *List, id, person int64, was, now T) {
	c := Change{Object: f.Kind.Of(id), Field: f.Name, Was: Value(was), Now: Value(now), Person: person}
	if string(c.Was) != string(c.Now) {
		*l = append(*l, c)
	}
}

// Was and Now are the values of a change of the field; ok is false where it is
// of another field or can't be read.
func (f Field[T]) Was(c Change) (v T, ok bool) { return f.value(c, c.Was) }

// Now is the value after a change of the field; see Was.
func (f Field[T]) Now(c Change) (v T, ok bool) { return f.value(c, c.Now) }

func (f Field[T]) value(c Change, text json.RawMessage) (v T, ok bool) {
	return v, f.In(c) && json.Unmarshal(text, &v) == nil
}

// Family is one field for each of many names.
type Family[T any] struct{ Named }

// Field is the one of that name.
func (f Family[T]) Field(name string) Field[T] {
	return Field[T]{Named{Kind: f.Kind, Name: f.Name + name, Personal: f.Personal}}
}

// NameIn is the name of the field that a change is of, within the family.
func (f Family[T]) NameIn(c Change) (name string, ok bool) {
	if c.Kind != f.Kind {
		return "", false
	}
	return strings.CutPrefix(c.Field, f.Name)
}

func (n *Named) declare(d Named) { *n = d }

// Declared is a kind with its fields.
type Declared struct {
	Kind   Kind
	Fields []Named
}

type field struct {
	kind Kind
	name string
}

var (
	declared []Declared
	byName   = map[field]Named{}
	families []Named
)

// All are the kinds that were declared, in the order of their names.
func All() []Declared {
	out := slices.Clone(declared)
	slices.SortFunc(out, func(a, b Declared) int { return strings.Compare(string(a.Kind), string(b.Kind)) })
	return out
}

// FieldOf is the field that a change is of, as it was declared.
func FieldOf(c Change) (Named, bool) {
	if f, ok := byName[field{c.Kind, c.Field}]; ok {
		return f, true
	}
	for _, f := range families {
		if f.In(c) {
			return f, true
		}
	}
	return Named{}, false
}

// Declare makes the fields of a kind: a struct that embeds Kind and has a Field or
// a Family for each. A field is called as in Go, with a small first letter, or
// as the tag “field” says; “,personal” after it says that each person has
// their own; the tag “together” is that of Named. It is for variables of packages, and panics when used wrongly.
func Declare[F any](kind Kind) F {
	var fields F
	v := reflect.ValueOf(&fields).Elem()
	d := Declared{Kind: kind}
	for i := range v.NumField() {
		if k, ok := v.Field(i).Addr().Interface().(*Kind); ok {
			*k = kind
			continue
		}
		f, ok := v.Field(i).Addr().Interface().(interface{ declare(Named) })
		if !ok {
			panic(fmt.Sprintf("change: %s of %s is no field", v.Type().Field(i).Name, kind))
		}
		n := Named{Kind: kind, Name: v.Type().Field(i).Name}
		n.Name = strings.ToLower(n.Name[:1]) + n.Name[1:]
		name, rest, _ := strings.Cut(v.Type().Field(i).Tag.Get("field"), ",")
		if name != "" {
			n.Name = name
		}
		n.Personal, n.Family = rest == "personal", strings.HasSuffix(n.Name, ":")
		n.Together = v.Type().Field(i).Tag.Get("together")
		f.declare(n)
		if byName[field{kind, n.Name}] = n; n.Family {
			families = append(families, n)
		}
		d.Fields = append(d.Fields, n)
	}
	declared = append(declared, d)
	return fields
}
