package demo

import (
	"fmt"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/when"
)

// rules are those that she has made, how many working days ago, and how many ago she turned them off;
// 0 for never.
var rules = []struct {
	name       string
	ago, off   int
	conditions rule.Conditions
	steps      []routine.Step
	until      string
}{
	{"Parcels on their way", 12, 0, rule.Conditions{All: []rule.Condition{{Of: rule.From, Is: "track@norrpost.example"}}}, []routine.Step{{Do: routine.Label, Text: "parcels"}}, ""},
	{"Winter programme", 6, 0, rule.Conditions{
		All: []rule.Condition{{Of: rule.Domain, Is: "kestrelprint.example"}}, None: []rule.Condition{{Of: rule.Subject, Is: "invoice"}},
	}, []routine.Step{{Do: routine.Label, Text: "programme"}}, "18 dec"},
	{"Talks of the plant society", 9, 7, rule.Conditions{
		All: []rule.Condition{{Of: rule.List, Is: "list.bergflora.example"}}, Any: []rule.Condition{{Of: rule.Subject, Is: "talk"}, {Of: rule.Subject, Is: "evening"}},
	}, []routine.Step{{Do: routine.Label, Text: "to read"}, {Do: routine.Decide, Decision: decide.PutOff, When: "fri 15:00"}}, ""},
}

// makeRules makes and turns off what she has of rules at the end of a working day.
func (w *world) makeRules(d when.Date) error {
	for i, r := range rules {
		if d == w.workday(r.ago) {
			f := app.RuleFields{Name: &r.name, Conditions: &r.conditions, Steps: &r.steps, Until: &r.until}
			made, err := w.app.NewRule(w.ctx, w.who, w.command(), f)
			if err != nil {
				return fmt.Errorf("%q: %w", r.name, err)
			}
			w.ruleIDs[i] = made.ID
		}
		if r.off != 0 && d == w.workday(r.off) {
			off := true
			if _, err := w.app.EditRule(w.ctx, w.who, w.command(), w.ruleIDs[i], app.RuleFields{Off: &off}); err != nil {
				return fmt.Errorf("%q: %w", r.name, err)
			}
		}
	}
	return nil
}
