package app

import (
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
)

// What an undo has to leave is named thing by thing, by its title and in
// people's words, in the order in which the step touched them.

// namedLeft is how many things are named one by one.
const namedLeft = 8

// sinceWords say what was done since to a field; "" where another field of the
// same object says it better.
var sinceWords = map[string]map[string]string{
	"conversation": {
		"place": "moved since", "return": "put off otherwise since", "star": "starred or unstarred since", "priority": "given another priority since",
		"note": "its note was changed since", "workingTitle": "renamed since", "redirect": "joined or parted since", "apart": "", "back": "", "putOffs": "", "decided": "", "quiet": "quieted or not since",
	},
	"followup": {
		"title": "renamed since", "notes": "its notes were changed since", "due": "its due was changed since", "start": "its start was changed since",
		"status": "its status was changed since", "priority": "given another priority since", "estimate": "estimated otherwise since", "project": "moved to another project since",
		"context": "given another context since", "stage": "moved to another stage since", "assignee": "given to somebody else since", "recurs": "its recurrence was changed since",
		"checklist": "its checklist was changed since", "alive": "taken away or back since",
	},
	"appointment": {"start": "moved since", "end": "moved since", "reply": "answered otherwise since", "attendees": "its attendees were changed since", "cancelled": "called off or not since"},
	"reminder":    {"state": "rung or changed since", "moment": "moved since"},
	"expectation": {"state": "answered or dropped since", "until": "its limit was changed since", "late": "its limit has passed since", "answered": "answered in part since"},
	"account":     {"name": "renamed since", "label": "renamed since", "signature": "its signature was changed since", "planId": "given another plan since"},
	"hold":        {"endedAt": "ended since", "alive": "ended since"},
	"person":      {"planId": "another plan was put in force since"},
	"outbox":      {"state": "The letter has gone."},
	"draft":       {"alive": ""},
}

// since is what was done since to a field, in words.
func since(kind, field string) string {
	if label, ok := strings.CutPrefix(field, "label:"); ok {
		return "the label “" + label + "” was changed since"
	}
	if words, ok := sinceWords[kind][field]; ok {
		return words
	}
	return "changed since"
}

// objectWords are what objects are called that have no title.
var objectWords = map[string]string{
	"person": "Your settings", "hold": "A hold", "reminder": "A reminder", "expectation": "A waiting", "through": "An entry of the let-through list",
	"letter": "A letter", "sender": "A sender", "spot": "A place", "stage": "A stage", "filter": "A filter", "account": "An account", "draft": "A draft",
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
		add(k.Object, since(k.Kind, k.Field))
	}
	for _, o := range gone {
		add(o, "gone for good since")
	}
	var out []string
	more := 0
	for _, o := range order {
		what := strings.Join(words[o], ", ")
		switch {
		case o.Kind == "draft":
			continue // it goes with its letter
		case o.Kind == "outbox":
			out = append(out, what)
			continue
		case what == "" && o.Kind == "conversation":
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
			name = "“" + shorten(title, 60) + "”"
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
