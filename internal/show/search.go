package show

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Asked is a search: what is typed, within what it is looked for, in which order, and from where on.
type Asked struct {
	Q      string `query:"q" maxLength:"4000"`
	Within string `query:"within" maxLength:"500" doc:"What else must be met, typed the same way: at:archive for a place"`
	Best   bool   `query:"best" doc:"The best of the newest finds first, in place of the newest"`
	Cursor string `query:"cursor"`
}

// SearchPage is what a search has found.
type SearchPage struct {
	RowPage
	Problems []find.Problem `json:"problems"`
	// Short tells that a word of one letter is looked for, which stands for nothing that begins with it.
	Short bool `json:"short,omitempty" doc:"A word of one letter is looked for as it stands; words as they begin are found from two letters on"`
	// Read is the search as it was understood, where brackets say more than what was typed.
	Read string `json:"read,omitempty" doc:"The search as it was understood, where brackets make it plainer"`
}

// Marked is where in a row something was found.
type Marked struct {
	From  []find.Hit `json:"from"`
	Title []find.Hit `json:"title"`
	// Letters are those of the conversation that were found.
	Letters []int64 `json:"letters"`
}

// read reads a search with the bounds of where it is looked for.
func (v Viewer) reads(ask Asked) (find.Query, find.Reading) {
	r := find.Read(ask.Q, v.Now, v.Cal)
	if r.Query.Empty() {
		return r.Query, r
	}
	return find.Both(find.Read(ask.Within, v.Now, v.Cal).Query, r.Query), r
}

// Search finds conversations by words and fields (find.Read).
func (a *Show) Search(ctx context.Context, who store.Who, ask Asked) (SearchPage, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SearchPage, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return SearchPage{}, err
		}
		q, r := v.reads(ask)
		out := SearchPage{RowPage: RowPage{Rows: []Row{}}, Problems: OrEmpty(r.Problems), Short: r.Query.Short()}
		if strings.Contains(r.Query.String(), " or ") {
			out.Read = r.Query.String()
		}
		if q.Empty() {
			return out, nil
		}
		var from int64
		if ask.Cursor != "" {
			if from, err = strconv.ParseInt(ask.Cursor, 10, 64); err != nil || from < 0 {
				return out, work.Gone("That page of the search is no longer there.")
			}
		}
		var found []store.Found
		var next int64
		if ask.Best {
			var n int
			found, n, err = tx.SearchBest(q, int(from), PageSize)
			next = int64(n)
		} else {
			found, next, err = tx.Search(q, from, PageSize)
		}
		for _, f := range found {
			row := v.row(f.Row)
			row.Letter = f.LetterID
			row.Marked = &Marked{OrEmpty(q.Hits(row.From.Display(), find.From)), OrEmpty(q.Hits(row.Title, find.Subject)), OrEmpty(f.Hits)}
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

// mostKnown bounds how many complete what is typed.
const mostKnown = 8

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
		list, err := tx.Knows(typed, mostKnown)
		for _, p := range list {
			out = append(out, Known{KnownPerson: p})
		}
		if err != nil || typed == "" {
			return out, err
		}
		contacts, err := tx.Contacts()
		words := letter.Words(typed)
		for _, c := range contacts { // whom nobody has written with yet
			r := knownRow{}
			r.written(c)
			for _, e := range c.Emails {
				if likePerson(r, words) && !slices.ContainsFunc(list, func(p store.KnownPerson) bool { return p.Email == e }) && len(out) < mostKnown {
					out = append(out, Known{KnownPerson: store.KnownPerson{Name: c.Name, Email: e}})
				}
			}
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
