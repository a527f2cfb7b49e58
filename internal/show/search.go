package show

import (
	"context"
	"strconv"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// SearchPage is what a search has found.
type SearchPage struct {
	RowPage
	Problems []string `json:"problems"`
}

// Search finds conversations by words and fields (find.Parse).
func (a *Show) Search(ctx context.Context, who store.Who, typed, cursor string) (SearchPage, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SearchPage, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return SearchPage{}, err
		}
		q := find.Parse(typed, v.Cal)
		out := SearchPage{RowPage: RowPage{Rows: []Row{}}, Problems: OrEmpty(q.Problems)}
		if q.Empty() {
			return out, nil
		}
		var before int64
		if cursor != "" {
			if before, err = strconv.ParseInt(cursor, 10, 64); err != nil {
				return out, work.Gone("That page of the search is no longer there.")
			}
		}
		found, next, err := tx.Search(q, before, PageSize)
		for _, f := range found {
			row := v.row(f.Row)
			row.Letter = f.LetterID
			out.Rows = append(out.Rows, row)
		}
		if next != 0 {
			out.Next = strconv.FormatInt(next, 10)
		}
		return out, err
	})
}

// Known is somebody who is known, or a group of receivers.
type Known struct {
	store.KnownPerson
	// Members are those of a group, which has no address.
	Members []string `json:"members,omitempty" doc:"The members of a group of receivers, which has no address"`
}

// Knows completes a name or an address: groups of receivers first, then the people the owner
// knows.
func (a *Show) Knows(ctx context.Context, who store.Who, typed string) ([]Known, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]Known, error) {
		out := []Known{}
		groups, err := tx.ReceiverGroups()
		if err != nil {
			return out, err
		}
		for _, g := range groups {
			if typed != "" && writing.Named(g.Name, typed) {
				out = append(out, Known{store.KnownPerson{Name: g.Name}, g.Members})
			}
		}
		list, err := tx.Knows(typed, 8)
		for _, p := range list {
			out = append(out, Known{KnownPerson: p})
		}
		return out, err
	})
}

// Labels lists the owner's labels.
func (a *Show) Labels(ctx context.Context, who store.Who) ([]string, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]string, error) {
		list, err := tx.Labels()
		return OrEmpty(list), err
	})
}
