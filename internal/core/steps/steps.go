// Package steps knows how a person goes back and forth through what was done,
// step by step.
package steps

import (
	"strings"

	"ebbe.example/ebbe/internal/core/when"
)

// Step is something that the person did, as the Journal has it.
type Step struct {
	// Kind is what was done, such as "decide:done".
	Kind string
	Day  when.Date
	// Undo and Redo tell that it took something back, or did it once more.
	Undo, Redo bool
}

// families are the kinds of steps that a person takes for one thing, by how
// their names begin.
var families = []struct{ begins, family string }{
	{"decide:", "letters"}, {"mark:", "letters"}, {"ahead:", "letters"}, {"waiting", "letters"}, {"split", "letters"}, {"send", "letters"},
	{"draft", "letters"}, {"receipt", "letters"}, {"join", "letters"}, {"reply", "letters"},
	{"followup", "follow-ups"}, {"reminder", "follow-ups"}, {"stage", "follow-ups"}, {"filter", "follow-ups"}, {"weights", "follow-ups"},
	{"appointment", "calendar"}, {"invitation", "calendar"},
	{"hold", "delivery"}, {"let-in", "delivery"}, {"plan", "delivery"}, {"through", "delivery"}, {"delivery", "delivery"},
}

// Family is what a kind of step belongs to; steps of one family are gone back
// through without a word.
func Family(kind string) string {
	for _, f := range families {
		if strings.HasPrefix(kind, f.begins) {
			return f.family
		}
	}
	return "settings"
}

// Strays tells whether going back once more would reach what the person hardly
// means: something of another day than today, or of another family than last,
// which is what was done or taken back just before.
func Strays(next, last Step, today when.Date) bool {
	return next.Day != today || Family(next.Kind) != Family(last.Kind)
}

// Again finds, among the person's latest steps with the newest first, the undo
// that is to be taken back next; -1 if there is none. Whatever is done anew in
// between ends it.
func Again(latest []Step) int {
	redone := 0
	for i, s := range latest {
		switch {
		case s.Redo:
			redone++
		case s.Undo && redone > 0:
			redone--
		case s.Undo:
			return i
		default:
			return -1
		}
	}
	return -1
}
