package app

import (
	"context"
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sieve"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// notLooked is said of each rule that comes of a script.
const notLooked = "From a script. It stays off until you have looked at it and kept it."

// ReadScript makes rules of a Sieve script, as one step. They are off until their owner has looked at
// them; what rules can't do is kept with them, line by line.
func (a *App) ReadScript(ctx context.Context, who store.Who, command, script string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: ruleMade}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := sieve.Rules(script)
		if err != nil {
			return Decided{}, work.Invalid("script", "%s", say.Sentence(err))
		}
		all, err := s.Rules()
		switch {
		case err != nil:
			return Decided{}, err
		case len(list) == 0:
			return Decided{}, work.Invalid("script", "No rule could be made of it: nothing is done in it.")
		case len(all)+len(list) > rule.Most:
			return Decided{}, work.Refuse("There can be %d rules at most, with these it would be %d.", rule.Most, len(all)+len(list))
		}
		last, left := 0, 0
		taken := map[string]bool{}
		for _, r := range all {
			last, taken[strings.ToLower(r.Name)] = max(last, r.Position+1), true
		}
		var changes change.List
		for i, r := range list {
			id, err := s.AddRule(s.At)
			if err != nil {
				return Decided{}, err
			}
			name := r.Name
			for n := 2; taken[strings.ToLower(name)]; n++ {
				name = fmt.Sprintf("%s %d", r.Name, n)
			}
			taken[strings.ToLower(name)] = true
			left += len(r.Left)
			kinds.Rule.Alive.Set(&changes, id, false, true)
			kinds.Rule.Name.Set(&changes, id, "", name)
			kinds.Rule.Position.Set(&changes, id, 0, last+i)
			kinds.Rule.Conditions.Set(&changes, id, rule.Conditions{}, r.Conditions)
			kinds.Rule.Steps.Set(&changes, id, []routine.Step{}, append([]routine.Step{}, r.Steps...))
			kinds.Rule.Stop.Set(&changes, id, false, r.Stop)
			kinds.Rule.Off.Set(&changes, id, false, true)
			kinds.Rule.Said.Set(&changes, id, "", strings.Join(append([]string{notLooked}, r.Left...), "\n"))
		}
		s.Title = say.Count(len(list), "rule") + " from a script, off until looked at"
		out := Decided{Entry: s.ID, Title: s.Title}
		if left > 0 {
			out.Left = []string{say.Count(left, "line") + " of it can’t be done by rules; they are named with each."}
		}
		return out, s.Change(changes)
	})
}
