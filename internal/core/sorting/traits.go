package sorting

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

// Traits are what a letter itself says of its kind. They are kept with it, so that ten
// thousand held letters are sorted without reading one of them again.
type Traits int

// The traits.
const (
	// Machine: Auto-Submitted (RFC 3834), an empty return path, a report (RFC 6522), or
	// Precedence bulk or junk.
	Machine Traits = 1 << iota
	// Listed: List-Id (RFC 2919) or List-Unsubscribe (RFC 2369).
	Listed
	// Bill: a machine's, with a sum or a parcel, and its number.
	Bill
	// Accepts: a plain acceptance of an invitation (RFC 5546, METHOD:REPLY).
	Accepts
	// Replies: any other answer to an invitation.
	Replies
	// Spoofed: the own server says that it is not from whom it says.
	Spoofed
	// Copied: it is to others, and to the owner only in Cc. Answers: it refers to a letter
	// of the owner's.
	Copied
	Answers
	// Signed: a signature was found to hold on its arrival that covers how its list is left.
	Signed
	// SignsIn: it brings a code or a link with which one signs in somewhere.
	SignsIn
	// What is looked for in letters: Sums of money, a time to come (Dated), a link, a picture.
	Sums
	Dated
	Linked
	Pictured
)

// Beside are the traits that a letter alone doesn't say.
const Beside = Copied | Answers | Signed

// Has tells whether all of some traits are there.
func (t Traits) Has(some Traits) bool { return t&some == some }

// TraitsOf reads off a letter what it says by itself. Bills are looked for in machines'
// letters only: nobody else's becomes a receipt by one.
func TraitsOf(l letter.Letter) Traits {
	var t Traits
	if l.Automatic == letter.Report || l.Automatic == letter.AutoReply || l.Automatic == letter.Generated || l.Bulk {
		t |= Machine
	}
	if l.ListID != "" || l.Unsubscribes {
		t |= Listed
	}
	if l.Spoofed {
		t |= Spoofed
	}
	if l.Automatic == letter.MeetingReply || l.Calendar() != "" {
		t |= repliesOf(l)
	}
	text := letter.Unquoted(l.Text)
	if t.Has(Machine) && findings.Bills(l.Subject, text) {
		t |= Bill
	}
	if _, ok := findings.SignsIn(l.Subject, text); ok {
		t |= SignsIn
	}
	for trait, has := range map[Traits]bool{
		Sums: findings.NamesSum(text), Dated: findings.NamesDate(text, l.Date, when.Standard(time.UTC)),
		Linked: findings.Links(l.Text, l.HTML), Pictured: slices.ContainsFunc(l.Parts, pictures),
	} {
		if has {
			t |= trait
		}
	}
	return t
}

// logo is the size, in bytes, up to which a picture in the text is taken for an ornament.
const logo = 10_000

func pictures(p letter.Part) bool {
	return strings.HasPrefix(p.ContentType, "image/") && (!p.Inline || p.Size > logo)
}

// CopiedTo is Copied where a letter is to others and names the owner only in Cc.
func CopiedTo(to, cc []letter.Address, own func(letter.Address) bool) Traits {
	if !slices.ContainsFunc(to, own) && slices.ContainsFunc(cc, own) {
		return Copied
	}
	return 0
}

// repliesOf tells how a letter answers an invitation. One that can't be read is no plain
// acceptance.
func repliesOf(l letter.Letter) Traits {
	// What it answers is told alike in every zone.
	method, events, _, err := meeting.Parse(l.Calendar(), when.Standard(time.UTC))
	switch {
	case err != nil && l.Automatic == letter.MeetingReply:
		return Replies
	case err != nil || method != meeting.Answer:
		return 0
	}
	for _, e := range events {
		for _, a := range e.Attendees {
			if a.Reply != meeting.Accepted {
				return Replies
			}
		}
		if len(e.Attendees) != 1 || e.Comment != "" {
			return Replies
		}
	}
	return Accepts
}
