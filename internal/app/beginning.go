package app

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// LookAround brings a small made-up world into the inbox, to look around in. It can be
// thrown away whole.
func (a *App) LookAround(ctx context.Context, who store.Who, command string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "made-up", Title: "Brought in a small made-up world"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.Final, s.importing = true, true
		if a.MadeUp == nil {
			return Decided{}, work.Refuse("There is no made-up world here.")
		}
		accounts, err := s.Accounts()
		if err != nil {
			return Decided{}, err
		}
		addresses, err := s.addresses()
		if err != nil {
			return Decided{}, err
		}
		list, err := a.MadeUp(s.At, letter.Address{Name: accounts[0].Name, Email: accounts[0].Address})
		if err != nil {
			return Decided{}, err
		}
		for _, raw := range list {
			p := parsed{packed: store.Pack(raw)}
			l := letter.Parse(raw)
			p.stored = describe(l, ownKeys(addresses), l.ReceivedAt(s.At, s.At))
			arrival := store.Arrival{AccountID: accounts[0].ID, Source: store.MadeUp, ReceivedAt: p.row.ReceivedAt, InAt: s.At}
			if _, _, err := s.takeQuietly(p, arrival, store.MadeUp, false, decide.Inbox, sorting.Verdict{}); err != nil {
				return Decided{}, err
			}
		}
		s.Stale(work.Readings...)
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

// ThrowAway takes the made-up world away, with what was made of it. What is tied to other
// letters stays.
func (a *App) ThrowAway(ctx context.Context, who store.Who, command string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "made-up"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.Final = true
		ids, err := s.OnlyOf(store.MadeUp)
		if err != nil {
			return Decided{}, err
		}
		if len(ids) == 0 {
			return Decided{}, work.Gone("The made-up world is not here any more.")
		}
		rows, err := s.Conversations(ids)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		for _, r := range rows {
			changes = append(changes, decide.Decide(r.State(), decide.Decision{Kind: decide.ToBin, At: s.At, Saw: r.LastLetter})...)
			followUps, err := s.FollowUpsOf(r.ID)
			if err != nil {
				return Decided{}, err
			}
			for _, f := range followUps {
				kinds.FollowUp.Alive.Set(&changes, f.ID, true, false)
			}
		}
		if err := s.Change(changes); err != nil {
			return Decided{}, err
		}
		for id := range slices.Values(ids) {
			if err := s.Unlearn(id); err != nil {
				return Decided{}, err
			}
			if err := s.Purge(id); err != nil {
				return Decided{}, err
			}
		}
		s.Title = "Threw the made-up world away, " + say.Count(len(ids), "letter")
		s.Stale(work.Readings...)
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}
