// Package find reads what is typed into the search box.
package find

import (
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
	// After and Before bound the letter's date: [After, Before).
	After, Before time.Time
	Problems      []string
}

// Empty tells whether nothing is searched for.
func (q Query) Empty() bool {
	return len(q.Words)+len(q.From)+len(q.To) == 0 && q.After.IsZero() && q.Before.IsZero()
}

// Parse reads words, "phrases", from:, to:, before: and after:. Dates are ISO
// days or 2026-11 or 2026. What can't be read is named in Problems, and the
// rest still searches.
func Parse(typed string, c when.Calendar) Query {
	var q Query
	for _, token := range tokens(typed) {
		key, value, ok := strings.Cut(token, ":")
		value = strings.Trim(value, `"`)
		switch {
		case ok && value == "" && isKey(key):
			continue // still being typed
		case ok && strings.EqualFold(key, "from"):
			q.From = append(q.From, value)
		case ok && strings.EqualFold(key, "to"):
			q.To = append(q.To, value)
		case ok && strings.EqualFold(key, "before"):
			q.Before = q.bound(value, c, false)
		case ok && strings.EqualFold(key, "after"):
			q.After = q.bound(value, c, true)
		default:
			if word := strings.Trim(token, `"`); strings.ContainsFunc(word, isWord) {
				q.Words = append(q.Words, word)
				q.Open = !strings.HasSuffix(typed, " ") && !strings.HasSuffix(typed, `"`)
			}
		}
	}
	return q
}

func isKey(key string) bool {
	switch strings.ToLower(key) {
	case "from", "to", "before", "after":
		return true
	}
	return false
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
		text = strings.Map(func(r rune) rune {
			if r == '"' || r < 0x20 {
				return ' '
			}
			return r
		}, text)
		if !strings.ContainsFunc(text, isWord) {
			return
		}
		term := column + `"` + text + `"`
		if open {
			term += " *"
		}
		terms = append(terms, term)
	}
	for _, v := range q.From {
		add("sender : ", v, true)
	}
	for _, v := range q.To {
		add("recipients : ", v, true)
	}
	for i, w := range q.Words {
		add("", w, q.Open && i == len(q.Words)-1)
	}
	return strings.Join(terms, " AND ")
}
