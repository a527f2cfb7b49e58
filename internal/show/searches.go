package show

import (
	"context"

	"ebbe.example/ebbe/internal/store"
)

// KeptSearch is a search under a name, with how many conversations it finds.
type KeptSearch struct {
	ID     int64  `json:"id"`
	Name   string `json:"name"`
	Q      string `json:"q"`
	Within string `json:"within"`
	N      int    `json:"n"`
	More   bool   `json:"more,omitempty" doc:"It finds more than are counted"`
}

// mostKept are the conversations to which those of a kept search are counted.
const mostKept = 500

// KeptSearches lists them by name, and counts what they find where that is wanted.
func (a *Show) KeptSearches(ctx context.Context, who store.Who, counted bool) ([]KeptSearch, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]KeptSearch, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		list, err := tx.KeptSearches()
		out := make([]KeptSearch, 0, len(list))
		for _, k := range list {
			one := KeptSearch{ID: k.ID, Name: k.Name, Q: k.Query, Within: k.Within}
			if !counted {
				out = append(out, one)
				continue
			}
			q, _ := v.reads(Asked{Q: k.Query, Within: k.Within})
			found, err := tx.FoundAbout(q, mostKept+1)
			if err != nil {
				return out, err
			}
			one.N, one.More = min(len(found), mostKept), len(found) > mostKept
			out = append(out, one)
		}
		return out, err
	})
}
