package remote

import (
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Here is how a conversation stands in Ebbe.
type Here struct {
	Place decide.Place
	// Kind is that of its letters, by which it lies in the Shallows.
	Kind   sorting.Kind
	Star   bool
	Labels []string
	// Seen tells of a letter that the person has looked at.
	Seen func(c Copy) bool
	// Marks are what became of a letter here: Answered, Forwarded, ReceiptSent.
	Marks func(letter int64) Flags
}

// Act is what the server is to be told of a copy.
type Act struct {
	// Copy is its index.
	Copy int
	// To is the role of the folder it moves to; it stays if Moves is not set.
	// Phrase is the kind of a folder of the Shallows.
	Moves  bool
	To     Role
	Phrase string
	// Set and Clear are flags.
	Set, Clear Flags
	// Label and Unlabel are labels.
	Label, Unlabel []string
}

var roleFor = map[decide.Place]Role{decide.Inbox: Inbox, decide.Archive: Archive, decide.Later: Later, decide.Bin: Bin, decide.Junk: Junk, decide.Shallows: Shallows}

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
	h.label(copies, acts)
	out := acts[:0]
	for _, a := range acts {
		if a.Moves || a.Set|a.Clear != 0 || len(a.Label)+len(a.Unlabel) > 0 {
			out = append(out, a)
		}
	}
	return out
}

// move moves copies to where the conversation stands. In an inbox, put off or sorted out, it is
// enough that one letter stands there: those that were archived before stay. So do
// single letters that were binned. The folders that decide are emptied in any case, and that of what is
// held: only what is held is there.
func (h Here) move(copies []Copy, acts []Act) {
	to, ok := roleFor[h.Place]
	if !ok {
		return
	}
	phrase := ""
	if to == Shallows {
		phrase = string(h.Kind)
	}
	stands := PlaceThere(copies) == h.Place
	wasted := func(r Role) bool { return r == Bin || r == Junk }
	allWasted := true
	for _, c := range copies {
		allWasted = allWasted && (!c.counts() || wasted(c.Role))
	}
	there, newest := stands, -1
	for i, c := range copies {
		decides := c.Role == Deciding || c.Role == Track || c.Role == Held || c.Role == Shallows && to == Shallows
		archived := c.Role == Archive || c.Role == Other
		switch {
		case !c.counts() || c.Role == to && (to != Shallows || c.Phrase == phrase) || stands && !decides:
		case archived && to == Archive:
		case archived && (to == Inbox || to == Later || to == Shallows):
			if newest < 0 || !c.At.Before(copies[newest].At) {
				newest = i
			}
		case wasted(c.Role) && !wasted(to) && !allWasted:
		default:
			acts[i].Moves, acts[i].To, acts[i].Phrase = true, to, phrase
			there = true
		}
	}
	if !there && newest >= 0 {
		acts[newest].Moves, acts[newest].To, acts[newest].Phrase = true, to, phrase
	}
}

// flag sets and clears flags that the folders keep. The star of a conversation is on its
// newest letter.
func (h Here) flag(copies []Copy, acts []Act) {
	for i, c := range copies {
		if c.Role == Drafts {
			continue
		}
		if c.Own || h.Seen(c) {
			acts[i].Set |= Seen
		}
		if !c.Own {
			acts[i].Set |= h.Marks(c.Letter)
		}
		acts[i].Set &= c.Keeps &^ c.Flags
		if !h.Star {
			acts[i].Clear |= c.Flags & c.Keeps & Flagged
		}
	}
	if i := newestKept(copies, Flagged); h.Star && i >= 0 && !flagged(copies) {
		acts[i].Set |= Flagged
	}
}

// label sets and takes off labels, the same way. That of a folder is told by the folder.
func (h Here) label(copies []Copy, acts []Act) {
	newest := newestKept(copies, Labels)
	there := labelled(copies)
	for _, l := range h.Labels {
		filed := slices.ContainsFunc(copies, func(c Copy) bool { return strings.EqualFold(c.Filed, l) })
		if newest >= 0 && !filed && !hasLabel(there, l) {
			acts[newest].Label = append(acts[newest].Label, l)
		}
	}
	for i, c := range copies {
		for _, l := range c.Labels {
			if c.Keeps.Has(Labels) && !hasLabel(h.Labels, l) {
				acts[i].Unlabel = append(acts[i].Unlabel, l)
			}
		}
	}
}

// newestKept is the newest letter in a folder that keeps a flag; -1 for none. A view of all
// shows what stands elsewhere.
func newestKept(copies []Copy, flag Flags) int {
	newest := -1
	for i, c := range copies {
		if c.Role != Drafts && c.Role != All && c.Keeps.Has(flag) && (newest < 0 || !c.At.Before(copies[newest].At)) {
			newest = i
		}
	}
	return newest
}
