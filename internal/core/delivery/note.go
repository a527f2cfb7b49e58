package delivery

import (
	"errors"
	"strings"
	"time"
)

// Note is the holding note: what people are told whose letters wait.
type Note struct {
	Text string `json:"text" maxLength:"4000"`
	// Contact fills in “{other contact}”.
	Contact string `json:"contact" maxLength:"200"`
	// Causes says for which causes it is sent; off for none.
	Causes []Cause `json:"causes" nullable:"false" enum:"hold,closed,quiet,between"`
	// Days is for how long a person gets no second one.
	Days int `json:"days" minimum:"1" maximum:"60"`
}

// UsualNote is what a new person starts with; it is off.
var UsualNote = Note{
	Text:   "Thank you for your letter. I read my letters at set times, next {next round}.\nIf it can't wait, please turn to {other contact}.",
	Causes: []Cause{}, Days: 1,
}

// The places that a note fills in.
const (
	nextRound    = "{next round}"
	otherContact = "{other contact}"
)

// Check tells what is wrong with a note that is to be sent, for the person.
func (n Note) Check() error {
	if len(n.Causes) == 0 {
		return nil
	}
	if strings.TrimSpace(n.Text) == "" {
		return errors.New("the note has no text; write what people are to read, or switch it off")
	}
	if strings.Contains(n.Text, otherContact) && strings.TrimSpace(n.Contact) == "" {
		return errors.New("the note names another contact, but none is given; fill one in, or take it out of the text")
	}
	for _, c := range n.Causes {
		switch c {
		case Held, Closed, Quiet, Between:
		default:
			return errors.New("a note is sent for a hold, a closed block, quiet hours or between rounds")
		}
	}
	if n.Days < 1 || n.Days > 60 {
		return errors.New("a person gets one at most every 1 to 60 days")
	}
	return nil
}

// Period is for how long a person gets no second one.
func (n Note) Period() time.Duration { return time.Duration(n.Days) * 24 * time.Hour }

// Fill is the note as its receiver reads it. next is in words, "" if it is not
// known.
func (n Note) Fill(next string) string {
	if next == "" {
		next = "as soon as I can"
	}
	return strings.NewReplacer(nextRound, next, otherContact, strings.TrimSpace(n.Contact)).Replace(strings.TrimSpace(n.Text))
}
