// Package letter reads and writes single messages (RFC 5322, MIME): what a
// letter says, who it is from, whether a machine sent it, and what it is
// known by. It never fails on bad input: what can't be read is kept, and the
// damage is named.
package letter

import (
	"net/mail"
	"strings"
	"time"
)

// Address is a person's name and address. The address is kept as written;
// compare with Key.
type Address struct {
	Name  string `json:"name,omitempty"`
	Email string `json:"email"`
}

// Key is the address in the form in which two are compared: lower case.
func (a Address) Key() string { return strings.ToLower(a.Email) }

// FirstName is how somebody is greeted; "" where no name is known.
func (a Address) FirstName() string {
	if words := strings.Fields(a.Name); len(words) > 0 {
		return strings.Trim(words[0], ",")
	}
	return ""
}

// Display is the name, or the address where there is no name.
func (a Address) Display() string {
	if a.Name != "" {
		return a.Name
	}
	return a.Email
}

// String prints the address for a header field, quoted and encoded as
// RFC 5322 and RFC 2047 ask.
func (a Address) String() string { return (&mail.Address{Name: a.Name, Address: a.Email}).String() }

// Part is an attachment, or an inline part that the HTML refers to.
type Part struct {
	Name        string
	ContentType string
	// Charset is what a text part's bytes are written in, by its header; "" where
	// it names none.
	Charset string
	// ContentID is the id by which HTML refers to the part (cid:), without
	// angle brackets; empty for most attachments.
	ContentID string
	Inline    bool
	// Content is the decoded content; nil in a letter that is shown in part,
	// where PartOf gives it.
	Content []byte
	Size    int // of the content, in bytes
}

// Letter is one message as read from its bytes. It is a value: nothing
// changes it after Parse.
type Letter struct {
	MessageID  string // without angle brackets; "" when the field is missing
	InReplyTo  []string
	References []string
	From       Address
	To, Cc     []Address
	Bcc        []Address
	ReplyTo    []Address
	Subject    string
	// Date is the Date field; zero when missing or unreadable.
	Date time.Time
	// Received is the time in the topmost Received field; zero without one.
	Received time.Time
	Text     string
	HTML     string
	Parts    []Part
	// Automatic tells that a machine sent it (see Classify).
	Automatic Automatic
	// ListID names the list that it came by (RFC 2919), in lower case; Unsubscribes tells that
	// it says how to leave one (RFC 2369). Bulk tells that its Precedence is bulk or junk.
	ListID       string
	Unsubscribes bool
	Bulk         bool
	// SentOn tells that a rule, of whatever program, has forwarded it: it has a mark against loops.
	SentOn bool
	// Leaving is how its list says that it can be left.
	Leaving Leaving
	// Spoofed tells that the server at which it arrived has found that it is not from whom it
	// says (a failure of DMARC in the topmost Authentication-Results field, RFC 8601).
	Spoofed bool
	// Seal says how it is signed or encrypted.
	Seal Seal
	// Report is what it reports on a letter of mine; nil for any other letter.
	Report *Reported
	// Reports are what it says of each recipient.
	Reports []Reported
	// ReadReceiptTo are who asks to be told that it was read (RFC 8098).
	ReadReceiptTo []Address
	// ReturnPath is where failures go; "" if it is empty or not known.
	ReturnPath string
	// Damage says what was wrong with the bytes; "" for a sound letter.
	Damage string

	digest []byte // of the decoded body; part of Identity
	// byItself and underEmpty are Automatic as it is with any and with an empty
	// return path.
	byItself, underEmpty Automatic
}

// Automatic says by what a letter was recognised as sent by a machine.
type Automatic string

// The kinds, strongest evidence first.
const (
	Personal     Automatic = ""
	Report       Automatic = "report"         // multipart/report (RFC 6522), empty return path
	AutoReply    Automatic = "auto-reply"     // Auto-Submitted: auto-replied (RFC 3834)
	Generated    Automatic = "generated"      // any other Auto-Submitted
	MeetingReply Automatic = "meeting-answer" // iTIP METHOD:REPLY (RFC 5546)
	List         Automatic = "list"           // List-Id (RFC 2919), List-Unsubscribe (RFC 2369)
	Bulk         Automatic = "bulk"           // Precedence: bulk, list or junk
)

// Is tells whether a machine sent the letter.
func (a Automatic) Is() bool { return a != Personal }

// Recipients are all addresses in To, Cc and Bcc, each once.
func (l Letter) Recipients() []Address {
	seen := map[string]bool{}
	var out []Address
	for _, list := range [][]Address{l.To, l.Cc, l.Bcc} {
		for _, a := range list {
			if !seen[a.Key()] {
				seen[a.Key()] = true
				out = append(out, a)
			}
		}
	}
	return out
}

// ToAlone tells that a letter went to one of the own addresses and to nobody
// else, and by no list.
func ToAlone(to, cc []Address, automatic Automatic, own func(Address) bool) bool {
	return automatic != List && automatic != Bulk && len(to) == 1 && len(cc) == 0 && own(to[0])
}

// JoinsBySubject tells whether the letter may join others by its subject: it
// says that it answers, names nothing that it answers, and a person wrote it.
func (l Letter) JoinsBySubject() bool {
	return len(l.References)+len(l.InReplyTo) == 0 && IsReplySubject(l.Subject) && BareSubject(l.Subject) != "" && !l.Automatic.Is()
}

// Attachments are the parts that a person would open or save.
func (l Letter) Attachments() []Part {
	var out []Part
	for _, p := range l.Parts {
		if !p.Inline {
			out = append(out, p)
		}
	}
	return out
}
