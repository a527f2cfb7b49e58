package thread

import (
	"cmp"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Member is a letter of a conversation as its row sees it.
type Member struct {
	ID          int64
	Own         bool
	From        letter.Address
	Subject     string
	Ask         string
	Asks        bool
	Attachments int
	ReceivedAt  time.Time
	// Round is the delivery that brought it; zero where mail flowed. Through is
	// what let it through a closed gate, in words.
	Round   time.Time
	Through string
	// Kind is of what kind it is, Sorted that it is sorted out of the inbox.
	Kind   sorting.Kind
	Sorted bool
}

// earlier compares two letters by when they came, then by their ids.
func (m Member) earlier(o Member) int {
	return cmp.Or(m.ReceivedAt.Compare(o.ReceivedAt), cmp.Compare(m.ID, o.ID))
}

// Row is what a list shows of a conversation, read off its letters. The zero
// Row is that of none.
type Row struct {
	Letters, Attachments int
	// Unsorted are how many of them are not sorted out of the inbox.
	Unsorted int
	// Last is the highest id of its letters, LastAt when the latest came; of those that are
	// wanted, as long as any is.
	Last   int64
	LastAt time.Time
	// Speaker is the letter that speaks for it: its sender, its ask, how it came.
	// That is the newest from somebody else; as long as there is none, the
	// newest of one's own, and then of what is not wanted.
	Speaker Member
	// Opener is the letter that gives it its subject: the first that has one.
	Opener Member
}

// voice is how much it counts of a letter who sent it: somebody else, oneself, or somebody
// whose letters are not wanted.
func (m Member) voice() int {
	switch {
	case m.Kind.Refused():
		return 0
	case m.Own:
		return 1
	}
	return 2
}

// With is the row with one letter more. The order in which letters are added
// makes no difference.
func (r Row) With(m Member) Row {
	r.Letters++
	r.Attachments += m.Attachments
	if !m.Sorted {
		r.Unsorted++
	}
	switch unwanted := r.Speaker.Kind.Refused(); {
	case r.Speaker.ID == 0, unwanted && !m.Kind.Refused():
		r.Last, r.LastAt = m.ID, m.ReceivedAt
	case unwanted || !m.Kind.Refused():
		r.Last = max(r.Last, m.ID)
		if m.ReceivedAt.After(r.LastAt) {
			r.LastAt = m.ReceivedAt
		}
	}
	if r.Speaker.ID == 0 || speaks(m, r.Speaker) {
		r.Speaker = m
	}
	if m.Subject != "" && (r.Opener.ID == 0 || m.earlier(r.Opener) < 0) {
		r.Opener = m
	}
	return r
}

// speaks tells whether a letter rather than another speaks for a conversation.
func speaks(m, other Member) bool {
	if m.voice() != other.voice() {
		return m.voice() > other.voice()
	}
	return m.earlier(other) > 0
}

// RowOf is the row of a conversation with these letters.
func RowOf(letters []Member) Row {
	var r Row
	for _, m := range letters {
		r = r.With(m)
	}
	return r
}
