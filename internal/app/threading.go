package app

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/thread"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// place finds the conversation of a letter, makes one, or joins several.
// bySubject tells that it was found by its subject alone.
func (s *step) place(st stored) (conversation int64, bySubject bool, err error) {
	found, err := s.ConversationsByID(st.facts.IDs)
	if err != nil {
		return 0, false, err
	}
	if found, err = s.oneOfEachFamily(st, found); err != nil {
		return 0, false, err
	}
	addresses, err := s.addresses()
	if err != nil {
		return 0, false, err
	}
	own := ownKeys(addresses)
	bySubject = len(found) == 0
	if before, err := s.predecessor(st.facts, own); err != nil {
		return 0, false, err
	} else if before != 0 && !slices.Contains(found, before) {
		found = append(found, before)
	}
	bySubject = bySubject && len(found) > 0
	followers, err := s.followers(st.facts, own)
	if err != nil {
		return 0, false, err
	}
	if len(followers) > 0 {
		conversation, err = s.regroup(st, slices.Concat(found, followers), own)
		return conversation, bySubject, err
	}
	conversation, err = s.union(st, found)
	return conversation, bySubject, err
}

// union joins conversations to which a letter belongs; a new one if there are
// none. The oldest lives on.
func (s *step) union(st stored, conversations []int64) (int64, error) {
	if len(conversations) == 0 {
		id, err := s.AddConversation(st.facts.BareSubject)
		s.begun = id
		return id, err
	}
	slices.Sort(conversations)
	for _, other := range conversations[1:] {
		if err := s.merge(conversations[0], other); err != nil {
			return 0, err
		}
	}
	return conversations[0], nil
}

// oneOfEachFamily keeps conversations apart that were split by hand: of those
// that stem from one, the letter belongs to the one that holds what it most
// directly answers.
func (s *step) oneOfEachFamily(st stored, found []int64) ([]int64, error) {
	if len(found) < 2 {
		return found, nil
	}
	stems, err := s.Apart(found)
	if err != nil || len(stems) < 2 {
		return found, err
	}
	answered := slices.Concat(st.l.References, st.l.InReplyTo)
	slices.Reverse(answered)
	chosen := map[int64]int64{} // by stem
	for _, id := range answered {
		home, err := s.HomeOf(id)
		if err != nil {
			return nil, err
		}
		if stem, ok := stems[home]; ok && chosen[stem] == 0 {
			chosen[stem] = home
		}
	}
	return slices.DeleteFunc(found, func(c int64) bool {
		stem, ok := stems[c]
		if ok && chosen[stem] == 0 {
			chosen[stem] = c // answers none of them: the oldest
		}
		return ok && chosen[stem] != c
	}), nil
}

// predecessor is the conversation that a letter joins by its subject; 0 for
// none.
func (s *step) predecessor(f thread.Facts, own []string) (int64, error) {
	if !f.BySubject {
		return 0, nil
	}
	letters, err := s.SameSubject(f.BareSubject, f.At.Add(-thread.SubjectWindow), f.At, false, own)
	if err != nil {
		return 0, err
	}
	if i := thread.Predecessor(f, factsOf(letters)); i >= 0 {
		return letters[i].Conversation, nil
	}
	return 0, nil
}

func factsOf(letters []store.ThreadLetter) []thread.Facts {
	out := make([]thread.Facts, len(letters))
	for i, l := range letters {
		out[i] = l.Facts
	}
	return out
}

// followers are the conversations of letters that came before this one, were
// written after it, and may join it by their subject.
func (s *step) followers(f thread.Facts, own []string) ([]int64, error) {
	until := f.At.Add(thread.SubjectWindow)
	if f.BareSubject == "" {
		return nil, nil
	}
	if any, err := s.HasJoining(f.BareSubject, f.At, until); err != nil || !any {
		return nil, err
	}
	letters, err := s.SameSubject(f.BareSubject, f.At, until, true, own)
	var out []int64
	for _, l := range letters {
		if thread.Predecessor(l.Facts, []thread.Facts{f}) == 0 && !slices.Contains(out, l.Conversation) {
			out = append(out, l.Conversation)
		}
	}
	return out, err
}

// regroup sorts the letters of conversations anew, since a letter has come
// late that others may belong to. Where some belong elsewhere now, they get a
// conversation of their own before it joins another.
func (s *step) regroup(st stored, conversations []int64, own []string) (int64, error) {
	slices.Sort(conversations)
	conversations = slices.Compact(conversations)
	if stems, err := s.Apart(conversations); err != nil || len(stems) > 0 {
		if err != nil {
			return 0, err
		}
		return s.union(st, conversations[:min(1, len(conversations))]) // what a person has split is left so
	}
	letters, err := s.ThreadOf(conversations, own)
	if err != nil {
		return 0, err
	}
	groups := thread.Group(append(factsOf(letters), st.facts))
	var mine []int64
	homes := map[int64]bool{} // conversations that a group has inherited
	for _, g := range groups {
		var inherited []int64
		moved := map[int64][]int64{} // letters by the conversation they leave
		for _, i := range g {
			if i == len(letters) {
				continue
			}
			c := letters[i].Conversation
			switch {
			case slices.Contains(inherited, c):
			case !homes[c]:
				homes[c] = true
				inherited = append(inherited, c)
			default:
				moved[c] = append(moved[c], letters[i].ID)
			}
		}
		for _, c := range slices.Sorted(maps.Keys(moved)) {
			to, err := s.split(c, moved[c], st.facts.BareSubject)
			if err != nil {
				return 0, err
			}
			inherited = append(inherited, to)
		}
		if slices.Contains(g, len(letters)) {
			mine = inherited
			continue
		}
		if len(inherited) > 1 {
			if _, err := s.union(st, inherited); err != nil {
				return 0, err
			}
		}
	}
	return s.union(st, mine)
}

// split moves letters of a conversation into a new one in the same place.
func (s *step) split(from int64, letters []int64, bare string) (int64, error) {
	row, err := s.Conversation(from)
	if err != nil {
		return 0, err
	}
	to, err := s.AddConversation(bare)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, id := range letters {
		kinds.Letter.Conversation.Set(&changes, id, row.ID, to)
	}
	decide.Conversation.Place.Set(&changes, to, decide.Nowhere, row.Place)
	decide.Conversation.Return.Set(&changes, to, (*decide.Return)(nil), row.Return)
	decide.Conversation.Decided.Set(&changes, to, 0, row.Decided)
	if row.Return != nil && row.Return.If.Awaits() { // each half waits for the answer
		open, err := s.ForReturns([]int64{row.ID})
		if err != nil {
			return 0, err
		}
		for _, e := range open {
			e.Conversation = to
			if e.ID, err = s.AddExpectation(e); err != nil {
				return 0, err
			}
			kinds.Expectation.Alive.Set(&changes, e.ID, false, true)
		}
	}
	s.Touch(decide.Conversation.Of(row.ID))
	return to, s.Change(changes)
}

// joinKind marks the Journal step of a join.
const joinKind = "join"

// merge joins two conversations because a letter belongs to both: one Journal
// step of its own, which can be undone.
func (s *step) merge(into, from int64) error {
	a, err := s.Conversation(into)
	if err != nil {
		return err
	}
	b, err := s.Conversation(from)
	if err != nil {
		return err
	}
	changes := decide.Merge(a.State(), b.State(), s.At)
	if err := s.joinStars(&changes, a.ID, b.ID); err != nil {
		return err
	}
	letters, err := s.LettersIn(from)
	if err != nil {
		return err
	}
	for _, l := range letters {
		kinds.Letter.Conversation.Set(&changes, l.ID, from, into)
	}
	open, err := s.OpenFor([]int64{from}, nil)
	if err != nil {
		return err
	}
	for _, e := range open {
		kinds.Expectation.Conversation.Set(&changes, e.ID, from, into)
	}
	files, err := s.FilesAddedTo(from)
	if err != nil {
		return err
	}
	for _, f := range files {
		kinds.KeptFile.Conversation.Set(&changes, f.ID, from, into)
	}
	decide.Conversation.Place.Set(&changes, b.ID, b.Place, decide.Nowhere)
	decide.Conversation.Return.Set(&changes, b.ID, b.Return, (*decide.Return)(nil))
	decide.Conversation.Redirect.Set(&changes, b.ID, 0, into)
	if s.importing { // the import is the step
		return s.Change(changes)
	}
	entry, err := s.AddEntry(store.Entry{
		CommandID: fmt.Sprintf("join:%d:%d", s.ID, from), Kind: joinKind, Actor: work.ByPost, At: s.At, RecordedAt: s.app.Now(), Undoable: true,
		Title: "Joined “" + say.Shorten(a.Title(), 50) + "” and “" + say.Shorten(b.Title(), 50) + "”: a letter links them",
	})
	if err != nil {
		return err
	}
	outer := s.ID
	s.ID = entry
	defer func() { s.ID = outer }()
	return s.Change(changes)
}

// joinStars stars a conversation for everybody who starred the one that joins it.
func (s *step) joinStars(changes *change.List, into, from int64) error {
	starred, err := s.StarredBy(from)
	if err != nil || len(starred) == 0 {
		return err
	}
	already, err := s.StarredBy(into)
	for _, person := range starred {
		if !slices.Contains(already, person) {
			decide.Conversation.Star.SetFor(changes, into, person, false, true)
		}
	}
	return err
}

// Split starts a new conversation from a letter: it and all that came after
// it. Later answers follow whichever part they answer.
func (a *App) Split(ctx context.Context, who store.Who, command string, letterID int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "split"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		l, err := s.Letter(letterID)
		if err != nil {
			return Decided{}, work.Gone("That letter is no longer there.")
		}
		letters, err := s.LettersIn(l.Conversation)
		if err != nil {
			return Decided{}, err
		}
		from := slices.IndexFunc(letters, func(x store.Letter) bool { return x.ID == letterID })
		if from <= 0 {
			return Decided{}, work.Refuse("A conversation is split from its second letter on; this is the first.")
		}
		var ids []int64
		for _, x := range letters[from:] {
			ids = append(ids, x.ID)
		}
		to, err := s.split(l.Conversation, ids, letter.BareSubject(l.Subject))
		if err != nil {
			return Decided{}, err
		}
		stem := l.Conversation
		if stems, err := s.Apart([]int64{stem}); err != nil {
			return Decided{}, err
		} else if stems[stem] != 0 {
			stem = stems[stem]
		}
		var changes change.List
		decide.Conversation.Apart.Set(&changes, to, 0, stem)
		s.Title = "New conversation from “" + say.Shorten(l.Subject, 60) + "”"
		return Decided{Entry: s.ID, Title: s.Title, New: []int64{to}}, s.Change(changes)
	})
}
