package decide

import "slices"

// Place is where a conversation stands. Nowhere is the place of one whose
// letters are all held.
type Place string

// The places.
const (
	Nowhere  Place = ""
	Inbox    Place = "inbox"
	Shallows Place = "shallows"
	Later    Place = "later"
	Archive  Place = "archive"
	Bin      Place = "bin"
	Junk     Place = "junk"
)

// Order is how the list of a place runs.
type Order string

// The orders of lists.
const (
	ByQueue Order = "queue" // what came back first, then as they came
	BySince Order = "since" // the latest put there first
	ByLast  Order = "last"  // by the newest letter
)

// PlaceAbout is what is to be known of a place: lists, the API and what people are
// told go by it.
type PlaceAbout struct {
	Place Place
	// Name is that of its list, and Where says that something is there.
	Name, Where string
	// Hint says what becomes of what is there, Empty that nothing is, and Back what
	// bringing it back to the inbox is called.
	Hint, Empty, Back string
	Order             Order
	// Listed tells that it has a list and Viewed that the list has a view of its
	// own; what is put off is seen in Ahead.
	Listed, Viewed bool
}

// PlaceTable are all places.
var PlaceTable = []PlaceAbout{
	{Place: Nowhere, Where: "held at the gate"},
	{Place: Inbox, Name: "Inbox", Where: "in the inbox", Order: ByQueue, Listed: true, Viewed: true},
	{Place: Shallows, Name: "Shallows", Where: "in the Shallows", Hint: "sorted out of the inbox; nothing here counts for zero", Empty: "Nothing is sorted out.", Order: ByLast, Listed: true},
	{Place: Later, Name: "Later", Where: "put off", Back: "To inbox", Order: ByLast, Listed: true},
	{Place: Archive, Name: "Archive", Where: "in the archive", Hint: "decided and kept", Empty: "Nothing is archived yet. Done and File bring letters here.", Back: "To inbox", Order: ByLast, Listed: true, Viewed: true},
	{Place: Bin, Name: "Bin", Where: "in the bin", Hint: "kept for 30 days", Empty: "The bin is empty.", Back: "Restore", Order: BySince, Listed: true, Viewed: true},
	{Place: Junk, Name: "Junk", Where: "in Junk", Hint: "never brought back by new letters", Empty: "No junk.", Back: "Not junk", Order: ByLast, Listed: true, Viewed: true},
}

// About is what is to be known of a place; the zero PlaceAbout of what is none.
func (p Place) About() PlaceAbout {
	if i := slices.IndexFunc(PlaceTable, func(a PlaceAbout) bool { return a.Place == p }); i >= 0 {
		return PlaceTable[i]
	}
	return PlaceAbout{}
}

// Places are all of them.
func Places() []Place {
	out := make([]Place, len(PlaceTable))
	for i, p := range PlaceTable {
		out[i] = p.Place
	}
	return out
}

// Undecided tells of the places in which what was let in still waits for a decision.
func (p Place) Undecided() bool { return p == Inbox || p == Shallows }

// Entered tells whether a move brings something new into the inbox. What was put
// off was counted before.
func Entered(was, now Place) bool { return now == Inbox && was != Later && was != Inbox }

// Step is by how much a move lets the inbox grow: 1, 0 or -1.
func Step(was, now Place) int {
	switch {
	case was != Inbox && now == Inbox:
		return 1
	case was == Inbox && now != Inbox:
		return -1
	}
	return 0
}

// Gone tells whether a move takes a conversation out of the inbox.
func Gone(was, now Place) bool { return was == Inbox && now != Inbox }
