// Package autoanswer holds the rules of answers that are sent without being
// written one by one: whom they may go to, and what they look like (RFC 3834).
package autoanswer

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Period is how long nobody gets a second one.
const Period = 7 * 24 * time.Hour

// Asked is a letter that would be answered, with what decides whether it may.
type Asked struct {
	Letter letter.Letter
	// Own are the keys of the person's own addresses.
	Own []string
	// Junk tells that its conversation is junk.
	Junk bool
	// Last is when the sender last got an automatic answer; zero if never.
	Last, Now time.Time
	// Period is how long nobody gets a second one; 0 for the usual Period.
	Period time.Duration
}

// Refuse says why the letter gets no automatic answer, for the person; "" if
// it may have one. RFC 3834, section 2.
func Refuse(a Asked) string {
	period := cmp.Or(a.Period, Period)
	own := func(x letter.Address) bool { return slices.Contains(a.Own, x.Key()) }
	switch {
	case a.Letter.From.Email == "" || strings.Contains(a.Letter.From.Email, "\n"):
		return "nobody is named as its sender"
	case own(a.Letter.From):
		return "it is your own letter"
	case a.Letter.Automatic.Is():
		return "a machine or a list sent it"
	case a.Junk:
		return "it is junk"
	case unanswering(To(a.Letter).Email) || unanswering(a.Letter.From.Email):
		return "its sender takes no answers"
	case !slices.ContainsFunc(a.Letter.Recipients(), own):
		return "it was not addressed to you"
	case !a.Last.IsZero() && a.Now.Sub(a.Last) < period:
		if period == Period {
			return "they had one within the last week"
		}
		return "they had one lately"
	}
	return ""
}

// unanswering are the addresses from which machines write: an answer to one
// goes to nobody, or round in circles.
func unanswering(email string) bool {
	local, _, _ := strings.Cut(strings.ToLower(email), "@")
	for _, name := range []string{"mailer-daemon", "postmaster", "majordomo", "listserv", "no-reply", "noreply", "donotreply", "do-not-reply", "bounce", "bounces"} {
		if local == name {
			return true
		}
	}
	return strings.HasPrefix(local, "owner-") || strings.HasSuffix(local, "-request") || strings.HasSuffix(local, "-bounces") || strings.HasPrefix(local, "bounce-") || strings.HasPrefix(local, "bounces+")
}

// To is where the answer goes: the return path, or the sender where none is
// known. RFC 3834, section 4.
func To(l letter.Letter) letter.Address {
	if l.ReturnPath != "" {
		return letter.Address{Name: l.From.Name, Email: l.ReturnPath}
	}
	return l.From
}

// Make writes the answer, marked so that no machine answers it in turn. RFC
// 3834, section 3.1. Its envelope is to name no sender.
func Make(l letter.Letter, from letter.Address, text, messageID string, at time.Time) letter.Outgoing {
	return letter.Outgoing{
		MessageID: messageID, From: from, To: []letter.Address{To(l)}, Subject: "Auto: " + l.Subject, Date: at, Text: text,
		InReplyTo: l.MessageID, References: letter.Chain(l), AutoSubmitted: "auto-replied",
	}
}

// PutOff is the proposed text that tells a sender when to expect an answer.
// name is the sender's first name, "" if it is not known or there are several.
func PutOff(name, subject string, day time.Time, me string) string {
	greeting := "Hello,"
	if name != "" {
		greeting = "Dear " + name + ","
	}
	about := "your letter has reached me"
	if subject != "" {
		about = "your letter “" + subject + "” has reached me"
	}
	return fmt.Sprintf("%s\n\n%s. I can't see to it at once; you can expect my answer on %s.\n\n%s\n", greeting, about, day.Format("Monday 2 January"), me)
}
