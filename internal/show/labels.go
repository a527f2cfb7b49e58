package show

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/label"
	"ebbe.example/ebbe/internal/store"
)

// LabelView is a label: how it looks and how much stands under it.
type LabelView struct {
	Name string `json:"name"`
	// Short is its name within what it is nested in, Depth in how many others it is.
	Short string `json:"short"`
	Depth int    `json:"depth"`
	// Colour and Shape are empty for one that looks like most.
	Colour    string `json:"colour"`
	Shape     string `json:"shape"`
	N         int    `json:"n" doc:"Conversations under it, those of what is nested in it not counted"`
	Undecided int    `json:"undecided" doc:"Those of them that wait for a decision"`
	Q         string `json:"q" doc:"The search that is its view"`
}

// LabelViews lists the labels by name, what is nested behind what it is nested in.
func (a *Show) LabelViews(ctx context.Context, who store.Who) ([]LabelView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]LabelView, error) {
		counts, err := tx.LabelCounts()
		if err != nil {
			return nil, err
		}
		looks, err := tx.LabelLooks()
		if err != nil {
			return nil, err
		}
		out := []LabelView{}
		at := map[string]int{}
		add := func(name string) int {
			i, ok := at[name]
			if !ok {
				i = len(out)
				at[name] = i
				out = append(out, LabelView{Name: name, Short: name[strings.LastIndex(name, label.Between)+1:], Depth: label.Depth(name), Q: term(find.Label, name)})
			}
			return i
		}
		for _, c := range counts {
			i := add(c.Label)
			out[i].N, out[i].Undecided = c.N, c.Undecided
		}
		for _, l := range looks {
			i := add(l.Name)
			out[i].Colour, out[i].Shape = l.Colour, l.Shape
		}
		slices.SortFunc(out, func(x, y LabelView) int {
			return cmp.Or(slices.Compare(strings.Split(strings.ToLower(x.Name), label.Between), strings.Split(strings.ToLower(y.Name), label.Between)), cmp.Compare(x.Name, y.Name))
		})
		return out, nil
	})
}
