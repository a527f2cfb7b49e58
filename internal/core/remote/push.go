package remote

import "ebbe.example/ebbe/internal/core/decide"

// Here is how a conversation stands in Ebbe.
type Here struct {
	Place decide.Place
	Star  bool
	// Seen tells of a letter that the person has looked at.
	Seen func(c Copy) bool
	// Answered tells of a letter that one of the person's own answers.
	Answered func(letter int64) bool
}

// Act is what the server is to be told of a copy.
type Act struct {
	// Copy is its index.
	Copy int
	// To is the role of the folder it moves to; it stays if Moves is not set.
	Moves bool
	To    Role
	// Set and Clear are flags.
	Set, Clear Flags
}

var roleFor = map[decide.Place]Role{decide.Inbox: Inbox, decide.Archive: Archive, decide.Later: Later, decide.Bin: Bin, decide.Junk: Junk}

// Push is what the server is to be told so that any other program shows a
// conversation as it stands here. What it is told already gives nothing, so that it
// can be asked any number of times.
func Push(h Here, copies []Copy) []Act {
	acts := make([]Act, len(copies))
	for i := range acts {
		acts[i].Copy = i
	}
	h.move(copies, acts)
	h.flag(copies, acts)
	out := acts[:0]
	for _, a := range acts {
		if a.Moves || a.Set|a.Clear != 0 {
			out = append(out, a)
		}
	}
	return out
}

// move moves copies to where the conversation stands. In an inbox or put off, it is
// enough that one letter stands there: those that were archived before stay. So do
// single letters that were binned. The folders that decide are emptied in any case.
func (h Here) move(copies []Copy, acts []Act) {
	to, ok := roleFor[h.Place]
	if !ok {
		return
	}
	stands := PlaceThere(copies) == h.Place
	wasted := func(r Role) bool { return r == Bin || r == Junk }
	allWasted := true
	for _, c := range copies {
		allWasted = allWasted && (!c.counts() || wasted(c.Role))
	}
	there, newest := stands, -1
	for i, c := range copies {
		decides := c.Role == Deciding || c.Role == Track
		archived := c.Role == Archive || c.Role == Other
		switch {
		case !c.counts() || c.Role == to || stands && !decides:
		case archived && to == Archive:
		case archived && (to == Inbox || to == Later):
			if newest < 0 || !c.At.Before(copies[newest].At) {
				newest = i
			}
		case wasted(c.Role) && !wasted(to) && !allWasted:
		default:
			acts[i].Moves, acts[i].To = true, to
			there = true
		}
	}
	if !there && newest >= 0 {
		acts[newest].Moves, acts[newest].To = true, to
	}
}

// flag sets and clears flags. The star of a conversation is on its newest letter.
func (h Here) flag(copies []Copy, acts []Act) {
	newest := -1
	for i, c := range copies {
		if c.Role == Drafts {
			continue
		}
		if !c.Flags.Has(Seen) && (c.Own || h.Seen(c)) {
			acts[i].Set |= Seen
		}
		if !c.Flags.Has(Answered) && !c.Own && h.Answered(c.Letter) {
			acts[i].Set |= Answered
		}
		if c.Flags.Has(Flagged) && !h.Star {
			acts[i].Clear |= Flagged
		}
		if c.Role != All && (newest < 0 || !c.At.Before(copies[newest].At)) {
			newest = i
		}
	}
	if h.Star && newest >= 0 && !flagged(copies) {
		acts[newest].Set |= Flagged
	}
}
