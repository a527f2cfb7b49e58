package find

import (
	"slices"

	"ebbe.example/ebbe/internal/core/sorting"
)

// Filter is something by which any list is narrowed, with the key that does so.
type Filter struct {
	Key  string
	Says string
	Term Term
}

// Filters are those that are the same for everybody; labels and accounts come to them.
var Filters = []Filter{
	{"u", "unread", Term{Field: Mark, Value: "unread"}},
	{"s", "starred", Term{Field: Mark, Value: "starred"}},
	{"f", "flagged", Term{Field: Mark, Value: "flagged"}},
	{"a", "asks something", Term{Field: Mark, Value: "asks"}},
	{"t", "with something attached", Term{Field: With, Value: "file"}},
	{"p", "from people", Term{Field: Kind, Value: string(sorting.Person)}},
}

// Has tells whether a query finds only what a term takes: it is one of the parts that must all hold.
func (q Query) Has(t Term) bool { return slices.ContainsFunc(q.parts(), is(t)) }

// Toggled is the query narrowed by a term, or where it was, no longer.
func (q Query) Toggled(t Term) Query {
	parts := q.parts()
	if q.Has(t) {
		return together(slices.DeleteFunc(parts, is(t)))
	}
	return together(append(parts, Query{Op: Is, Term: t}))
}

// parts must all hold.
func (q Query) parts() []Query {
	switch {
	case q.Empty():
		return nil
	case q.Op == All:
		return slices.Clone(q.Of)
	}
	return []Query{q}
}

func together(parts []Query) Query {
	if len(parts) == 1 {
		return parts[0]
	}
	return Query{Op: All, Of: parts}
}

// is tells of a part that it is a term; what was typed decides, not what was read of it, as in days and sizes.
func is(t Term) func(Query) bool {
	return func(p Query) bool { return p.Op == Is && p.Term.String() == t.String() }
}
