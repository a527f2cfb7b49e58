package autoanswer

import (
	"errors"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Absence is a time in which letters to an account are answered by a note of one's own.
type Absence struct {
	From when.Moment `json:"from"`
	// Back is when one reads letters again; the note ends then.
	Back when.Moment `json:"back"`
	Text string      `json:"text" maxLength:"4000"`
	// Contact fills in “{other contact}”.
	Contact string `json:"contact" maxLength:"200"`
}

// UsualAbsence is the text of a note that nobody has written yet.
const UsualAbsence = "Thank you for your letter. I am away and back on {back}; I read no letters until then.\nIf it can't wait, please turn to {other contact}."

// Check tells what is wrong with a note that is to be sent, for the person.
func (a Absence) Check(now time.Time) error {
	switch {
	case a.From.Precision == when.Open || a.Back.Precision == when.Open:
		return errors.New("an absence needs a beginning and the day on which you are back")
	case !a.Back.UTC.After(a.From.UTC):
		return errors.New("you are back after the absence begins")
	case !a.Back.UTC.After(now):
		return errors.New("that absence is over")
	case strings.TrimSpace(a.Text) == "":
		return errors.New("the note has no text; write what people are to read")
	case strings.Contains(a.Text, "{other contact}") && strings.TrimSpace(a.Contact) == "":
		return errors.New("the note names another contact, but none is given; fill one in, or take it out of the text")
	}
	return nil
}

// On tells whether one is away at a moment.
func (a Absence) On(at time.Time, c when.Calendar) bool {
	return !at.Before(a.From.In(c).UTC) && at.Before(a.Back.In(c).UTC)
}

// Fill is the note as its receiver reads it.
func (a Absence) Fill(now time.Time, c when.Calendar) string {
	back := when.InFull(a.Back.In(c), now, c)
	return strings.NewReplacer("{back}", back, "{other contact}", strings.TrimSpace(a.Contact)).Replace(strings.TrimSpace(a.Text)) + "\n"
}
