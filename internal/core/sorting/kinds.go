// Package sorting tells of what kind a letter is: a person's, or what machines and lists
// write. It never looks at what somebody's letter says to tell it from a machine's; where
// nothing speaks for another kind, a letter is a person's.
package sorting

import "slices"

// Kind is what sort of letter one is; "" of one that was never sorted, as an imported one.
type Kind string

// The kinds.
const (
	Person   Kind = "person"
	Receipts Kind = "receipts" // orders, bills, parcels, tickets
	Notices  Kind = "notices"  // what machines report
	Reading  Kind = "reading"  // newsletters and list mail
	Meetings Kind = "meetings" // plain acceptances of invitations
	Copies   Kind = "copies"   // somebody else's letters, of which I only get a copy
)

// About is what is to be known of a kind.
type About struct {
	Kind Kind
	// One is what one of it is called.
	One string
	// Name is that of its part of the Shallows, What says what is in it.
	Name, What string
	// Out tells that it is sorted out where nothing else was settled.
	Out bool
}

// Table are the kinds that can be sorted out, in the order in which they lie in the Shallows.
var Table = []About{
	{Receipts, "receipt", "Receipts", "orders, bills, parcels and tickets", true},
	{Notices, "notice", "Notices", "what machines report", true},
	{Reading, "reading", "Reading", "newsletters and lists", true},
	{Meetings, "meeting", "Meetings", "plain acceptances of invitations", true},
	{Copies, "copy", "Copies", "letters to others, of which you get a copy", false},
}

// About is what is to be known of a kind; ok is false of a person's.
func (k Kind) About() (a About, ok bool) {
	i := slices.IndexFunc(Table, func(a About) bool { return a.Kind == k })
	if i < 0 {
		return About{}, false
	}
	return Table[i], true
}

// Is tells whether letters can be of the kind.
func (k Kind) Is() bool {
	_, ok := k.About()
	return ok || k == Person
}

// Sorted are the kinds that somebody has sorted out of the inbox.
type Sorted []Kind

// Usual are those that are sorted out until somebody settles otherwise.
func Usual() Sorted {
	var out Sorted
	for _, a := range Table {
		if a.Out {
			out = append(out, a.Kind)
		}
	}
	return out
}

// Only are those of some kinds that can be sorted out, in the order of the table.
func Only(kinds []Kind) Sorted {
	out := Sorted{}
	for _, a := range Table {
		if slices.Contains(kinds, a.Kind) {
			out = append(out, a.Kind)
		}
	}
	return out
}

// Has tells whether a kind is sorted out. A person's never is.
func (s Sorted) Has(k Kind) bool { return k != Person && slices.Contains(s, k) }

// wordsAMinute is how fast somebody reads on a screen without hurry.
const wordsAMinute = 220

// Minutes is how long a text of so many words takes to read, at least one.
func Minutes(words int) int { return max(1, (words+wordsAMinute/2)/wordsAMinute) }
