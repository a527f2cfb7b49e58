package show

import (
	"context"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/store"
)

// FilterView is something by which a list is narrowed.
type FilterView struct {
	// Key is the letter that does so; "" for labels and accounts.
	Key  string `json:"key,omitempty"`
	Of   string `json:"of" enum:"mark,label,account"`
	Says string `json:"says"`
	On   bool   `json:"on" doc:"The search is narrowed by it"`
	Q    string `json:"q" doc:"The search with it, or where it is on, without"`
}

// Filters are all by which a search can be narrowed.
func (a *Show) Filters(ctx context.Context, who store.Who, typed string) ([]FilterView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FilterView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		q := find.Read(typed, v.Now, v.Cal).Query
		var out []FilterView
		add := func(of, key, says string, t find.Term) {
			out = append(out, FilterView{key, of, says, q.Has(t), q.Toggled(t).String()})
		}
		for _, f := range find.Filters {
			add("mark", f.Key, f.Says, f.Term)
		}
		labels, err := tx.Labels()
		if err != nil {
			return nil, err
		}
		for _, l := range labels {
			add("label", "", l, find.Term{Field: find.Label, Value: l})
		}
		accounts, err := tx.Accounts()
		for _, acc := range accounts {
			if len(accounts) > 1 {
				add("account", "", acc.Address, find.Term{Field: find.Account, Value: acc.Address})
			}
		}
		return out, err
	})
}
