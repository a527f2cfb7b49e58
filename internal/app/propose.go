package app

import (
	"context"
	"encoding/json"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SetWeights changes what the order of follow-ups weighs; nil takes the usual.
func (a *App) SetWeights(ctx context.Context, who store.Who, command string, w *followup.Weights) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "settings", Title: "Changed the order of follow-ups"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		text := ""
		if w != nil {
			if err := w.Check(); err != nil {
				return Decided{}, work.Invalid("weights", "Nothing was changed: %v.", err)
			}
			b, err := json.Marshal(w)
			if err != nil {
				return Decided{}, err
			}
			text = string(b)
		}
		var changes change.List
		kinds.Person.Weights.Set(&changes, p.ID, p.Weights, text)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
