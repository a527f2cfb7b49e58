package steps_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/steps"
	"ebbe.example/ebbe/internal/core/when"
)

var (
	today     = when.Date{Year: 2026, Month: 11, Day: 24}
	yesterday = today.Add(-1)
)

func TestStrays(t *testing.T) {
	at := func(kind string, day when.Date) steps.Step { return steps.Step{Kind: kind, Day: day} }
	for name, c := range map[string]struct {
		next, last steps.Step
		strays     bool
	}{
		"the decision just taken":      {at("decide:done", today), at("decide:done", today), false},
		"a star before a decision":     {at("mark:star", today), at("decide:bin", today), false},
		"settings behind a decision":   {at("settings", today), at("decide:bin", today), true},
		"a setting behind another":     {at("account", today), at("settings", today), false},
		"a hold behind a decision":     {at("hold", today), at("decide:bin", today), true},
		"a decision of yesterday":      {at("decide:done", yesterday), at("decide:done", today), true},
		"a follow-up behind a letter":  {at("followup:edit", today), at("mark:flag", today), true},
		"what nobody has a family for": {at("something", today), at("settings", today), false},
	} {
		assert.Equal(t, c.strays, steps.Strays(c.next, c.last, today), name)
	}
}

func TestAgain(t *testing.T) {
	did, undid, redid := steps.Step{Kind: "decide:done"}, steps.Step{Undo: true}, steps.Step{Redo: true}
	for name, c := range map[string]struct {
		latest []steps.Step
		at     int
	}{
		"nothing":                     {nil, -1},
		"nothing was taken back":      {[]steps.Step{did, did}, -1},
		"one was":                     {[]steps.Step{undid, did}, 0},
		"two were, one is done again": {[]steps.Step{redid, undid, undid, did, did}, 2},
		"both are done again":         {[]steps.Step{redid, redid, undid, undid, did, did}, -1},
		"something new was done":      {[]steps.Step{did, undid, did}, -1},
		"taken back once more":        {[]steps.Step{undid, redid, undid, did}, 0},
	} {
		assert.Equal(t, c.at, steps.Again(c.latest), name)
	}
}
