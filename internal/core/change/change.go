// Package change describes what a command did: one field of one object after
// the other, with what stood there before. It knows how to take such changes
// back, and which of them can't be because something changed since.
package change

import (
	"encoding/json"
	"slices"
)

// Object names a thing that a command can change.
type Object struct {
	Kind Kind
	ID   int64
}

// Change is one field of one object, before and after. Values are JSON, so
// that the Journal can hold any of them.
type Change struct {
	Object
	Field    string
	Was, Now json.RawMessage
	// Person is whose value it is, where each person has one of their own; 0
	// where all share it, or where it is that of whoever acts.
	Person int64
}

// Recorded is a change as the Journal keeps it. Before and After are the
// versions of the field on either side; a version names a value that the
// field once had, so undoing gives the field its old version again.
type Recorded struct {
	Change
	Before, After int64
}

// Null is the value of a field that holds nothing.
var Null = json.RawMessage("null")

// Value makes the JSON of a field's value.
func Value(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		// Only values of our own small types come here; one that can't be
		// written is a mistake in the program.
		panic("change: " + err.Error())
	}
	return b
}

// Set describes setting a field; ok is false when it already has that value.
func Set(o Object, field string, was, now any) (c Change, ok bool) {
	c = Change{Object: o, Field: field, Was: Value(was), Now: Value(now)}
	return c, string(c.Was) != string(c.Now)
}

// List collects changes and leaves out those that change nothing.
type List []Change

// Set adds the change of a field, if it is one.
func (l *List) Set(o Object, field string, was, now any) {
	if c, ok := Set(o, field, was, now); ok {
		*l = append(*l, c)
	}
}

// Inverse computes what takes recorded changes back. current gives the
// version each field has today. What was changed since stays, and is
// returned as kept.
func Inverse(recorded []Recorded, current func(Change) int64) (undo []Recorded, kept []Recorded) {
	type field struct {
		Object
		name   string
		person int64
	}
	// A step may change one field twice; taking back the second gives the
	// field the version at which the first is taken back.
	taken := map[field]int64{}
	for i := len(recorded) - 1; i >= 0; i-- {
		r := recorded[i]
		f := field{r.Object, r.Field, r.Person}
		version, ok := taken[f]
		if !ok {
			version = current(r.Change)
		}
		if version != r.After {
			kept = append(kept, r)
			continue
		}
		taken[f] = r.Before
		undo = append(undo, Recorded{
			Change: Change{Object: r.Object, Field: r.Field, Was: r.Now, Now: r.Was, Person: r.Person},
			Before: r.After, After: r.Before,
		})
	}
	return undo, kept
}

// Together leaves out of undo what makes sense only with something that was
// kept (see Named.Together).
func Together(undo, kept []Recorded) []Recorded {
	type bound struct {
		Object
		group string
	}
	of := func(c Change) bound {
		f, _ := FieldOf(c)
		return bound{c.Object, f.Together}
	}
	broken := map[bound]bool{}
	for _, k := range kept {
		if b := of(k.Change); b.group != "" {
			broken[b] = true
		}
	}
	return slices.DeleteFunc(undo, func(u Recorded) bool { return broken[of(u.Change)] })
}
