package app

import (
	"context"
	"encoding/json"
	"fmt"

	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// PlanBacklog begins to go through what waits for a decision now, so many letters each working day; 0
// ends that.
func (a *App) PlanBacklog(ctx context.Context, who store.Who, command string, share int) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "backlog"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		kept := ""
		s.Title = "No longer going through the backlog over days"
		if share > 0 {
			all, err := s.Backlog("")
			if err != nil {
				return Decided{}, err
			}
			if len(all) == 0 {
				return Decided{}, work.Refuse("Nothing waits for a decision: there is no backlog.")
			}
			before, goes := p.BacklogPlan()
			plan := backlog.Plan{Began: s.At, N: len(all), Share: share}
			if goes { // only the share is another one
				plan.Began, plan.N = before.Began, before.N
			}
			value, err := json.Marshal(plan)
			if err != nil {
				return Decided{}, err
			}
			kept = string(value)
			s.Title = fmt.Sprintf("Going through the backlog: %s, %d a day", say.Count(plan.N, "letter"), share)
		}
		var changes change.List
		kinds.Person.Backlog.Set(&changes, p.ID, p.Backlog, kept)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
