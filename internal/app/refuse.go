package app

import (
	"context"
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

// Refusing settles whether the letters of some senders are wanted from now on.
type Refusing struct {
	Command string
	// Kind is sorting.TurnedAway, Junk or Wanted.
	Kind  sorting.Kind
	Scope sorting.Scope
	On    []store.Seen
	// Sure takes what was decided otherwise since it was seen, too.
	Sure bool
}

// Refuse turns away whoever sent some conversations, or settles that their letters are always
// or never junk. What is undecided of them is put away with it; what lay in Junk and is
// wanted comes back.
func (a *App) Refuse(ctx context.Context, who store.Who, in Refusing) (Decided, error) {
	cmd := work.Command{ID: in.Command, Who: who, Actor: work.ByPerson, Kind: "refuse"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.refuse(in) })
}

func (s *step) refuse(in Refusing) (Decided, error) {
	if !in.Kind.Refuses() {
		return Decided{}, work.Invalid("kind", "A sender is turned away, always junk or never junk.")
	}
	if in.Scope == "" {
		return Decided{}, work.Invalid("scope", "Say for whom: the sender, the list or the domain.")
	}
	rows, speakers, err := s.spokenFor(in.On, in.Sure)
	if err != nil {
		return Decided{}, err
	}
	if in.Kind.Refused() {
		if err := s.mayRefuse(in.Scope, speakers); err != nil {
			return Decided{}, err
		}
	}
	out := Decided{Entry: s.ID, Left: s.gone()}
	made, err := s.corrections(Sorting{Kind: in.Kind, Scope: in.Scope}, rows, speakers)
	if err != nil {
		return Decided{}, err
	}
	among := s.UndecidedLetters
	if in.Kind == sorting.Wanted {
		among = s.Unwanted
	}
	letters, err := among()
	if err != nil {
		return Decided{}, err
	}
	moved, err := s.sortUnwanted(letters, made)
	if err != nil {
		return Decided{}, err
	}
	s.Title = refusedTitle(in.Kind, made, moved)
	out.Title = s.Title
	out.Now, err = s.standing(idsOf(rows))
	return out, err
}

// mayRefuse tells why the senders of some letters can't be refused: key persons, whoever one
// has written to, and domains of which somebody has written oneself.
func (s *step) mayRefuse(scope sorting.Scope, speakers map[int64]store.Speaker) error {
	by, err := s.sorts()
	if err != nil {
		return err
	}
	for _, l := range speakers {
		switch scope.For(l.List) {
		case sorting.ByAddress:
			if by.key[l.From] {
				return work.Refuse("%s is a key person. Take them off the let-through list first.", l.From)
			}
			known, err := s.WrittenTo(l.From)
			if err != nil {
				return err
			}
			if known {
				return work.Refuse("You have written to %s: the letters of whom one writes to are never turned away.", l.From)
			}
		case sorting.ByDomain:
			people, err := s.PeopleOf(sorting.DomainOf(l.From), l.From)
			if err != nil {
				return err
			}
			if len(people) > 0 {
				return work.Refuse("%s has written to you from that domain. Turn away the sender alone, or the list.", people[0])
			}
		case sorting.ByList, sorting.BySource: // whoever writes to it
		}
	}
	return nil
}

// sortUnwanted sorts anew those of some letters that corrections speak of. What holds
// nothing that is wanted is put away, what was put away and is wanted comes back. It tells how many
// conversations were moved.
func (s *step) sortUnwanted(letters []store.Undecided, made []sorting.Correction) (int, error) {
	in, was := map[int64]int64{}, map[int64]sorting.Verdict{}
	var ids, conversations []int64
	for _, l := range letters {
		covers := func(c sorting.Correction) bool { return c.Covers(l.From, l.List, l.Automatic.Is()) }
		if slices.ContainsFunc(made, covers) {
			ids, conversations = append(ids, l.Letter), append(conversations, l.Conversation)
			in[l.Letter], was[l.Letter] = l.Conversation, l.Sort
		}
	}
	now, err := s.sortAll(ids, in)
	if err != nil {
		return 0, err
	}
	slices.Sort(conversations)
	conversations = slices.Compact(conversations)
	before, err := s.Conversations(conversations)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, id := range ids {
		kinds.Letter.Sort.Set(&changes, id, was[id], now[id])
	}
	if err := s.Change(changes); err != nil {
		return 0, err
	}
	rows, err := s.Conversations(conversations)
	if err != nil {
		return 0, err
	}
	wasAway := make(map[int64]bool, len(before))
	for _, r := range before {
		wasAway[r.ID] = r.Kind.Refused() && r.Place == decide.RefusedTo(r.Kind)
	}
	var away []seenRow
	changes, moved := nil, 0
	for _, r := range rows {
		switch {
		case r.Kind.Refused() && r.Place.Undecided():
			away = append(away, seenRow{Row: r, saw: r.LastLetter})
			moved++
		case wasAway[r.ID] && !r.Kind.Refused():
			changes = append(changes, decide.Want(r.State())...)
			moved++
		}
	}
	for _, to := range []decide.Kind{decide.ToBin, decide.ToJunk} {
		those := slices.DeleteFunc(slices.Clone(away), func(r seenRow) bool { return decide.RefusedTo(r.Kind) != to.About().To })
		if err := s.settle(those, decide.Decision{Kind: to, At: s.At}); err != nil {
			return 0, err
		}
	}
	return moved, s.Change(changes)
}

func refusedTitle(kind sorting.Kind, made []sorting.Correction, moved int) string {
	of := say.Count(len(made), "sender")
	if len(made) == 1 {
		of = made[0].String()
	}
	title, to := "Turned away: "+of, "to the bin"
	switch kind {
	case sorting.Junk:
		title, to = "Always junk: "+of, "to Junk"
	case sorting.Wanted:
		title, to = "Never junk: "+of, "back"
	}
	if moved > 0 {
		title += "; " + say.Count(moved, "conversation") + " " + to
	}
	return title
}

// countTaken counts letters that came, by their kinds, for what was settled of their senders:
// those that were put away, and those of lists that were asked to be left.
func (s *step) countTaken(came map[int64]sorting.Kind) error {
	by, err := s.sorts()
	if err != nil || len(came) == 0 || !by.corrections.Count() {
		return err
	}
	letters, err := s.ToSort(slices.Collect(maps.Keys(came)))
	if err != nil {
		return err
	}
	list, err := s.Corrections()
	if err != nil {
		return err
	}
	took := map[int64]int{}
	for id, l := range letters {
		for _, c := range list {
			if (c.Kind == sorting.Left || c.Kind.Refused() && c.Kind == came[id]) && c.Correction().Covers(l.From, l.List, l.Automatic.Is()) {
				took[c.ID]++
				break
			}
		}
	}
	for id, n := range took {
		if err := s.Took(id, n, s.At); err != nil {
			return err
		}
	}
	s.Stale(work.ReadCorrections)
	return nil
}
