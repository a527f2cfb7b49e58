package app

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Sorting puts conversations among letters of another kind.
type Sorting struct {
	Command string
	Kind    sorting.Kind
	// Scope is for whom that is settled from now on; "" for these conversations alone.
	Scope sorting.Scope
	On    []store.Seen
	// Sure puts there what was decided otherwise since it was seen, too.
	Sure bool
}

// Sort puts conversations among letters of another kind: a person's stand in the inbox, others
// lie in the Shallows. It moves what else is undecided there and is spoken of, too.
func (a *App) Sort(ctx context.Context, who store.Who, in Sorting) (Decided, error) {
	cmd := work.Command{ID: in.Command, Who: who, Actor: work.ByPerson, Kind: "sort"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.sort(in, "") })
}

// sort puts conversations among letters of a kind; why says who does, "" for their owner.
func (s *step) sort(in Sorting, why string) (Decided, error) {
	if !in.Kind.Is() {
		return Decided{}, work.Invalid("kind", "There is no such kind of letter.")
	}
	rows, speakers, err := s.spokenFor(in.On, in.Sure)
	if err != nil {
		return Decided{}, err
	}
	verdict := sorting.Moved(in.Kind)
	verdict.Why = cmp.Or(why, verdict.Why)
	var changes change.List
	for _, r := range rows {
		if l := speakers[r.ID]; !l.Own {
			kinds.Letter.Sort.Set(&changes, l.Letter, l.Sort, verdict)
		}
	}
	made, err := s.corrections(in, rows, speakers)
	if err != nil {
		return Decided{}, err
	}
	if err := s.Change(changes); err != nil {
		return Decided{}, err
	}
	also, err := s.sortAnew(made, rows)
	if err != nil {
		return Decided{}, err
	}
	changes = nil
	for _, r := range rows {
		if in.Kind == sorting.Person {
			changes = append(changes, decide.Unsort(r.State(), r.Kind)...)
		} else {
			changes = append(changes, decide.Sort(r.State(), true)...)
		}
	}
	s.Title = sortedTitle(in, rows, made, also)
	out := Decided{Entry: s.ID, Title: s.Title, Left: s.gone()}
	if err := s.Change(changes); err != nil {
		return Decided{}, err
	}
	if err := s.comeUpOf(idsOf(rows), true); err != nil {
		return Decided{}, err
	}
	out.Now, err = s.standing(idsOf(rows))
	return out, err
}

// spokenFor loads the conversations that a command names, and the letters that speak for them.
func (s *step) spokenFor(on []store.Seen, sure bool) ([]seenRow, map[int64]store.Speaker, error) {
	rows, err := s.named(on)
	if err != nil {
		return nil, nil, err
	}
	s.sure = s.sure || sure
	for _, r := range rows {
		s.checkSeen(r.Row, r.version)
	}
	speakers, err := s.Speakers(idsOf(rows))
	return rows, speakers, err
}

// corrections settles for whom a move speaks, and gives what was settled. What was settled for
// the same before counts no longer.
func (s *step) corrections(in Sorting, rows []seenRow, speakers map[int64]store.Speaker) ([]sorting.Correction, error) {
	if in.Scope == "" {
		return nil, nil
	}
	own, err := s.addresses()
	if err != nil {
		return nil, err
	}
	before, err := s.Corrections()
	if err != nil {
		return nil, err
	}
	var made []sorting.Correction
	var changes change.List
	for _, r := range rows {
		l := speakers[r.ID]
		if _, mine := own[l.From]; mine || l.Own {
			return nil, work.Refuse("“%s” is from yourself: nothing can be settled for your own addresses.", say.Shorten(r.Title(), 60))
		}
		c, err := sorting.Of(in.Scope, l.From, l.List, in.Kind)
		if err != nil {
			return nil, work.Invalid("scope", "%s", say.Sentence(err))
		}
		if slices.Contains(made, c) {
			continue
		}
		made = append(made, c)
		for _, b := range before {
			if c.Replaces(b.Correction()) {
				kinds.Correction.Alive.Set(&changes, b.ID, true, false)
			}
		}
		id, err := s.AddCorrection(c, s.At)
		if err != nil {
			return nil, err
		}
		kinds.Correction.Alive.Set(&changes, id, false, true)
	}
	s.sorting = nil // it is other now
	return made, s.Change(changes)
}

// sortAnew sorts what is undecided and spoken of by corrections, but for the conversations that
// were moved by hand. It tells how many others are of another kind now.
func (s *step) sortAnew(made []sorting.Correction, but []seenRow) (moved int, err error) {
	if len(made) == 0 {
		return 0, nil
	}
	byHand := make(map[int64]bool, len(but))
	for _, r := range but {
		byHand[r.ID] = true
	}
	other, err := s.sortThose(func(l store.Undecided) bool {
		covers := func(c sorting.Correction) bool { return c.Covers(l.From, l.List, l.Automatic.Is()) }
		return !byHand[l.Conversation] && slices.ContainsFunc(made, covers)
	})
	return len(other), err
}

// sortThose sorts some of what is undecided, and gives the conversations in which something is of
// another kind now, with that kind.
func (s *step) sortThose(which func(store.Undecided) bool) (map[int64]sorting.Kind, error) {
	letters, err := s.UndecidedLetters()
	if err != nil {
		return nil, err
	}
	in, was := map[int64]int64{}, map[int64]sorting.Verdict{}
	for _, l := range letters {
		if which(l) {
			in[l.Letter], was[l.Letter] = l.Conversation, l.Sort
		}
	}
	ids := slices.Sorted(maps.Keys(in))
	now, err := s.sortAll(ids, in)
	if err != nil {
		return nil, err
	}
	var changes change.List
	other := map[int64]sorting.Kind{}
	for _, id := range ids {
		if now[id].Kind.Refused() { // what is not wanted is refused as it comes, or by hand
			continue
		}
		kinds.Letter.Sort.Set(&changes, id, was[id], now[id])
		if was[id].Kind != now[id].Kind {
			other[in[id]] = now[id].Kind
		}
	}
	if err := s.Change(changes); err != nil {
		return nil, err
	}
	conversations := slices.Compact(slices.Sorted(maps.Values(in)))
	states, err := s.States(conversations)
	if err != nil {
		return nil, err
	}
	changes = nil
	for _, id := range conversations {
		changes = append(changes, decide.Sort(states[id], states[id].Sorted)...)
	}
	if err := s.Change(changes); err != nil {
		return nil, err
	}
	return other, s.comeUpOf(slices.Sorted(maps.Keys(other)), true)
}

// SortBefore sorts what stands in the inbox and was there before: imported, or on the server of an
// account. It is one step, and undone as one.
func (a *App) SortBefore(ctx context.Context, who store.Who, command string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "sort"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		other, err := s.sortThose(func(l store.Undecided) bool { return l.Sort.Kind == "" })
		if err != nil {
			return Decided{}, err
		}
		by, err := s.sorts()
		if err != nil {
			return Decided{}, err
		}
		n, of := 0, map[sorting.Kind]int{}
		for _, kind := range other {
			if by.out.Has(kind) {
				of[kind]++
			} else {
				n++
			}
		}
		if len(other) == 0 {
			return Decided{}, work.Refuse("Everything in the inbox is sorted.")
		}
		s.Title = "Sorted what was there before: nothing of it is sorted out"
		if len(of) > 0 {
			s.Title = "Sorted out what was there before: " + sorting.Tally(of)
		}
		if n > 0 {
			s.Title += "; " + say.Count(n, "conversation") + " in the inbox"
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

func sortedTitle(in Sorting, rows []seenRow, made []sorting.Correction, also int) string {
	to := "the inbox"
	if in.Kind != sorting.Person {
		to = string(in.Kind)
	}
	title := "To " + to + ": " + namedTitle(rows)
	switch len(made) {
	case 0:
		return title
	case 1:
		title += ", and what else comes from " + made[0].String()
	default:
		title += ", and what else comes from " + say.Count(len(made), "sender")
	}
	if also > 0 {
		title += "; " + say.Count(also, "more conversation") + " moved"
	}
	return title
}

// SortOut settles which kinds are sorted out of the inbox, from now on.
func (a *App) SortOut(ctx context.Context, who store.Who, command string, out []sorting.Kind) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "settings", Title: "Changed what is sorted out"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		kept, err := json.Marshal(sorting.Only(out))
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Person.SortedOut.Set(&changes, p.ID, p.SortedOut, string(kept))
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// EndCorrection lets a correction count no longer. It moves nothing; but fetch brings back what
// it has put away as not wanted.
func (a *App) EndCorrection(ctx context.Context, who store.Who, command string, id int64, fetch bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "sort"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.Corrections()
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(list, func(c store.Correction) bool { return c.ID == id })
		if i < 0 {
			return Decided{}, work.Gone("That correction is no longer there.")
		}
		var changes change.List
		kinds.Correction.Alive.Set(&changes, id, true, false)
		ended := list[i].Correction()
		s.Title = "No longer settled: " + ended.String()
		if err := s.Change(changes); err != nil {
			return Decided{}, err
		}
		s.sorting = nil // it is other now
		if fetch && ended.Kind.Refused() {
			letters, err := s.Unwanted()
			if err != nil {
				return Decided{}, err
			}
			moved, err := s.sortUnwanted(letters, []sorting.Correction{ended})
			if err != nil {
				return Decided{}, err
			}
			s.Title += "; " + say.Count(moved, "conversation") + " back"
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}
