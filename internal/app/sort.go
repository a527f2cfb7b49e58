package app

import (
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// sorter is what an inbox has settled of how its letters are sorted.
type sorter struct {
	out         sorting.Sorted
	corrections sorting.Corrections
	key         map[string]bool // addresses of key persons
}

// sorts reads how letters are sorted, once in a step.
func (s *step) sorts() (*sorter, error) {
	if s.sorting != nil {
		return s.sorting, nil
	}
	p, err := s.Person()
	if err != nil {
		return nil, err
	}
	made, err := s.Corrections()
	if err != nil {
		return nil, err
	}
	key, err := s.KeyPersons(s.At)
	if err != nil {
		return nil, err
	}
	out := &sorter{out: p.Sorts(), key: key}
	said := make([]sorting.Correction, len(made))
	for i, c := range made {
		said[i] = c.Correction()
	}
	out.corrections = sorting.CorrectionsOf(said)
	s.sorting = out
	return out, nil
}

// sortAll tells how letters are sorted that are to be let in from the gate, by what is kept of
// them; into tells the conversation that each goes into, where that is there already.
func (s *step) sortAll(letters []int64, into map[int64]int64) (map[int64]sorting.Verdict, error) {
	to, err := s.ToSort(letters)
	if err != nil || len(to) == 0 {
		return nil, err
	}
	by, err := s.sorts()
	if err != nil {
		return nil, err
	}
	conversations := make([]int64, 0, len(into))
	for _, c := range into {
		conversations = append(conversations, c)
	}
	slices.Sort(conversations)
	followed, err := s.Followed(slices.Compact(conversations))
	if err != nil {
		return nil, err
	}
	model, err := s.app.Learned.Of(s.Tx)
	if err != nil {
		return nil, err
	}
	out := make(map[int64]sorting.Verdict, len(to))
	for id, l := range to {
		f := sorting.Facts{
			Traits: l.Traits, Automatic: l.Automatic.Is(), List: l.List, Named: l.Named, Meets: l.Meets, Known: l.Known, Key: by.key[l.From], Junk: l.Junk, Followed: followed[into[id]],
		}
		by.corrections.Fill(&f, l.From)
		if c, ok := model.Of(id, l.Learns, s.At); ok {
			f.Matters, f.Lessons, f.Because = c.P, model.Lessons(), strings.Join(c.Reasons, "; ")
		}
		out[id] = sorting.Judge(f).Settle(by.out, l.Through)
	}
	return out, nil
}

// sortOne tells how a letter is sorted that is let in by itself. What the let-through list let
// through stands in the inbox, of whatever kind it is.
func (s *step) sortOne(st stored, conversation int64) (sorting.Verdict, error) {
	if st.row.Own || s.importing {
		return sorting.Verdict{}, nil
	}
	if failed, err := s.failure(st); err != nil || failed {
		return sorting.Judge(sorting.Facts{Fails: failed}), err
	}
	sorts, err := s.sortAll([]int64{st.id}, map[int64]int64{st.id: conversation})
	by, _ := s.sorts()
	if v := sorts[st.id]; by != nil && st.through != "" {
		return v.Settle(by.out, true), err
	}
	return sorts[st.id], err
}

// refuses tells whether a letter that arrives is not wanted: it is put away at once, whatever
// the delivery plan says.
func (s *step) refuses(st stored) (bool, error) {
	by, err := s.sorts()
	if err != nil || st.row.Own || !by.corrections.Refuse() && st.row.Junk == "" {
		return false, err
	}
	sort, err := s.sortOne(st, 0)
	return sort.Kind.Refused(), err
}

// ofMine adds to the traits of a letter what only its owner's letters and addresses tell.
func (s *step) ofMine(st *stored) error {
	refs := slices.Concat(st.l.InReplyTo, st.l.References)
	if st.row.Own || len(refs) == 0 {
		return nil
	}
	mine, err := s.AnyOwn(refs)
	if mine {
		st.row.Traits |= sorting.Answers
	}
	return err
}

// copiedTo is sorting.CopiedTo for a letter and the own addresses.
func copiedTo(l letter.Letter, own []string) sorting.Traits {
	return sorting.CopiedTo(l.To, l.Cc, func(a letter.Address) bool { return slices.Contains(own, a.Key()) })
}
