package routine

import (
	"encoding/json"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
)

// Taken is a step of the Journal that somebody took on a letter: of what kind, and what it changed.
type Taken struct {
	Kind    string
	Changes []change.Recorded
}

// From makes the steps of a routine of what was just done with a conversation, in that order. What
// was done first is left out where a later decision stands for it; what no step does is left out, too.
func From(conversation int64, taken []Taken) []Step {
	var marks []Step
	var decision *Step
	for _, t := range taken {
		kind, isDecision := strings.CutPrefix(t.Kind, "decide:")
		made := t.marks(conversation, isDecision && kind == string(decide.File))
		marks = append(marks, made...)
		if isDecision {
			if d, ok := t.decision(conversation, decide.Kind(kind)); ok {
				decision = &d
			}
			if decide.Kind(kind) == decide.FollowUp {
				marks = append(marks, Step{Do: FollowUp})
				decision = &Step{Do: Decide, Decision: decide.Done}
			}
		}
	}
	if decision != nil {
		marks = append(marks, *decision)
	}
	return marks
}

// marks are the steps that mark a conversation as it was marked; the label of what was filed is part
// of the decision.
func (t Taken) marks(conversation int64, filed bool) (out []Step) {
	if t.Kind == "mark:flag" {
		return []Step{{Do: Flag}}
	}
	if t.Kind == "appointment" {
		return nil // it was of one day; a routine needs a phrase
	}
	if t.Kind == "followup:new" {
		return []Step{{Do: FollowUp}}
	}
	for _, c := range t.Changes {
		if c.Object != decide.Conversation.Of(conversation) || string(c.Now) == "false" {
			continue
		}
		if label, ok := decide.Conversation.Labels.NameIn(c.Change); ok && !filed {
			out = append(out, Step{Do: Label, Text: label})
		}
		if c.Field == decide.Conversation.Star.Name {
			out = append(out, Step{Do: Star})
		}
		if c.Field == decide.Conversation.Note.Name {
			var note string
			if json.Unmarshal(c.Now, &note) == nil && note != "" {
				out = append(out, Step{Do: Note, Text: note})
			}
		}
	}
	return out
}

// decision is the decision as a step; ok is false where it can't be one.
func (t Taken) decision(conversation int64, kind decide.Kind) (s Step, ok bool) {
	s = Step{Do: Decide, Decision: kind}
	for _, c := range t.Changes {
		if c.Object != decide.Conversation.Of(conversation) {
			continue
		}
		if label, is := decide.Conversation.Labels.NameIn(c.Change); is && kind == decide.File && string(c.Now) == "true" {
			s.Text = label
		}
		if c.Field == decide.Conversation.Return.Name && kind == decide.PutOff {
			var r *decide.Return
			if json.Unmarshal(c.Now, &r) == nil && r != nil {
				s.When = r.When.Phrase
			}
		}
	}
	return s, s.checkDecision() == nil
}
