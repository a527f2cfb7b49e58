// Package group tells by what the conversations of a list go together, so that many are
// decided on at once. Each is in one group, whatever they are grouped by.
package group

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// By is what a list is grouped by.
type By string

// What lists are grouped by.
const (
	Sender  By = "sender"
	Domain  By = "domain"
	Subject By = "subject"
	Kind    By = "kind"
	Label   By = "label"
	Account By = "account"
	Age     By = "age"
	Matters By = "matters"
)

// Table are all of them, with what they are called.
var Table = []struct {
	By   By
	Name string
}{
	{Sender, "Sender"}, {Domain, "Domain"}, {Subject, "Subject"}, {Kind, "Kind"}, {Label, "Label"}, {Account, "Account"}, {Age, "Age"}, {Matters, "What matters"},
}

// Is tells whether lists can be grouped by it.
func (b By) Is() bool {
	return slices.ContainsFunc(Table, func(t struct {
		By   By
		Name string
	}) bool {
		return t.By == b
	})
}

// Member is what grouping goes by of a conversation.
type Member struct {
	From letter.Address
	// Subject is that without the prefixes of answers.
	Subject string
	Kind    sorting.Kind
	// Label is the first of its labels, Account the name of the first of its accounts.
	Label, Account string
	// At is when its newest letter came.
	At time.Time
	// Chance is how likely it matters, Learned that this is known.
	Chance  learning.Chance
	Learned bool
}

// Key names a group, Label says what is in it.
type Key struct{ Key, Label string }

// Of tells in which group a conversation is.
func (b By) Of(m Member, now time.Time, c when.Calendar) Key {
	switch b {
	case Sender:
		return named(m.From.Key(), m.From.Display(), "Nobody named")
	case Domain:
		domain := ""
		if strings.Contains(m.From.Email, "@") {
			domain = sorting.DomainOf(m.From.Email)
		}
		return named(domain, "@"+domain, "No domain")
	case Subject:
		return named(strings.ToLower(m.Subject), m.Subject, "No subject")
	case Kind:
		if about, ok := m.Kind.About(); ok {
			return Key{string(m.Kind), about.Name}
		}
		return Key{string(sorting.Person), "People’s letters"}
	case Label:
		return named(m.Label, m.Label, "No label")
	case Account:
		return named(m.Account, m.Account, "No account")
	case Age:
		return ageOf(m.At, now, c)
	case Matters:
		return mattersOf(m)
	}
	return Key{}
}

func named(key, label, none string) Key {
	if strings.TrimSpace(key) == "" {
		return Key{"", none}
	}
	return Key{key, label}
}

// The groups of what matters.
var (
	rankedHigh = Key{"0", "Ranked high"}
	theRest    = Key{"1", "The rest"}
	hardly     = Key{"2", "Hardly matters, by what you did with others"}
)

func mattersOf(m Member) Key {
	switch {
	case m.Learned && m.Chance.High():
		return rankedHigh
	case m.Learned && m.Chance.Low():
		return hardly
	}
	return theRest
}

// Opens tells whether a group shows its letters to begin with: by what matters the list is
// ordered rather than put together.
func (b By) Opens(k Key) bool { return b == Matters && k != hardly }

// ages are the groups of ages, by how many of the person's days they reach back.
var ages = []struct {
	days  int
	label string
}{{0, "Today"}, {1, "Yesterday"}, {7, "The past 7 days"}, {30, "The past 30 days"}, {90, "The past 90 days"}, {365, "The past year"}}

func ageOf(at, now time.Time, c when.Calendar) Key {
	days := c.Today(at).DaysUntil(c.Today(now))
	for i, a := range ages {
		if days <= a.days {
			return Key{fmt.Sprint(i), a.label}
		}
	}
	return Key{fmt.Sprint(len(ages)), "Older than a year"}
}

// Group is a group of a list: how many are in it, how many of them are unread and starred, and
// when the latest came.
type Group struct {
	Key
	N, Unread, Starred int
	At                 time.Time
}

// Compare orders groups: those of ages and of what matters as they follow each other, others the
// largest first.
func (b By) Compare(x, y Group) int {
	if b == Age || b == Matters {
		return cmp.Compare(x.Key.Key, y.Key.Key)
	}
	return cmp.Or(cmp.Compare(y.N, x.N), y.At.Compare(x.At), cmp.Compare(x.Key.Key, y.Key.Key))
}
