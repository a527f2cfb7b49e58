package show

import (
	"context"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// Beginning is how far somebody is who has just begun.
type Beginning struct {
	// Letters tells that there are any.
	Letters   bool `json:"letters"`
	Undecided int  `json:"undecided" doc:"How many are in the inbox"`
	Decided   bool `json:"decided" doc:"Something was decided"`
	Planned   bool `json:"planned" doc:"A plan of delivery is in force"`
	Connected bool `json:"connected" doc:"An account is connected with its mail server"`
	MadeUp    bool `json:"madeUp" doc:"The small made-up world is here"`
}

// Beginning tells how far somebody is who has just begun.
func (a *Show) Beginning(ctx context.Context, who store.Who) (Beginning, error) {
	return read(ctx, a, who, func(tx *store.Tx) (out Beginning, err error) {
		p, err := tx.Person()
		if err != nil {
			return out, err
		}
		out.Planned = p.PlanID != 0
		if out.Undecided, err = tx.Undecided(decide.Inbox); err != nil {
			return out, err
		}
		if out.Letters, err = tx.AnyLetters(); err != nil {
			return out, err
		}
		if out.Decided, err = tx.AnyDecided(); err != nil {
			return out, err
		}
		remotes, err := tx.Remotes()
		if err != nil {
			return out, err
		}
		out.Connected = len(remotes) > 0
		made, err := tx.OnlyOf(store.MadeUp)
		out.MadeUp = len(made) > 0
		return out, err
	})
}
