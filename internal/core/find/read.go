package find

import (
	"fmt"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

const (
	// longest bounds what is read of what is typed, in characters; mostTerms bounds the terms of it, and
	// deepest how deep brackets stand in each other.
	longest   = 2000
	mostTerms = 60
	deepest   = 20
)

// Problem is something in what was typed that can't be read, with what to do about it.
type Problem struct {
	// From and To are where it stands, in characters.
	From int    `json:"from"`
	To   int    `json:"to"`
	Says string `json:"says"`
}

// Reading is what was typed, as understood.
type Reading struct {
	Query    Query
	Problems []Problem
}

// Read reads what is typed into the search box: words of which all must be found, each the beginning of
// one; "a phrase" as it is; -not; or between two, which it joins before all else; brackets; and fields. A
// field without a value, or with one that may still be typed on, is passed over. What can't be read is
// named, and taken as words.
func Read(typed string, now time.Time, c when.Calendar) Reading {
	r := reader{now: now, cal: c, text: []rune(plain(typed))}
	if len(r.text) > longest {
		r.problem(longest, len(r.text), fmt.Sprintf("Only the first %d characters are looked for.", longest))
		r.text = r.text[:longest]
	}
	q := r.group(0)
	for r.at < len(r.text) { // a bracket that closes nothing
		r.problem(r.at, r.at+1, "This bracket closes nothing.")
		r.at++
		q = all([]Query{q, r.group(0)})
	}
	return Reading{q, r.problems}
}

// plain makes signs of what can't be typed, and gives all quotation marks the one form.
func plain(typed string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune("“”„«»", r):
			return '"'
		case unicode.IsSpace(r) || unicode.IsControl(r) || r == utf8.RuneError:
			return ' '
		}
		return r
	}, typed)
}

type reader struct {
	text     []rune
	at       int
	terms    int
	now      time.Time
	cal      when.Calendar
	problems []Problem
}

func (r *reader) problem(from, to int, says string) {
	r.problems = append(r.problems, Problem{from, to, says})
}

// group reads up to the bracket that closes it, or to the end.
func (r *reader) group(depth int) Query {
	var parts []Query
	or := false // between the last part and the next one
	for r.skip(); r.at < len(r.text) && r.text[r.at] != ')'; r.skip() {
		if !or && len(parts) > 0 && r.isOr() {
			or = true
			continue
		}
		q, ok := r.part(depth)
		if !ok {
			continue
		}
		if or {
			q = anyOf(parts[len(parts)-1], q)
			parts = parts[:len(parts)-1]
		}
		parts, or = append(parts, q), false
	}
	return all(parts)
}

// all are queries that must all be met; nested ones are taken into one.
func all(parts []Query) Query {
	out := Query{}
	for _, p := range parts {
		if p.Op == All {
			out.Of = append(out.Of, p.Of...)
		} else {
			out.Of = append(out.Of, p)
		}
	}
	if len(out.Of) == 1 {
		return out.Of[0]
	}
	return out
}

// Both is what must meet two queries.
func Both(a, b Query) Query { return all([]Query{a, b}) }

func anyOf(a, b Query) Query {
	out := Query{Op: Any}
	for _, p := range []Query{a, b} {
		if p.Op == Any {
			out.Of = append(out.Of, p.Of...)
		} else {
			out.Of = append(out.Of, p)
		}
	}
	return out
}

func (r *reader) skip() {
	for r.at < len(r.text) && r.text[r.at] == ' ' {
		r.at++
	}
}

// isOr reads an “or”.
func (r *reader) isOr() bool {
	word := r.bare()
	if strings.EqualFold(word, "or") {
		r.at += 2
		return true
	}
	return false
}

// bare is the unquoted word that stands here.
func (r *reader) bare() string {
	end := r.at
	for end < len(r.text) && !strings.ContainsRune(` ()"`, r.text[end]) {
		end++
	}
	return string(r.text[r.at:end])
}

// part reads a term, a group in brackets, or either with a - before it.
func (r *reader) part(depth int) (Query, bool) {
	not := false
	for r.at < len(r.text) && r.text[r.at] == '-' {
		not = true
		r.at++
	}
	if r.at == len(r.text) {
		return Query{}, false
	}
	var q Query
	switch r.text[r.at] {
	case ' ', ')':
		return Query{}, false // a dash
	case '(':
		from := r.at
		r.at++
		if depth == deepest {
			r.problem(from, r.at, fmt.Sprintf("Brackets stand in each other at most %d deep.", deepest))
			return Query{}, false
		}
		q = r.group(depth + 1)
		if r.at < len(r.text) {
			r.at++
		}
	default:
		q = r.term()
	}
	switch {
	case q.Empty():
		return q, false
	case not && q.Op == Not:
		return q.Of[0], true
	case not:
		return Query{Op: Not, Of: []Query{q}}, true
	}
	return q, true
}

// quoted reads what stands between two quotation marks, or up to the end.
func (r *reader) quoted() string {
	from := r.at + 1
	end := from
	for end < len(r.text) && r.text[end] != '"' {
		end++
	}
	r.at = min(end+1, len(r.text))
	return string(r.text[from:end])
}

// term reads one; nothing where nothing is looked for.
func (r *reader) term() Query {
	from := r.at
	if r.text[r.at] == '"' {
		return r.words(from, r.quoted(), true)
	}
	word := r.bare()
	r.at += utf8.RuneCountInString(word)
	name, value, ok := strings.Cut(word, ":")
	if !ok {
		return r.words(from, word, false)
	}
	field, known := named(name)
	if !known {
		if value != "" && isName(name) && !strings.HasPrefix(value, "//") {
			r.problem(from, r.at, noField(name))
		}
		return r.words(from, word, false)
	}
	exact := value == "" && r.at < len(r.text) && r.text[r.at] == '"'
	if exact {
		value = r.quoted()
	}
	if strings.TrimSpace(value) == "" {
		return Query{} // still being typed
	}
	return r.field(field, value, exact, from)
}

// isName tells whether something before a colon looks like the name of a field.
func isName(key string) bool {
	return len(key) > 1 && !strings.ContainsFunc(key, func(r rune) bool { return r < 'a' || r > 'z' })
}

// words is a term of words; nothing where there is none in it.
func (r *reader) words(from int, value string, exact bool) Query {
	if !exact {
		value = strings.TrimLeft(value, "-")
		name, _, colon := strings.Cut(value, ":")
		_, known := named(name)
		// Written within quotation marks, it is read as a word again.
		exact = strings.EqualFold(value, "or") || colon && known
	}
	return r.add(Term{Value: value, Exact: exact}, from)
}

// add counts a term.
func (r *reader) add(t Term, from int) Query {
	if t.InText() || t.Field == Note || t.Field == Label || t.Field == Account {
		if len(letter.Sought(t.Value)) == 0 {
			return Query{}
		}
	}
	if r.terms++; r.terms > mostTerms {
		if r.terms == mostTerms+1 {
			r.problem(from, len(r.text), fmt.Sprintf("Only the first %d words are looked for.", mostTerms))
		}
		return Query{}
	}
	return Query{Op: Is, Term: t}
}

// field reads a field with its value.
func (r *reader) field(field Field, value string, exact bool, from int) Query {
	t := Term{Field: field, Value: value, Exact: exact}
	refuse := func(says string) Query {
		if r.at == len(r.text) && r.mayBecome(field, value) {
			return Query{}
		}
		r.problem(from, r.at, says)
		return r.words(from, value, exact)
	}
	switch field {
	case At, Mark, Kind:
		name, _ := choose(ChoicesOf(field), value)
		if name == "" {
			return refuse(fmt.Sprintf("“%s” is not known there. Try %s.", value, list(field)))
		}
		t.Value, t.Exact = name, false
		if name == "due" {
			t.Until = r.cal.Instant(r.cal.Today(r.now).Add(1), 0)
		}
	case With:
		if name, _ := choose(Contents, value); name != "" && !exact {
			t.Value = name
		} else {
			t.File = true
		}
	case Before, After, On:
		since, until, ok := Days(value, r.now, r.cal)
		if !ok {
			return refuse(fmt.Sprintf("“%s” is no day. Write it as %s, yesterday, or \"last monday\".", value, r.cal.Today(r.now)))
		}
		switch field {
		case Before:
			t.Until = since
		case After:
			t.Since = until
		default:
			t.Since, t.Until = since, until
		}
	case Size:
		over, bytes, ok := bound(value)
		if !ok {
			return refuse(fmt.Sprintf("“%s” is no size. Write it as >500kb or <2mb.", value))
		}
		t.Over, t.Bytes = over, bytes
	}
	return r.add(t, from)
}

// list are the values of a field, as people are told of them.
func list(field Field) string {
	var out []string
	for _, c := range ChoicesOf(field) {
		out = append(out, string(field)+":"+c.Value)
	}
	return strings.Join(out[:len(out)-1], ", ") + " or " + last(out)
}

// mayBecome tells whether a value may become one that is understood, once it is typed on.
func (r *reader) mayBecome(field Field, value string) bool {
	value = strings.ToLower(strings.TrimSpace(value))
	switch field {
	case Size:
		return value == ">" || value == "<"
	case Before, After, On:
		for _, phrase := range phrases {
			if strings.HasPrefix(phrase, value) {
				return true
			}
		}
		return value[0] >= '0' && value[0] <= '9'
	default:
		_, begun := choose(ChoicesOf(field), value)
		return begun
	}
}

// phrases are days that are proposed while one is typed.
var phrases = []string{
	"today", "yesterday", "this week", "last week", "this month", "last month", "this year", "last year", "last 7 days", "last 30 days", "a week ago", "a month ago",
	"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday", "last monday", "last tuesday", "last wednesday", "last thursday", "last friday", "last saturday", "last sunday",
	"january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december",
}

// DaysLike are the phrases for days that begin with what is typed.
func DaysLike(typed string) (out []string) {
	for _, p := range phrases {
		if strings.HasPrefix(p, strings.ToLower(typed)) {
			out = append(out, p)
		}
	}
	return out
}

// Typing is the last word of what is typed, by its field: where it begins, in characters, and what of its
// value is there. The field is Words where it is none, or may become one.
func Typing(typed string) (from int, f Field, value string) {
	text := []rune(plain(typed))
	quoted := -1
	for i, r := range text {
		switch {
		case r == '"' && quoted < 0:
			quoted = i
		case r == '"':
			quoted = -1
		case quoted < 0 && strings.ContainsRune(" ()", r):
			from = i + 1
		}
	}
	for from < len(text) && text[from] == '-' {
		from++
	}
	word := string(text[from:])
	if name, value, ok := strings.Cut(word, ":"); ok {
		if f, known := named(name); known {
			return from, f, strings.Trim(value, `"`)
		}
	}
	return from, Words, strings.Trim(word, `"`)
}
