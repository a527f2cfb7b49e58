package app

import (
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// sortedEntry is the step of the Journal under which a step sorts the letters that it lets in, and
// how many of which kind.
type sortedEntry struct {
	id   int64
	came map[sorting.Kind]int
}

func (e sortedEntry) clone() sortedEntry { return sortedEntry{e.id, maps.Clone(e.came)} }

// sortedIn notes how a letter that comes is sorted. What does not stay in the inbox is a step of
// its own, which can be undone without holding the letter again.
func (s *step) sortedIn(v sorting.Verdict) (store.Sorted, error) {
	if !v.Out {
		return store.Sorted{Verdict: v}, nil
	}
	if s.sorted.id == 0 {
		id, err := s.AddEntry(store.Entry{
			CommandID: store.SortedCommand(s.ID), Asked: show.SortedKind, Kind: show.SortedKind, Actor: work.BySorting, At: s.At, RecordedAt: s.Work.Now(),
		})
		if err != nil {
			return store.Sorted{}, err
		}
		s.sorted = sortedEntry{id, map[sorting.Kind]int{}}
	}
	s.sorted.came[v.Kind]++
	return store.Sorted{Verdict: v, In: s.sorted.id}, nil
}

// tellSorted says in the Journal what was sorted, once it is known how much.
func (s *step) tellSorted() error {
	if s.sorted.id == 0 {
		return nil
	}
	letters, err := s.SortedIn(s.sorted.id)
	if err != nil {
		return err
	}
	title := "Sorted out: " + sorting.Tally(s.sorted.came)
	if len(letters) == 1 {
		l, err := s.Letter(letters[0].Letter)
		if err != nil {
			return err
		}
		title += ", “" + say.Shorten(l.Subject, 60) + "”"
	}
	return s.SetResult(s.sorted.id, show.SortedKind, title, len(letters) > 0, change.Null)
}

// undoSorted puts into the inbox what was sorted out under a step and lies there still, as if its
// owner had moved it. Nothing is settled about its senders.
func (s *step) undoSorted(e store.Entry, _ []change.Recorded) (Undone, error) {
	letters, err := s.SortedIn(e.ID)
	if err != nil {
		return Undone{}, err
	}
	var changes change.List
	var conversations []int64
	for _, l := range letters {
		if l.Sort.Out {
			kinds.Letter.Sort.Set(&changes, l.Letter, l.Sort, sorting.Moved(sorting.Person))
			conversations = append(conversations, l.Conversation)
		}
	}
	slices.Sort(conversations)
	conversations = slices.Compact(conversations)
	before, err := s.Conversations(conversations)
	if err != nil {
		return Undone{}, err
	}
	if err := s.Change(changes); err != nil {
		return Undone{}, err
	}
	changes = nil
	out := Undone{Title: "Undone: " + e.Title}
	for _, r := range before {
		if decide.LiesSorted(r.Place, r.Kind) {
			changes = append(changes, decide.Unsort(r.State(), r.Kind)...)
			out.Conversations = append(out.Conversations, r.ID)
		}
	}
	if n := len(conversations) - len(out.Conversations); n > 0 {
		out.Left = append(out.Left, "Moved since, and not touched: "+say.Count(n, "conversation")+".")
	}
	if err := s.Change(changes); err != nil {
		return Undone{}, err
	}
	out.Conversations = out.Conversations[:min(len(out.Conversations), work.Named)]
	out.Now, err = s.standing(out.Conversations)
	return out, err
}
