// Package find reads what is typed into the search box.
package find

import (
	"slices"
	"strings"
	"time"
	"unicode"

	"ebbe.example/ebbe/internal/core/when"
)

// Query is a search as understood.
type Query struct {
	// Words must all be found; a phrase is one entry with spaces. The last
	// word of what is typed may be unfinished.
	Words []string
	Open  bool // the last word is still being typed
	From  []string
	To    []string
	// Subject are words of the subject, Not words that must not be found.
	Subject, Not []string
	// Labels must all be on the conversation, whatever their case.
	Labels []string
	// Starred and Flagged ask for marks of the conversation, Files for a letter
	// with a file.
	Starred, Flagged, Files bool
	// After and Before bound when the letter came: [After, Before).
	After, Before time.Time
	Problems      []string
}

// Empty tells whether nothing is searched for.
func (q Query) Empty() bool {
	return len(q.Words)+len(q.From)+len(q.To)+len(q.Subject)+len(q.Not)+len(q.Labels) == 0 &&
		!q.Starred && !q.Flagged && !q.Files && q.After.IsZero() && q.Before.IsZero()
}

// Fields are the names that may stand before a colon, in the order in which
// they are told of.
var Fields = []string{"from", "to", "subject", "before", "after", "label", "mark", "with"}

// Parse reads words, "phrases", -words that must not be found, and fields:
// from:, to:, subject:, before: and after: with ISO days or 2026-11 or 2026,
// label:, mark:starred, mark:flagged, with:file. What can't be read is named in
// Problems, and the rest still searches.
func Parse(typed string, c when.Calendar) Query {
	var q Query
	for _, token := range tokens(typed) {
		key, value, ok := strings.Cut(token, ":")
		value = strings.Trim(value, `"`)
		if ok && slices.Contains(Fields, strings.ToLower(key)) {
			if value != "" { // else it is still being typed
				q.field(strings.ToLower(key), value, c)
			}
			continue
		}
		if not, ok := strings.CutPrefix(token, "-"); ok {
			if word := strings.Trim(not, `"`); strings.ContainsFunc(word, isWord) {
				q.Not = append(q.Not, word)
			}
			continue
		}
		switch {
		case ok && value != "" && isName(key) && !strings.HasPrefix(value, "//"):
			q.Problems = append(q.Problems, "There is no field “"+key+":”. There are "+strings.Join(Fields, ":, ")+":.")
			fallthrough
		default:
			if word := strings.Trim(token, `"`); strings.ContainsFunc(word, isWord) {
				q.Words = append(q.Words, word)
				q.Open = !strings.HasSuffix(typed, " ") && !strings.HasSuffix(typed, `"`)
			}
		}
	}
	return q
}

// field reads one field of what is typed.
func (q *Query) field(name, value string, c when.Calendar) {
	switch name {
	case "from":
		q.From = append(q.From, value)
	case "to":
		q.To = append(q.To, value)
	case "subject":
		q.Subject = append(q.Subject, value)
	case "label":
		q.Labels = append(q.Labels, value)
	case "before": // of several, the narrower one
		if t := q.bound(value, c, false); q.Before.IsZero() || !t.IsZero() && t.Before(q.Before) {
			q.Before = t
		}
	case "after":
		if t := q.bound(value, c, true); t.After(q.After) {
			q.After = t
		}
	case "mark":
		q.choose(value, map[string]*bool{"starred": &q.Starred, "flagged": &q.Flagged}, "mark:starred or mark:flagged")
	case "with":
		q.choose(value, map[string]*bool{"file": &q.Files, "files": &q.Files}, "with:file")
	}
}

// choose sets what a value asks for. What is none of the choices is said, unless
// it may still be typed on.
func (q *Query) choose(value string, choices map[string]*bool, try string) {
	value = strings.ToLower(value)
	if set, ok := choices[value]; ok {
		*set = true
		return
	}
	for name := range choices {
		if strings.HasPrefix(name, value) {
			return
		}
	}
	q.Problems = append(q.Problems, "“"+value+"” is not known there. Try "+try+".")
}

// isName tells whether something before a colon looks like the name of a field.
func isName(key string) bool {
	return len(key) > 1 && !strings.ContainsFunc(key, func(r rune) bool { return !unicode.IsLetter(r) })
}

func isWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// tokens cuts at white space outside quotation marks.
func tokens(typed string) []string {
	quoted := false
	return strings.FieldsFunc(typed, func(r rune) bool {
		if r == '"' {
			quoted = !quoted
		}
		return unicode.IsSpace(r) && !quoted
	})
}

// bound reads a day. "after" a day, month or year means after its end.
func (q *Query) bound(value string, c when.Calendar, after bool) time.Time {
	for _, k := range []struct {
		layout              string
		years, months, days int
	}{{"2006-01-02", 0, 0, 1}, {"2006-01", 0, 1, 0}, {"2006", 1, 0, 0}} {
		t, err := time.ParseInLocation(k.layout, value, c.Zone)
		if err != nil {
			continue
		}
		if after {
			t = t.AddDate(k.years, k.months, k.days)
		}
		return t
	}
	q.Problems = append(q.Problems, "“"+value+"” is not a day. Write it as 2026-11-24.")
	return time.Time{}
}

// Match writes the words as a full-text expression (SQLite FTS5), each quoted
// so that nothing typed is taken for an operator.
func (q Query) Match() string {
	var terms []string
	add := func(column, text string, open bool) {
		if t := term(column, text, open); t != "" {
			terms = append(terms, t)
		}
	}
	for _, v := range q.From {
		add("sender : ", v, true)
	}
	for _, v := range q.To {
		add("recipients : ", v, true)
	}
	for _, v := range q.Subject {
		add("subject : ", v, true)
	}
	for i, w := range q.Words {
		add("", w, q.Open && i == len(q.Words)-1)
	}
	return strings.Join(terms, " AND ")
}

// Without writes what must not be found, as Match does; "" for nothing.
func (q Query) Without() string {
	var terms []string
	for _, w := range q.Not {
		if t := term("", w, false); t != "" {
			terms = append(terms, t)
		}
	}
	return strings.Join(terms, " OR ")
}

// term quotes one text; "" if there is no word in it.
func term(column, text string, open bool) string {
	text = strings.Map(func(r rune) rune {
		if r == '"' || r < 0x20 {
			return ' '
		}
		return r
	}, text)
	if !strings.ContainsFunc(text, isWord) {
		return ""
	}
	out := column + `"` + text + `"`
	if open {
		out += " *"
	}
	return out
}

// InNotes tells whether it is looked for in notes and working titles too: words alone, at any time.
func (q Query) InNotes() bool {
	marks := len(q.Labels)+len(q.Not) > 0 || q.Starred || q.Flagged || q.Files
	return q.Match() != "" && !marks && q.After.IsZero() && q.Before.IsZero()
}
