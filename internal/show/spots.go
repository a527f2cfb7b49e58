package show

import (
	"context"

	"ebbe.example/ebbe/internal/store"
)

// MaxSpot bounds a place's name, in characters.
const MaxSpot = 40

// SpotsView are the person's places, and which of them they are at.
type SpotsView struct {
	Spots []SpotView `json:"spots"`
	At    int64      `json:"at" doc:"0 for none of them"`
}

// SpotView is a place, and how many letters wait for it.
type SpotView struct {
	store.Spot
	Waiting int `json:"waiting"`
}

// Spots lists the person's places.
func (a *Show) Spots(ctx context.Context, who store.Who) (SpotsView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SpotsView, error) {
		p, err := tx.Person()
		if err != nil {
			return SpotsView{}, err
		}
		out := SpotsView{Spots: []SpotView{}, At: p.SpotID}
		spots, err := tx.Spots()
		for _, s := range spots {
			ids, err := tx.WaitingFor(s.ID)
			if err != nil {
				return out, err
			}
			out.Spots = append(out.Spots, SpotView{s, len(ids)})
		}
		return out, err
	})
}

// SpotNames are the names of places, as phrases may hold them.
func SpotNames(spots []store.Spot) []string {
	out := make([]string, len(spots))
	for i, s := range spots {
		out[i] = s.Name
	}
	return out
}
