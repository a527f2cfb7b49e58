package show

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Like are the conversations of a list that are like one, in each way in which there are others.
type Like struct {
	Ways []LikeWay `json:"ways"`
}

// LikeWay is one way of being like it.
type LikeWay struct {
	Words string       `json:"words" doc:"from Moss & Lichen; of the list all.moss.example; about “Crates”"`
	On    []store.Seen `json:"on"`
}

// LikeThis gives what is like a conversation in its place: of its list, of its sender and of its subject.
func (a *Show) LikeThis(ctx context.Context, who store.Who, ask GroupAsk, id int64) (Like, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Like, error) {
		out := Like{Ways: []LikeWay{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, err := v.listed(tx, ask)
		if err != nil {
			return out, err
		}
		at := slices.IndexFunc(all, func(g store.Grouped) bool { return g.ID == id })
		if at < 0 {
			return out, work.Gone("That conversation is no longer there.")
		}
		ids := make([]int64, len(all))
		for i, g := range all {
			ids[i] = g.ID
		}
		letters, err := tx.Learns(ids)
		if err != nil {
			return out, err
		}
		add := func(words string, like func(store.Grouped) bool) {
			way := LikeWay{Words: words, On: []store.Seen{}}
			for _, g := range all {
				if like(g) {
					way.On = append(way.On, g.Seen)
				}
			}
			if len(way.On) > 1 {
				out.Ways = append(out.Ways, way)
			}
		}
		if list := letters[id].List; list != "" {
			add("of the list "+list, func(g store.Grouped) bool { return letters[g.ID].List == list })
		}
		for _, by := range []struct {
			group.By
			from, to string
		}{{group.Sender, "from ", ""}, {group.Subject, "about “", "”"}} {
			key := by.Of(all[at].Member, v.Now, v.Cal)
			if key.Key != "" {
				add(by.from+key.Label+by.to, func(g store.Grouped) bool { return by.Of(g.Member, v.Now, v.Cal) == key })
			}
		}
		return out, nil
	})
}
