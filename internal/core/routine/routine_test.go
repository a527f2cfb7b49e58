package routine_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
)

func TestWhatIsWrongWithSteps(t *testing.T) {
	done := routine.Step{Do: routine.Decide, Decision: decide.Done}
	for _, c := range []struct {
		wrong string
		steps []routine.Step
	}{
		{"", []routine.Step{{Do: routine.Star}}},
		{"", []routine.Step{{Do: routine.Label, Text: "loans"}, {Do: routine.Flag, When: "fri"}, {Do: routine.FollowUp, Priority: "high"}, done}},
		{"", []routine.Step{{Do: routine.Decide, Decision: decide.HandOn, To: "tove@norrholm.example"}}},
		{"a routine needs a step", nil},
		{"a routine has at most 20 steps", make([]routine.Step, 21)},
		{"step 1: there can be one decision only", []routine.Step{done, done}},
		{"step 1: the decision comes last", []routine.Step{done, {Do: routine.Star}}},
		{"step 2: there is no such step “dance”", []routine.Step{{Do: routine.Star}, {Do: "dance"}}},
		{"step 1: a label needs a name", []routine.Step{{Do: routine.Label, Text: "  "}}},
		{"step 1: the label is too long", []routine.Step{{Do: routine.Decide, Decision: decide.File, Text: strings.Repeat("x", 61)}}},
		{"step 1: a note needs a text", []routine.Step{{Do: routine.Note}}},
		{"step 1: its text is longer than 500 characters", []routine.Step{{Do: routine.Note, Text: strings.Repeat("ø", 501)}}},
		{"step 1: there is no priority “soon”", []routine.Step{{Do: routine.FollowUp, Priority: "soon"}}},
		{"step 1: an appointment needs a time", []routine.Step{{Do: routine.Appointment}}},
		{"step 1: to put off it needs a time", []routine.Step{{Do: routine.Decide, Decision: decide.PutOff}}},
		{"step 1: to hand on it needs a group or an address", []routine.Step{{Do: routine.Decide, Decision: decide.HandOn}}},
		{"", []routine.Step{{Do: routine.Decide, Decision: decide.HandOn, Group: 4}}},
		{"", []routine.Step{{Do: routine.Write, Group: 4, To: `"Berg, Tove" <tove@norrholm.example>; nils@norrholm.example`, Template: 7, Send: true}, done}},
		{"", []routine.Step{done}},
		{"step 2: to write it needs a group or an address", []routine.Step{{Do: routine.Star}, {Do: routine.Write, To: " "}}},
		{"step 1: “tove” is not an address", []routine.Step{{Do: routine.Write, To: "tove"}}},
		{"step 1: there can be one letter only that is opened", []routine.Step{{Do: routine.Write, Group: 4}, {Do: routine.Decide, Decision: decide.Answer}}},
		{"step 1: there can be one letter only that is opened", []routine.Step{{Do: routine.Write, Group: 4}, {Do: routine.Write, Group: 5}, done}},
		{"", []routine.Step{{Do: routine.Decide, Decision: decide.Answer, Template: 7, Send: true}}},
		{"step 1: only an answer, what is handed on or a new letter, with a template, can be sent at once", []routine.Step{{Do: routine.Decide, Decision: decide.Answer, Send: true}}},
		{"step 1: only an answer, what is handed on or a new letter, with a template, can be sent at once", []routine.Step{{Do: routine.Star, Template: 7, Send: true}}},
		{"step 1: there is no decision “junk”", []routine.Step{{Do: routine.Decide, Decision: decide.ToJunk}}},
		{"step 1: a follow-up is a step of its own, before the decision", []routine.Step{{Do: routine.Decide, Decision: decide.FollowUp}}},
	} {
		err := routine.Check(c.steps)
		if c.wrong == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, c.wrong)
		}
	}
	for key, right := range map[string]bool{"": true, "8": true, "å": true, "ab": false, "?": false, " ": false, "\xff": false} {
		assert.Equal(t, right, routine.CheckKey(key) == nil, "%q", key)
	}
}

// What only rules do is no step of a routine, and rules send nothing that nobody has looked at.
func TestWhatRulesDoBeside(t *testing.T) {
	for wrong, s := range map[string]routine.Step{
		"":                                       {Do: routine.Decide, Decision: decide.ToJunk},
		"a rule needs a step":                    {},
		"step 1: to forward it needs an address": {Do: routine.Forward},
		"step 1: a rule writes no new letters; it can forward what came":         {Do: routine.Write, Group: 4, Template: 7, Send: true},
		"step 1: an automatic answer needs a template":                           {Do: routine.AutoAnswer},
		"step 1: there is no kind “person”":                                      {Do: routine.SortOut, Text: "person"},
		"step 1: a rule writes a draft; it can’t send what nobody has looked at": {Do: routine.Decide, Decision: decide.Answer, Template: 7, Send: true},
	} {
		steps := []routine.Step{s}
		if s.Do == "" {
			steps = nil
		}
		err := routine.CheckRule(steps)
		if wrong == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, wrong)
		}
		assert.Equal(t, s.Send, routine.Check(steps) == nil, "of a routine")
	}
}

func TestWhatARoutineWouldDo(t *testing.T) {
	about := routine.About{
		Speak: func(p string) (string, error) {
			if p == "??" {
				return "", errors.New("nothing is understood")
			}
			return "the " + p, nil
		},
		Action: "Send the list", Title: "The list", Template: func(id int64) string { return map[int64]string{7: "Thanks"}[id] }, Group: func(id int64) string { return map[int64]string{4: "Board"}[id] }, Labelled: []string{"loans"}, Starred: true,
	}
	for _, c := range []struct {
		step           routine.Step
		words, trouble string
	}{
		{routine.Step{Do: routine.Label, Text: "loans"}, "", ""}, // it has it
		{routine.Step{Do: routine.Label, Text: "ferns"}, "label ferns", ""},
		{routine.Step{Do: routine.Star}, "", ""},
		{routine.Step{Do: routine.Flag}, "flag", ""},
		{routine.Step{Do: routine.Flag, When: "fri"}, "flag the fri", ""},
		{routine.Step{Do: routine.Note, Text: "x"}, "note", ""},
		{routine.Step{Do: routine.FollowUp, When: "3 days"}, "follow up “Send the list” the 3 days", ""},
		{routine.Step{Do: routine.FollowUp, Text: "Ring Bram"}, "follow up “Ring Bram”", ""},
		{routine.Step{Do: routine.FollowUp, Text: "Ring Bram", Priority: "high", When: "fri"}, "follow up “Ring Bram” (high) the fri", ""},
		{routine.Step{Do: routine.Appointment, When: "fri 10"}, "appointment “The list” the fri 10", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.Done}, "done", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.PutOff, When: "mon"}, "later until the mon", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.PutOff, When: "??"}, "??", "“??” is no time: nothing is understood"},
		{routine.Step{Do: routine.Decide, Decision: decide.File, Text: "loans"}, "file under loans", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.Answer, Template: 7}, "answer with “Thanks”", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.Answer, Template: 8}, "answer", "its template is gone"},
		{routine.Step{Do: routine.Decide, Decision: decide.HandOn, To: "tove@norrholm.example"}, "hand on to tove@norrholm.example", ""},
		{routine.Step{Do: routine.Decide, Decision: decide.HandOn, Group: 5}, "hand on", "its group is gone"},
		{routine.Step{Do: routine.Write, Group: 4, To: "tove@norrholm.example", Template: 7, Send: true}, "write to “Board” and tove@norrholm.example with “Thanks”, sent", ""},
		{routine.Step{Do: routine.Write, Group: 5}, "write", "its group is gone"},
	} {
		words, err := routine.InWords([]routine.Step{c.step}, about)
		assert.Equal(t, c.words, words)
		if c.trouble == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, c.trouble)
		}
	}
}

func TestWhomARoutineWritesTo(t *testing.T) {
	s := routine.Step{Do: routine.Write, Group: 4, To: `nils@norrholm.example, "Berg, Tove" <TOVE@norrholm.example>`}
	assert.Equal(t, []string{"Tove <tove@norrholm.example>", "nils@norrholm.example"}, s.Receivers([]string{"Tove <tove@norrholm.example>"}))
	assert.Empty(t, routine.Step{Do: routine.Decide, Decision: decide.Answer}.Receivers(nil))
	opening, opens := routine.Opening([]routine.Step{{Do: routine.Star}, s, {Do: routine.Decide, Decision: decide.Done}})
	assert.True(t, opens)
	assert.Equal(t, s, opening)
	_, opens = routine.Opening([]routine.Step{{Do: routine.Star}})
	assert.False(t, opens)
}

func TestARoutineOfWhatWasDone(t *testing.T) {
	const id = 4
	set := func(field string, now any) change.Recorded {
		return change.Recorded{Change: change.Change{Object: decide.Conversation.Of(id), Field: field, Now: change.Value(now)}}
	}
	of := func(kind string, changes ...change.Recorded) routine.Taken {
		return routine.Taken{Kind: kind, Changes: changes}
	}
	other := change.Recorded{Change: change.Change{Object: decide.Conversation.Of(5), Field: "label:x", Now: change.Value(true)}}
	got := routine.From(id, []routine.Taken{
		of("mark:label", set("label:loans", true), other), of("mark:label", set("label:old", false)), of("mark:star", set("star", true)), of("mark:flag"), of("note", set("note", "Measure again.")),
		of("decide:done", set("place", "archive")), of("decide:file", set("label:papers", true), set("place", "archive")),
	})
	assert.Equal(t, []routine.Step{
		{Do: routine.Label, Text: "loans"}, {Do: routine.Star}, {Do: routine.Flag}, {Do: routine.Note, Text: "Measure again."}, {Do: routine.Decide, Decision: decide.File, Text: "papers"},
	}, got)
	assert.NoError(t, routine.Check(got))
	assert.Equal(t, []routine.Step{{Do: routine.FollowUp}, {Do: routine.Decide, Decision: decide.Done}}, routine.From(id, []routine.Taken{of("decide:follow-up")}))
	assert.Empty(t, routine.From(id, []routine.Taken{of("sort"), of("decide:hand-on")}))
}
