package writing

import (
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
)

// Doubt is something that is asked about once before a letter is sent.
type Doubt struct {
	Kind  DoubtKind `json:"kind" enum:"unfilled,attachment,many,domain,missing,asks"`
	Words string    `json:"words"`
	// Stops tells that the letter does not go so.
	Stops bool `json:"stops,omitempty" doc:"The letter does not go so"`
}

// DoubtKind is what is doubtful.
type DoubtKind string

// The doubts, in the order in which they are told.
const (
	NotFilledIn  DoubtKind = "unfilled"   // a field stands in it still
	NoAttachment DoubtKind = "attachment" // it speaks of a file, and none goes along
	Uncovered    DoubtKind = "asks"       // something that was asked is not answered
	Missing      DoubtKind = "missing"    // a colleague who was in the conversation is left out
	LikeAnother  DoubtKind = "domain"     // a domain never written to is a letter away from a known one
	ToMany       DoubtKind = "many"       // an answer to all goes to over ten people
)

// mostUndoubted is to how many people an answer to all goes without a word.
const mostUndoubted = 10

// Letter is a letter as far as its doubts go. Addresses are in lower case.
type Letter struct {
	Text string // without what is quoted below it
	// Receivers are all of them, To, Cc and Bcc.
	Receivers []string
	ToAll     bool
	Files     int
	// Unfilled are fields that stand in it still.
	Unfilled []string
	Asks     []Ask
	// Colleagues are those, of the own domains, who were in the letter that is answered to
	// all who were in it.
	Colleagues []letter.Address
	// Known are the domains that were written to or heard from before.
	Known []string
}

// Doubts are what is doubtful in a letter.
func Doubts(l Letter) []Doubt {
	var out []Doubt
	add := func(kind DoubtKind, format string, args ...any) {
		out = append(out, Doubt{Kind: kind, Words: fmt.Sprintf(format, args...), Stops: kind == NotFilledIn})
	}
	if len(l.Unfilled) > 0 {
		add(NotFilledIn, "Not filled in: {%s}.", strings.Join(l.Unfilled, "}, {"))
	}
	if word := findings.Announces(letter.Unquoted(l.Text)); word != "" && l.Files == 0 {
		add(NoAttachment, "It says “%s”, and no file goes along.", word)
	}
	for _, a := range l.Asks {
		if !a.Covered {
			add(Uncovered, "Not answered yet: “%s”", a.Text)
		}
	}
	if l.ToAll {
		for _, c := range l.Colleagues {
			if !slices.Contains(l.Receivers, c.Key()) {
				add(Missing, "%s was in the conversation and does not get it.", c.Display())
			}
		}
	}
	for _, domain := range domains(l.Receivers) {
		if slices.Contains(l.Known, domain) {
			continue
		}
		if i := slices.IndexFunc(l.Known, func(known string) bool { return oneApart(domain, known) }); i >= 0 {
			add(LikeAnother, "%s is new. Is it %s that is meant?", domain, l.Known[i])
		}
	}
	if n := len(l.Receivers); l.ToAll && n > mostUndoubted {
		add(ToMany, "It goes to %d people.", n)
	}
	return out
}

// Colleagues are those who share a domain with one of the own addresses and are nobody's own
// address; own are in lower case.
func Colleagues(all []letter.Address, own []string) (out []letter.Address) {
	ours := domains(own)
	for _, one := range all {
		if key := one.Key(); one.Email != "" && !slices.Contains(own, key) && slices.Contains(ours, key[strings.LastIndexByte(key, '@')+1:]) {
			out = append(out, one)
		}
	}
	return out
}

// domains are the domains of addresses, each once, in their order.
func domains(addresses []string) (out []string) {
	for _, a := range addresses {
		if d := a[strings.LastIndexByte(a, '@')+1:]; d != "" && !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	return out
}

// oneApart tells whether one sign put in, left out, changed or swapped with the next makes
// one word of the other.
func oneApart(a, b string) bool {
	s, t := []rune(a), []rune(b)
	if len(s) > len(t) {
		s, t = t, s
	}
	if len(t)-len(s) > 1 || slices.Equal(s, t) {
		return false
	}
	i := 0
	for i < len(s) && s[i] == t[i] {
		i++
	}
	if len(s) < len(t) {
		return slices.Equal(s[i:], t[i+1:])
	}
	if slices.Equal(s[i+1:], t[i+1:]) {
		return true
	}
	return i+1 < len(s) && s[i] == t[i+1] && s[i+1] == t[i] && slices.Equal(s[i+2:], t[i+2:])
}
