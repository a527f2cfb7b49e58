package show

import (
	"cmp"
	"context"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// A catch-up is shown from so many conversations on, or after so long away.
const (
	catchUpFrom = 50
	catchUpAway = 3 * 24 * time.Hour
	// maxCatchUp bounds what one catch-up looks through.
	maxCatchUp = 5000
)

// CatchUp sums up what has come into the inbox since the person last decided
// anything.
type CatchUp struct {
	// Since is when the person last decided; it names this catch-up.
	Since time.Time `json:"since"`
	// Due tells that it is worth being shown: there is much, or the person was
	// long away.
	Due    bool           `json:"due"`
	Total  int            `json:"total"`
	Groups []CatchUpGroup `json:"groups"`
}

// CatchUpGroup is a part of a catch-up, with the conversations in it.
type CatchUpGroup struct {
	Label string       `json:"label"`
	Kind  string       `json:"kind" enum:"returns,people,sender,rest"`
	On    []store.Seen `json:"on"`
}

// CatchUp gives what has come since the person last decided.
func (a *Show) CatchUp(ctx context.Context, who store.Who) (CatchUp, error) {
	return read(ctx, a, who, func(tx *store.Tx) (CatchUp, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return CatchUp{}, err
		}
		out := CatchUp{Groups: []CatchUpGroup{}}
		last, err := tx.LastDecision()
		if err != nil || last.IsZero() {
			return out, err // somebody new has nothing to catch up with
		}
		out.Since = last
		rows, err := tx.EnteredSince(last, maxCatchUp)
		if err != nil {
			return out, err
		}
		out.Total = len(rows)
		out.Due = out.Total > catchUpFrom || out.Total > 0 && v.Now.Sub(last) > catchUpAway
		if out.Due {
			out.Groups = catchUpGroups(rows)
		}
		return out, nil
	})
}

// catchUpGroups sorts conversations: what came back, who asks something, and
// the rest by sender, the most first; senders of one letter are one group.
func catchUpGroups(rows []store.Row) []CatchUpGroup {
	returns, people, rest := CatchUpGroup{Label: "Came back", Kind: "returns"}, CatchUpGroup{Label: "People who ask something", Kind: "people"}, CatchUpGroup{Label: "Everything else", Kind: "rest"}
	senders := map[string]*CatchUpGroup{}
	var order []string
	for _, r := range rows {
		one := r.Seen()
		switch {
		case r.Back != nil && r.Back.Reason != decide.BackNew && r.Back.Reason != decide.BackAnswer:
			returns.On = append(returns.On, one)
		case r.Asks:
			people.On = append(people.On, one)
		default:
			key := r.From.Key()
			if senders[key] == nil {
				senders[key] = &CatchUpGroup{Label: r.From.Display(), Kind: "sender"}
				order = append(order, key)
			}
			senders[key].On = append(senders[key].On, one)
		}
	}
	slices.SortStableFunc(order, func(a, b string) int { return cmp.Compare(len(senders[b].On), len(senders[a].On)) })
	out := []CatchUpGroup{returns, people}
	for _, key := range order {
		if g := senders[key]; len(g.On) > 1 {
			out = append(out, *g)
		} else {
			rest.On = append(rest.On, g.On...)
		}
	}
	return slices.DeleteFunc(append(out, rest), func(g CatchUpGroup) bool { return len(g.On) == 0 })
}
