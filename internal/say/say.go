// Package say puts things into words for people: until when, how many, what it
// is about.
package say

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

// Shorten cuts a text after so many characters.
func Shorten(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

// Sentence is an error as a sentence for the person.
func Sentence(err error) string { return strings.TrimSuffix(letter.Capital(err.Error()), ".") + "." }

// NextInWords is the next delivery as a stranger reads it.
func NextInWords(next time.Time, c when.Calendar) string {
	if next.IsZero() {
		return ""
	}
	return next.In(c.Zone).Format("on Monday 2 January at 15:04")
}

// Until puts a time and a condition into words: "until Fri 27 Nov, 14:00",
// "until they answer".
func Until(words string, timed bool, on when.Condition, spot, who string) string {
	switch on {
	case when.IfAnswered:
		return "until " + cmp.Or(who, "they") + map[bool]string{true: " answer", false: " answers"}[who == ""]
	case when.IfSilent:
		return "until " + words + " unless " + cmp.Or(who, "somebody") + " answers"
	case when.AtSpot:
		if timed {
			return "until you are at " + spot + ", or " + words
		}
		return "until you are at " + spot
	case when.Always:
	}
	return "until " + words
}

// RecursInWords says how an appointment recurs; "" if it does not.
func RecursInWords(s *meeting.Series) string {
	if s == nil {
		return ""
	}
	if len(s.Rules) == 0 {
		return "on several days"
	}
	return followup.Recurrence{Rule: s.Rules[0]}.String()
}

// Count says how many of something there are: “1 letter”, “2 letters”.
func Count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// TrimClock is a time in words without the clock time that ends it.
func TrimClock(words string) string {
	words = words[:len(words)-len("15:04")]
	for len(words) > 0 && (words[len(words)-1] == ' ' || words[len(words)-1] == ',') {
		words = words[:len(words)-1]
	}
	return words
}

// BackBriefly says why something came back in the row, beneath a head that says
// that it did.
func BackBriefly(b decide.Back) string {
	switch b.Reason {
	case decide.BackAnswer:
		return "answered"
	case decide.BackNoAnswer:
		return "no answer"
	case decide.BackFailed:
		return "not delivered"
	case decide.BackLook:
		return "someday"
	case decide.BackDue:
		return "due"
	case decide.BackSpot:
		return "you are there"
	case decide.BackNoSpot:
		return "place is gone"
	case decide.BackTime, decide.BackFetched, decide.BackNew:
	}
	if b.Times > 1 {
		return fmt.Sprintf("%d× put off", b.Times)
	}
	return ""
}

// AnswersInWords says how those invited have answered; empty where nobody was.
func AnswersInWords(e meeting.Event) string {
	if len(e.Attendees) == 0 {
		return ""
	}
	n := e.Count()
	var parts []string
	for _, r := range []meeting.Reply{meeting.Accepted, meeting.Tentative, meeting.Declined} {
		if n[r] > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n[r], r))
		}
	}
	if n[meeting.NoReply] > 0 {
		parts = append(parts, fmt.Sprintf("%d not yet", n[meeting.NoReply]))
	}
	return strings.Join(parts, ", ")
}

// ReplySubject is the subject of an answer to something of that title.
func ReplySubject(title string) string {
	if letter.IsReplySubject(title) {
		return title
	}
	return "Re: " + title
}

// Length says how long something took or takes, shortly: “38 s”, “12 min”, “2 h 10”, “3 d”. What is
// under a second is “0 s”.
func Length(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s", int(d.Seconds()))
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	case d < 10*time.Hour && int(d.Minutes())%60 > 0:
		return fmt.Sprintf("%d h %02d", int(d.Hours()), int(d.Minutes())%60)
	case d < 48*time.Hour:
		return fmt.Sprintf("%d h", int(d.Hours()))
	}
	return fmt.Sprintf("%d d", int(d.Hours())/24)
}
