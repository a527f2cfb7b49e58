package delivery

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// ThroughKind is by what an entry lets letters through.
type ThroughKind string

// The kinds of entries.
const (
	BySender  ThroughKind = "sender"
	ByDomain  ThroughKind = "domain"
	ByWords   ThroughKind = "words" // in subject or body
	ByProject ThroughKind = "project"
	ByLabel   ThroughKind = "label"
	ByAnswer  ThroughKind = "answer" // an answer that is waited for
	ByAddress ThroughKind = "to"     // a letter to one of the own addresses
	ByCode    ThroughKind = "code"   // what one signs in with
)

// Through is an entry of the let-through list.
type Through struct {
	ID    int64
	Kind  ThroughKind
	Value string
	// Until is when it runs out; zero for never.
	Until time.Time
}

// ByFacts tells whether the entry needs nothing of a letter but what stands in
// its header, whether it answers, and whether it brings what one signs in with.
func (e Through) ByFacts() bool {
	return e.Kind != ByWords && e.Kind != ByLabel && e.Kind != ByProject
}

// Facts are what the gate knows of a letter on its arrival.
type Facts struct {
	From     string // address, lower case
	Subject  string
	Text     string
	To       []string // addresses, lower case
	Labels   []string
	Projects []string
	// Answers tells that it meets, in whole or part, what is waited for.
	Answers bool
	// SignsIn tells that it brings a code or a link with which one signs in.
	SignsIn bool
}

// Check tells what is wrong with an entry, for the person, and tidies it.
func (e Through) Check() (Through, error) {
	e.Value = strings.Join(strings.Fields(e.Value), " ")
	switch e.Kind {
	case ByAnswer, ByCode:
		e.Value = ""
		return e, nil
	case BySender, ByAddress:
		e.Value = strings.ToLower(e.Value)
		if local, domain, ok := strings.Cut(e.Value, "@"); !ok || local == "" || domain == "" {
			return e, fmt.Errorf("“%s” is no address; write it as name@place.example", e.Value)
		}
	case ByDomain:
		e.Value = strings.TrimPrefix(strings.ToLower(e.Value), "@")
		if !strings.Contains(strings.Trim(e.Value, "."), ".") || strings.ContainsAny(e.Value, "@ *") {
			return e, fmt.Errorf("“%s” is no domain; write it as place.example", e.Value)
		}
	case ByWords:
		if len(letter.Words(e.Value)) == 0 {
			return e, errors.New("write at least one word to look for")
		}
	case ByProject, ByLabel:
		if e.Value == "" {
			return e, errors.New("name the project or label")
		}
	default:
		return e, fmt.Errorf("letters can't be let through by “%s”", e.Kind)
	}
	return e, nil
}

// String says what the entry lets through.
func (e Through) String() string {
	switch e.Kind {
	case ByDomain:
		return "@" + e.Value
	case ByWords:
		return "words: " + e.Value
	case ByProject:
		return "project: " + e.Value
	case ByLabel:
		return "label: " + e.Value
	case ByAnswer:
		return "answers you wait for"
	case ByAddress:
		return "to " + e.Value
	case ByCode:
		return "sign-in codes and links"
	case BySender:
	}
	return e.Value
}

// Until is when an entry runs out: at its minute, or with the end of its day.
func Until(m when.Moment, c when.Calendar) time.Time {
	if m.Precision == when.ToMinute {
		return m.UTC
	}
	return c.Begins(m.Day(c).Add(1))
}

// OfSender tells whether the entry is about who sends from an address, whatever they write.
func (e Through) OfSender(address string) bool {
	e.Until = time.Time{}
	return (e.Kind == BySender || e.Kind == ByDomain) && e.Match(Facts{From: address}, time.Time{})
}

// Match tells whether the entry lets a letter through that arrives at a moment.
func (e Through) Match(f Facts, at time.Time) bool {
	if !e.Until.IsZero() && !at.Before(e.Until) {
		return false
	}
	named := func(list []string) bool {
		return slices.ContainsFunc(list, func(x string) bool { return strings.EqualFold(x, e.Value) })
	}
	switch e.Kind {
	case BySender:
		return strings.EqualFold(f.From, e.Value)
	case ByDomain:
		_, domain, _ := strings.Cut(strings.ToLower(f.From), "@")
		return domain == e.Value || strings.HasSuffix(domain, "."+e.Value)
	case ByWords:
		words := letter.Words(e.Value)
		return letter.Holds(letter.Words(f.Subject), words) || letter.Holds(letter.Words(f.Text), words)
	case ByProject:
		return named(f.Projects)
	case ByLabel:
		return named(f.Labels)
	case ByAddress:
		return named(f.To)
	case ByAnswer:
		return f.Answers
	case ByCode:
		return f.SignsIn
	}
	return false
}

// LetsThrough is the first entry that lets a letter through.
func LetsThrough(list []Through, f Facts, at time.Time) (Through, bool) {
	i := slices.IndexFunc(list, func(e Through) bool { return e.Match(f, at) })
	if i < 0 {
		return Through{}, false
	}
	return list[i], true
}
