// Package erasing says what belongs to a correspondent who is erased on request, and what is others'.
package erasing

import (
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/waiting"
)

// Letter is a letter as far as erasing goes.
type Letter struct {
	ID   int64
	From string // address key
	Own  bool
	// To are the address keys of those whom it went to, without the owner's own.
	To []string
}

// Share is what of a conversation belongs to somebody.
type Share struct {
	// Theirs are letters from them, Mine the owner's to nobody else.
	Theirs, Mine []int64
	// Others are letters of somebody else, Shared those of the owner's that went to others too.
	Others, Shared []int64
}

// Of parts the letters of a conversation by whether they belong to somebody with these addresses.
func Of(letters []Letter, addresses []string) (s Share) {
	theirs := func(address string) bool { return slices.Contains(addresses, address) }
	for _, l := range letters {
		switch {
		case !l.Own && theirs(l.From):
			s.Theirs = append(s.Theirs, l.ID)
		case !l.Own:
			s.Others = append(s.Others, l.ID)
		case Alone(l.To, addresses):
			s.Mine = append(s.Mine, l.ID)
		default:
			s.Shared = append(s.Shared, l.ID)
		}
	}
	return s
}

// Alone tells that something went, or is to go, to somebody and nobody else.
func Alone(to, addresses []string) bool {
	return len(to) > 0 && !slices.ContainsFunc(to, func(a string) bool { return !slices.Contains(addresses, strings.ToLower(a)) })
}

// Goes are the letters that are erased.
func (s Share) Goes() []int64 { return slices.Concat(s.Theirs, s.Mine) }

// Whole tells that nothing of the conversation is left.
func (s Share) Whole() bool { return len(s.Others)+len(s.Shared) == 0 }

// Answered tells that only what the owner wrote is left: nobody waits there for a decision.
func (s Share) Answered() bool { return len(s.Others) == 0 && len(s.Shared) > 0 }

// Without takes somebody out of what is waited for. Over tells that nobody is left who is waited for: each has
// answered, or there is nobody else.
func Without(e waiting.Expectation, addresses []string) (persons, answered []string, over bool) {
	theirs := func(a string) bool { return slices.Contains(addresses, a) }
	persons = slices.DeleteFunc(slices.Clone(e.Persons), theirs)
	answered = slices.DeleteFunc(slices.Clone(e.Answered), theirs)
	open := slices.ContainsFunc(persons, func(p string) bool { return !slices.Contains(answered, p) })
	return persons, answered, !open
}
