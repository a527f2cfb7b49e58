package app

import (
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
)

// What an undo has to leave is named thing by thing, by its title and in
// people's words, in the order in which the step touched them.

// namedLeft is how many things are named one by one.
const namedLeft = 8

// sinceWords say what was done since to a field; "" where another field of the
// same object says it better.
var sinceWords = map[change.Named]string{
	decide.Conversation.Place.Named:        "moved since",
	decide.Conversation.Return.Named:       "put off otherwise since",
	decide.Conversation.Star.Named:         "starred or unstarred since",
	decide.Conversation.Priority.Named:     "given another priority since",
	decide.Conversation.Note.Named:         "its note was changed since",
	decide.Conversation.WorkingTitle.Named: "renamed since",
	decide.Conversation.Redirect.Named:     "joined or parted since",
	decide.Conversation.Apart.Named:        "",
	decide.Conversation.Back.Named:         "",
	decide.Conversation.PutOffs.Named:      "",
	decide.Conversation.Decided.Named:      "",
	decide.Conversation.Quiet.Named:        "quieted or not since",
	kinds.FollowUp.Title.Named:             "renamed since",
	kinds.FollowUp.Notes.Named:             "its notes were changed since",
	kinds.FollowUp.Due.Named:               "its due was changed since",
	kinds.FollowUp.Start.Named:             "its start was changed since",
	kinds.FollowUp.Status.Named:            "its status was changed since",
	kinds.FollowUp.Priority.Named:          "given another priority since",
	kinds.FollowUp.Estimate.Named:          "estimated otherwise since",
	kinds.FollowUp.Project.Named:           "moved to another project since",
	kinds.FollowUp.Context.Named:           "given another context since",
	kinds.FollowUp.Stage.Named:             "moved to another stage since",
	kinds.FollowUp.Assignee.Named:          "given to somebody else since",
	kinds.FollowUp.Recurs.Named:            "its recurrence was changed since",
	kinds.FollowUp.Checklist.Named:         "its checklist was changed since",
	kinds.FollowUp.Alive.Named:             "taken away or back since",
	kinds.Appointment.Start.Named:          "moved since",
	kinds.Appointment.End.Named:            "moved since",
	kinds.Appointment.Reply.Named:          "answered otherwise since",
	kinds.Appointment.Attendees.Named:      "its attendees were changed since",
	kinds.Appointment.Cancelled.Named:      "called off or not since",
	kinds.Reminder.State.Named:             "rung or changed since",
	kinds.Reminder.Moment.Named:            "moved since",
	kinds.Expectation.State.Named:          "answered or dropped since",
	kinds.Expectation.Until.Named:          "its limit was changed since",
	kinds.Expectation.Late.Named:           "its limit has passed since",
	kinds.Expectation.Answered.Named:       "answered in part since",
	kinds.Account.Name.Named:               "renamed since",
	kinds.Account.Label.Named:              "renamed since",
	kinds.Account.Signature.Named:          "its signature was changed since",
	kinds.Account.PlanID.Named:             "given another plan since",
	kinds.Hold.EndedAt.Named:               "ended since",
	kinds.Hold.Alive.Named:                 "ended since",
	kinds.Person.PlanID.Named:              "another plan was put in force since",
	kinds.Outbox.State.Named:               "The letter has gone.",
	kinds.Draft.Alive.Named:                "",
}

// since is what was done since to a field, in words.
func since(c change.Change) string {
	if label, ok := decide.Conversation.Labels.NameIn(c); ok {
		return "the label “" + label + "” was changed since"
	}
	if field, ok := change.FieldOf(c); ok {
		if words, ok := sinceWords[field]; ok {
			return words
		}
	}
	return "changed since"
}

// objectWords are what objects are called that have no title.
var objectWords = map[change.Kind]string{
	kinds.Person.Kind: "Your settings", kinds.Hold.Kind: "A hold", kinds.Reminder.Kind: "A reminder", kinds.Expectation.Kind: "A waiting",
	kinds.Through.Kind: "An entry of the let-through list", kinds.Letter.Kind: "A letter", kinds.Sender.Kind: "A sender", kinds.Spot.Kind: "A place",
	kinds.Stage.Kind: "A stage", kinds.Filter.Kind: "A filter", kinds.Search.Kind: "A search", kinds.Label.Kind: "A label", kinds.Account.Kind: "An account", kinds.Correction.Kind: "A correction", kinds.Draft.Kind: "A draft", kinds.Contact.Kind: "Somebody", kinds.Sitting.Kind: "A sitting", decide.Conversation.Kind: "A conversation",
}

// leftInWords names what stays because it was changed since, and gone, what is
// no longer there.
func (s *step) leftInWords(kept []change.Recorded, gone []change.Object) []string {
	var order []change.Object
	words := map[change.Object][]string{}
	add := func(o change.Object, what string) {
		if _, ok := words[o]; !ok {
			order = append(order, o)
			words[o] = []string{}
		}
		if what != "" && !slices.Contains(words[o], what) {
			words[o] = append(words[o], what)
		}
	}
	for _, k := range slices.Backward(kept) { // they were found from the last on
		add(k.Object, since(k.Change))
	}
	for _, o := range gone {
		add(o, "gone for good since")
	}
	var out []string
	more := 0
	for _, o := range order {
		what := strings.Join(words[o], ", ")
		switch {
		case o.Kind == kinds.Draft.Kind:
			continue // it goes with its letter
		case o.Kind == kinds.Outbox.Kind:
			out = append(out, what)
			continue
		case what == "" && o.Kind == decide.Conversation.Kind:
			what = "decided on since"
		case what == "":
			continue
		}
		if len(out) >= namedLeft {
			more++
			continue
		}
		name := objectWords[o.Kind]
		if title := s.TitleOf(o); title != "" {
			name = "“" + say.Shorten(title, 60) + "”"
		}
		if name == "" {
			name = "Something"
		}
		out = append(out, "Left as it is: "+name+", "+what+".")
	}
	if more > 0 {
		out = append(out, fmt.Sprintf("Left as they are: %d more.", more))
	}
	return out
}
