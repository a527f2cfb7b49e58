package find

import "strings"

// The columns of the full-text index.
const (
	colSubject, colSender, colRecipients, colCopies, colBody, colFiles = "subject", "sender", "recipients", "copies", "body", "files"
)

// columns are those that a field looks at; none for all.
var columns = map[Field]string{
	From: colSender, To: "{" + colRecipients + " " + colCopies + "}", Cc: colCopies, Subject: colSubject, With: colFiles,
}

// InText tells whether all of a query looks at the text of letters, and something of it must be found.
func (q Query) InText() bool {
	switch q.Op {
	case Is:
		return q.Term.InText()
	case Not:
		return false
	case Any:
		for _, p := range q.Of {
			if !p.InText() {
				return false
			}
		}
		return true
	}
	found := false
	for _, p := range q.Of {
		switch {
		case p.Op == Not && p.Of[0].InText():
		case p.InText():
			found = true
		default:
			return false
		}
	}
	return found
}

// Apart takes what is in the text, of what must all be met, apart from the rest. Without any, the first is
// empty.
func (q Query) Apart() (text Query, rest []Query) {
	parts := q.Of
	if q.Op != All {
		parts = []Query{q}
	}
	var found, not []Query
	for _, p := range parts {
		switch {
		case p.InText():
			found = append(found, p)
		case p.Op == Not && p.Of[0].InText():
			not = append(not, p)
		default:
			rest = append(rest, p)
		}
	}
	if len(found) == 0 {
		return Query{}, append(rest, not...)
	}
	return all(append(found, not...)), rest
}

// InNotes tells whether it is looked for in notes and working titles, too: words alone, or those of the subject.
func (q Query) InNotes() bool {
	words := false
	for t, not := range q.Terms {
		if words = (t.Field == Words || t.Field == Subject) && !not; !words {
			break
		}
	}
	return words
}

// Match writes a query that is in the text as a full-text expression (SQLite FTS5, “Full-text Query
// Syntax”); nothing that was typed is taken for an operator of it.
func (q Query) Match() string {
	switch q.Op {
	case Is:
		return q.Term.match()
	case Any:
		return bracketed(q.Of, " OR ")
	}
	var found, not []Query
	for _, p := range q.Of {
		if p.Op == Not {
			not = append(not, p.Of[0])
		} else {
			found = append(found, p)
		}
	}
	out := bracketed(found, " AND ")
	if len(not) > 0 {
		out = "(" + out + " NOT " + bracketed(not, " OR ") + ")"
	}
	return out
}

func bracketed(list []Query, between string) string {
	parts := make([]string, len(list))
	for i, p := range list {
		parts[i] = p.Match()
	}
	return "(" + strings.Join(parts, between) + ")"
}

func (t Term) match() string {
	list, open := t.Phrases()
	parts := make([]string, len(list))
	for i, words := range list {
		parts[i] = `"` + strings.Join(words, " ") + `"`
		if i == len(list)-1 && open || alone(words) {
			parts[i] += " *"
		}
	}
	out := "(" + strings.Join(parts, " AND ") + ")"
	if column := columns[t.Field]; column != "" {
		return column + " : " + out
	}
	return out
}
