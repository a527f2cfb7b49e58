package app

import (
	"context"
	"encoding/json"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SetNotifications changes what may interrupt.
func (a *App) SetNotifications(ctx context.Context, who store.Who, command string, n show.Notifications) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "notices", Title: "Notifications changed"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		value, err := json.Marshal(n)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Person.Notifications.Set(&changes, p.ID, p.Notifications, string(value))
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
