package remote

import (
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Flags are what a mail server keeps of a letter beside its folder.
type Flags uint8

// The flags (RFC 9051, 2.3.2; the keywords $Forwarded of RFC 5788 and $MDNSent of RFC
// 3503). Labels says of a folder that it keeps any keyword.
const (
	Seen Flags = 1 << iota
	Flagged
	Answered
	Forwarded
	ReceiptSent
	Labels
)

// Has tells whether all of the flags are set.
func (f Flags) Has(flags Flags) bool { return f&flags == flags }

// Copy is a letter in a folder of the server.
type Copy struct {
	Letter int64
	// At is when the letter was received, Own that the person wrote it.
	At    time.Time
	Own   bool
	Role  Role
	Flags Flags
	// Keeps are the flags that its folder keeps for good.
	Keeps Flags
	// Labels are those that its keywords stand for, Filed is that of its folder.
	Labels []string
	Filed  string
	// Phrase is that of a folder that decides, and the kind of one of the Shallows.
	Phrase string
}

// counts tells whether the folder of a copy says where its conversation stands:
// what was sent or is being written does not, nor does a view of all.
func (c Copy) counts() bool {
	return c.Role != Sent && c.Role != Drafts && c.Role != All && c.Role != Hidden
}

// PlaceThere is where a conversation stands by its copies on the server: in the
// inbox while one of them is there or held on the way to it, then put off, then in the Shallows; in the bin or in junk if all are there,
// else in the archive. Nowhere if no copy says anything.
func PlaceThere(copies []Copy) decide.Place {
	n := map[Role]int{}
	all, shown := 0, false
	for _, c := range copies {
		if c.counts() {
			n[c.Role]++
			all++
		}
		shown = shown || c.Role == All
	}
	switch {
	case all == 0 && shown: // where all is shown, nothing else is an archive
		return decide.Archive
	case all == 0:
		return decide.Nowhere
	case n[Inbox]+n[Held] > 0:
		return decide.Inbox
	case n[Later]+n[Deciding] > 0:
		return decide.Later
	case n[Shallows] > 0:
		return decide.Shallows
	case n[Bin] == all:
		return decide.Bin
	case n[Junk] == all:
		return decide.Junk
	}
	return decide.Archive
}

// kindThere is the kind among whose letters the newest lies of those in the Shallows: reading, where
// that is said by no folder.
func kindThere(copies []Copy) sorting.Kind {
	newest, kind := Copy{}, sorting.Reading
	for _, c := range copies {
		if c.Role == Shallows && !c.At.Before(newest.At) {
			newest, kind = c, KindOf(c.Phrase)
		}
	}
	return kind
}

// Decision is what another program did with a conversation.
type Decision struct {
	// Kind is the decision that is the same here; "" for none.
	Kind decide.Kind
	// When is the phrase of one that puts off.
	When string
	// Sort is the kind among whose letters it was put; "" for none.
	Sort sorting.Kind
	// Lost tells that it was binned there and decided otherwise here: what was done
	// here stands.
	Lost bool
}

// UsualPhrase is until when a letter is put off that was moved to Later itself, or to
// a folder whose name is no time.
const UsualPhrase = "tomorrow"

var kindFor = map[decide.Place]decide.Kind{
	decide.Inbox: decide.ToInbox, decide.Archive: decide.Done, decide.Bin: decide.ToBin, decide.Junk: decide.ToJunk, decide.Later: decide.PutOff,
}

// Elsewhere is what was done elsewhere with a conversation, three ways: its copies as
// the server and Ebbe last agreed on them, its copies now, and where it stands
// here. Only letters that were there before say anything: one that has come is an
// arrival. What is seen now was done later than what was done here; but the bin never
// wins by itself.
func Elsewhere(here Here, before, now []Copy) Decision {
	known, moved := map[int64]bool{}, map[int64]bool{}
	for _, c := range before {
		known[c.Letter] = true
		moved[c.Letter] = moved[c.Letter] || c.Role != Deciding && c.Role != Track
	}
	var still []Copy
	for _, c := range now {
		if !known[c.Letter] {
			continue
		}
		// One that has been decided on, and could not be moved on yet, is not again.
		if c.Role == Track && moved[c.Letter] {
			return Decision{Kind: decide.FollowUp}
		}
		if c.Role == Deciding && moved[c.Letter] {
			return Decision{Kind: decide.PutOff, When: c.Phrase}
		}
		still = append(still, c)
	}
	was, is := PlaceThere(before), PlaceThere(still)
	if was == decide.Nowhere {
		return Decision{}
	}
	if is == decide.Nowhere { // they were taken off the server
		is = decide.Bin
	}
	kind := kindThere(still)
	switch {
	case is == was && (is != decide.Shallows || kind == kindThere(before)) || is == here.Place && (is != decide.Shallows || kind == here.Kind):
		return Decision{}
	case is == decide.Bin && here.Place != was && !untold(here.Place, was):
		return Decision{Lost: true}
	case is == decide.Shallows:
		return Decision{Sort: kind}
	case is == decide.Inbox && here.Place == decide.Shallows:
		return Decision{Sort: sorting.Person}
	}
	d := Decision{Kind: kindFor[is]}
	if d.Kind == decide.PutOff {
		d.When = UsualPhrase
	}
	return d
}

// untold tells of a conversation that was sorted out as it came, and still lies in the inbox there:
// nobody has decided on it here.
func untold(here, there decide.Place) bool { return here == decide.Shallows && there == decide.Inbox }

// StarElsewhere tells whether a conversation was starred or unstarred elsewhere: it
// has a star while one of its letters is flagged.
func StarElsewhere(here bool, before, now []Copy) (star, changed bool) {
	was, is := flagged(before), flagged(now)
	return is, was != is && is != here
}

func flagged(copies []Copy) bool {
	for _, c := range copies {
		if c.Flags.Has(Flagged) {
			return true
		}
	}
	return false
}

// SeenElsewhere is the newest letter that was read elsewhere since; 0 for none.
func SeenElsewhere(before, now []Copy) int64 {
	was := map[int64]bool{}
	for _, c := range before {
		was[c.Letter] = was[c.Letter] || c.Flags.Has(Seen)
	}
	newest := Copy{}
	for _, c := range now {
		if c.Flags.Has(Seen) && !was[c.Letter] && !c.At.Before(newest.At) {
			newest = c
		}
	}
	return newest.Letter
}

// UnseenElsewhere tells whether letters were marked as unread elsewhere since, and up to which
// letter all is still read; 0 for none.
func UnseenElsewhere(before, now []Copy) (last int64, changed bool) {
	was := map[int64]bool{}
	for _, c := range before {
		was[c.Letter] = was[c.Letter] || c.Flags.Has(Seen)
	}
	oldest := Copy{}
	for _, c := range now {
		if was[c.Letter] && !c.Flags.Has(Seen) && !c.Own && (!changed || c.At.Before(oldest.At)) {
			oldest, changed = c, true
		}
	}
	newest := Copy{}
	for _, c := range now {
		if changed && c.At.Before(oldest.At) && !c.At.Before(newest.At) {
			newest = c
		}
	}
	return newest.Letter, changed
}
