// Package find reads what is typed into the search box, and tells what it finds.
package find

import (
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Op is how the parts of a query are combined.
type Op string

// The ways to combine. The zero Query is All of nothing: it asks for nothing.
const (
	All Op = ""    // each of its parts
	Any Op = "or"  // one of them at least
	Not Op = "not" // its only part is not found
	Is  Op = "is"  // a term
)

// Query is a search as understood.
type Query struct {
	Op   Op
	Of   []Query // the parts of all but a term
	Term Term
}

// Field is what a term looks at.
type Field string

// The fields, by the names that are typed before a colon. Words look everywhere in a letter.
const (
	Words   Field = ""
	From    Field = "from"
	To      Field = "to" // in To or Cc
	Cc      Field = "cc"
	Subject Field = "subject"
	Label   Field = "label"
	Kind    Field = "kind"
	Account Field = "account"
	Note    Field = "note" // and working titles
	Before  Field = "before"
	After   Field = "after"
	On      Field = "on"
	At      Field = "at"
	Mark    Field = "mark"
	With    Field = "with"
	Size    Field = "size"
)

// Term is one thing that is looked for.
type Term struct {
	Field Field
	// Value is what was typed, without quotation marks; of a choice, its name.
	Value string
	// Exact was typed within quotation marks: its last word doesn't go on.
	Exact bool
	// Since and Until bound days: [Since, Until), zero for no bound.
	Since, Until time.Time
	// Bytes is a size, Over that letters are larger, else smaller.
	Bytes int64
	Over  bool
	// File tells that With asks for a file's name.
	File bool
}

// Empty tells whether nothing is searched for.
func (q Query) Empty() bool { return q.Op != Is && len(q.Of) == 0 }

// Says tells whether a query looks for words anywhere in letters.
func (q Query) Says() bool {
	for t, not := range q.Terms {
		if t.Field == Words && !not {
			return true
		}
	}
	return false
}

// Terms are all terms, in their order, with whether each is one that must not be found.
func (q Query) Terms(yield func(t Term, not bool) bool) { q.terms(false, yield) }

func (q Query) terms(not bool, yield func(Term, bool) bool) bool {
	if q.Op == Is {
		return yield(q.Term, not)
	}
	for _, part := range q.Of {
		if !part.terms(not != (q.Op == Not), yield) {
			return false
		}
	}
	return true
}

// InText tells whether a term looks at the text of letters, which the full-text index has.
func (t Term) InText() bool {
	switch t.Field {
	case Words, From, To, Cc, Subject:
		return true
	case With:
		return t.File
	default:
		return false
	}
}

// Phrases are the words that a term looks for: of each list all words, next to each other. The last word
// of the last one may go on where it was not typed within quotation marks and has two letters at least.
func (t Term) Phrases() (list [][]string, open bool) {
	list = letter.Sought(t.Value)
	if len(list) == 0 {
		return nil, false
	}
	return list, !t.Exact && len(last(last(list))) > 1
}

// Short tells whether a query looks for a word of one letter that might go on, and is taken as it stands.
func (q Query) Short() bool {
	for t, not := range q.Terms {
		if list, open := t.Phrases(); t.InText() && !not && !t.Exact && !open && len(list) > 0 && !alone(last(list)) {
			return true
		}
	}
	return false
}

func last[T any](list []T) T { return list[len(list)-1] }
