package app

import (
	"context"
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// TakeFit moves follow-ups as was proposed, as one step.
func (a *App) TakeFit(ctx context.Context, who store.Who, command string, moves []FitMove) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		n := 0
		var changes change.List
		for _, m := range moves {
			f, err := s.FollowUp(m.ID)
			if err != nil || !f.Alive || f.Status.Closed() {
				continue // done meanwhile
			}
			due, err := s.read(m.To)
			if err != nil {
				return Decided{}, err
			}
			if err := s.setDue(&changes, f, due); err != nil {
				return Decided{}, err
			}
			n++
		}
		s.Title = fmt.Sprintf("Made today fit: moved %d follow-ups", n)
		if n == 0 {
			return Decided{}, work.Refuse("There is nothing left to move.")
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// FitMove is one move that is taken.
type FitMove struct {
	ID int64  `json:"id"`
	To string `json:"to" maxLength:"200"`
}
