package find

import (
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
)

// Doc is what is searched: a letter, or what else has words. Each text is looked at by itself.
type Doc struct {
	From, To, Cc, Subject, Body, Files string
	// Note are the note on its conversation, and its working title.
	Notes    []string
	Labels   []string
	Accounts []string
	Kind     string
	Place    string
	// Own tells that one has written it.
	Own  bool
	At   time.Time
	Size int64
	// Has are the marks and contents of it, by the values of mark: and with:.
	Has map[string]bool
}

// Takes tells whether a query finds a letter: what the index finds, word by word.
func (q Query) Takes(d Doc) bool {
	takes := func(p Query) bool { return p.Takes(d) }
	switch q.Op {
	case Is:
		return q.Term.takes(d)
	case Not:
		return !takes(q.Of[0])
	case Any:
		return slices.ContainsFunc(q.Of, takes)
	}
	for _, p := range q.Of {
		if !takes(p) {
			return false
		}
	}
	return true
}

func (t Term) takes(d Doc) bool {
	switch t.Field {
	case Words:
		return t.In(d.From, d.To, d.Cc, d.Subject, d.Body, d.Files)
	case From:
		return t.In(d.From)
	case To:
		return t.In(d.To, d.Cc)
	case Cc:
		return t.In(d.Cc)
	case Subject:
		return t.In(d.Subject)
	case Note:
		return t.In(d.Notes...)
	case Label:
		return slices.ContainsFunc(d.Labels, t.Names)
	case Account:
		return slices.ContainsFunc(d.Accounts, t.Names)
	case Kind:
		return d.Kind == t.Value
	case At:
		return d.Place == t.Value || t.Value == Sent && d.Own
	case Mark:
		return d.Has[t.Value]
	case With:
		if t.File {
			return t.In(d.Files)
		}
		return d.Has[t.Value]
	case Size:
		if t.Over {
			return d.Size > t.Bytes
		}
		return d.Size < t.Bytes
	default: // the days
		return !d.At.Before(t.Since) && (t.Until.IsZero() || d.At.Before(t.Until))
	}
}

// In tells whether a term's words stand in one of some texts: each list of them within the same one or
// another.
func (t Term) In(texts ...string) bool {
	list, open := t.Phrases()
	for i, words := range list {
		stands := letter.Holds
		if i == len(list)-1 && open || alone(words) {
			stands = letter.StartsWith
		}
		if !slices.ContainsFunc(texts, func(text string) bool { return stands(letter.Words(text), words) }) {
			return false
		}
	}
	return len(list) > 0
}

// Names tells whether a term names a label or an account: by its words, or, within quotation marks, as
// it is written; and what is nested below a label by "/".
func (t Term) Names(name string) bool {
	if !t.Exact {
		return t.In(name)
	}
	name, value := strings.Join(letter.Words(name), " "), strings.Join(letter.Words(t.Value), " ")
	return name == value || strings.HasPrefix(name, value+" ")
}

// alone tells of a sign of those that are taken in pairs: it is the beginning of one.
func alone(words []string) bool {
	return len(words) == 1 && utf8.RuneCountInString(words[0]) == 1 && letter.Paired(words[0])
}
