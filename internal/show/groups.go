package show

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// GroupAsk is which groups are asked for: of a place, at an account or 0 for all.
type GroupAsk struct {
	By      group.By
	Place   decide.Place
	Account int64
	// Found is the search of which what is found is grouped, in place of a list.
	Found Asked
}

// Groups are those of a list.
type Groups struct {
	Groups []GroupView `json:"groups"`
	// Until is the newest letter that they cover.
	Until int64 `json:"until"`
}

// GroupView is a group of a list.
type GroupView struct {
	Key     string    `json:"key"`
	Label   string    `json:"label"`
	N       int       `json:"n"`
	Unread  int       `json:"unread"`
	Starred int       `json:"starred"`
	At      time.Time `json:"at" doc:"When its latest letter came"`
	Open    bool      `json:"open,omitempty" doc:"It is shown unfolded to begin with"`
}

// GroupMembers are the conversations of a group, to decide on it at once: what is starred
// apart from the rest.
type GroupMembers struct {
	Rest    []store.Seen `json:"rest"`
	Starred []store.Seen `json:"starred"`
}

func (a *Show) grouping(tx *store.Tx, v Viewer, ask GroupAsk) ([]store.Grouped, []group.Key, error) {
	if !ask.By.Is() {
		return nil, nil, work.Invalid("by", "Lists are not grouped by that.")
	}
	all, err := v.listed(tx, ask)
	if err == nil && ask.By == group.Matters {
		err = a.weigh(tx, v, all)
	}
	keys := make([]group.Key, len(all))
	for i, g := range all {
		keys[i] = ask.By.Of(g.Member, v.Now, v.Cal)
	}
	return all, keys, err
}

// weigh adds to conversations how likely they matter, and orders them by that.
func (a *Show) weigh(tx *store.Tx, v Viewer, list []store.Grouped) error {
	ids := make([]int64, len(list))
	for i, g := range list {
		ids[i] = g.ID
	}
	chances, err := a.chances(tx, v, ids)
	for i, g := range list {
		list[i].Chance, list[i].Learned = chances[g.ID], err == nil && chances != nil
	}
	slices.SortStableFunc(list, func(x, y store.Grouped) int { return cmp.Compare(y.Chance.P, x.Chance.P) })
	return err
}

// Groups gives the groups of a list.
func (a *Show) Groups(ctx context.Context, who store.Who, ask GroupAsk) (Groups, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Groups, error) {
		out := Groups{Groups: []GroupView{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, keys, err := a.grouping(tx, v, ask)
		if err != nil {
			return out, err
		}
		at := map[string]int{}
		var groups []group.Group
		for i, g := range all {
			j, ok := at[keys[i].Key]
			if !ok {
				j = len(groups)
				at[keys[i].Key] = j
				groups = append(groups, group.Group{Key: keys[i]})
			}
			of := &groups[j]
			of.N++
			if g.Unread {
				of.Unread++
			}
			if g.Star {
				of.Starred++
			}
			if g.At.After(of.At) {
				of.At = g.At
			}
			out.Until = max(out.Until, g.Last)
		}
		slices.SortFunc(groups, ask.By.Compare)
		for _, g := range groups {
			out.Groups = append(out.Groups, GroupView{g.Key.Key, g.Label, g.N, g.Unread, g.Starred, g.At, ask.By.Opens(g.Key)})
		}
		return out, nil
	})
}

// GroupMembers gives what is in a group, but for what came after it was drawn: until is the newest
// letter that was there then, 0 for any.
func (a *Show) GroupMembers(ctx context.Context, who store.Who, ask GroupAsk, key string, until int64) (GroupMembers, error) {
	return read(ctx, a, who, func(tx *store.Tx) (GroupMembers, error) {
		out := GroupMembers{Rest: []store.Seen{}, Starred: []store.Seen{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, keys, err := a.grouping(tx, v, ask)
		for i, g := range all {
			switch {
			case keys[i].Key != key || until != 0 && g.Last > until:
			case g.Star:
				out.Starred = append(out.Starred, g.Seen)
			default:
				out.Rest = append(out.Rest, g.Seen)
			}
		}
		return out, err
	})
}

// GroupRows gives a page of the conversations of a group.
func (a *Show) GroupRows(ctx context.Context, who store.Who, ask GroupAsk, key, cursor string) (RowPage, error) {
	return read(ctx, a, who, func(tx *store.Tx) (RowPage, error) {
		out := RowPage{Rows: []Row{}}
		from, err := strconv.Atoi("0" + cursor)
		if err != nil {
			return out, work.Gone("That page of the list is no longer there.")
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, keys, err := a.grouping(tx, v, ask)
		if err != nil {
			return out, err
		}
		var ids []int64
		for i, g := range all {
			if keys[i].Key == key {
				ids = append(ids, g.ID)
			}
		}
		ids = ids[min(from, len(ids)):]
		if len(ids) > PageSize {
			ids, out.Next = ids[:PageSize], strconv.Itoa(from+PageSize)
		}
		rows, err := tx.Conversations(ids)
		if err != nil {
			return out, err
		}
		slices.SortFunc(rows, func(x, y store.Row) int { return slices.Index(ids, x.ID) - slices.Index(ids, y.ID) })
		out.Rows = v.rows(rows)
		return out, a.rank(tx, v, out.Rows)
	})
}

// mostFound is of how many letters that are found the conversations are grouped.
const mostFound = 20_000

// listed are the conversations of a list, or that are found.
func (v Viewer) listed(tx *store.Tx, ask GroupAsk) ([]store.Grouped, error) {
	if ask.Place != decide.Nowhere {
		return tx.Grouping(ask.Place, ask.Account)
	}
	q, _ := v.reads(ask.Found)
	if q.Empty() {
		return nil, nil
	}
	found, err := tx.FoundIn(q, mostFound)
	if err != nil {
		return nil, err
	}
	return tx.GroupingOf(found)
}
