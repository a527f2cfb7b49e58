package app

import (
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// dueIn is the day by which something in a machine's letter is to be paid; "" for none.
func (s *step) dueIn(st stored) (string, error) {
	if !st.row.Traits.Has(sorting.Bill) || st.row.Own {
		return "", nil
	}
	p, err := s.Person()
	if err != nil {
		return "", err
	}
	bill := findings.BillOf(st.l.Subject, letter.Unquoted(st.l.Text), st.row.Date, p.Calendar())
	if _, ok := bill.ToPay(); !ok {
		return "", nil
	}
	return bill.Due.Day(p.Calendar()).String(), nil
}

// comeUp lets what was sorted out and has something to be done by a day come up before it.
func (s *step) comeUp(letters []store.Placed) error {
	var sorted []int64
	for _, l := range letters {
		if l.Sorted {
			sorted = append(sorted, l.Conversation)
		}
	}
	return s.comeUpOf(sorted, false)
}

// comeUpOf does that for conversations, which may have been sorted out by hand just now.
func (s *step) comeUpOf(conversations []int64, byHand bool) error {
	if len(conversations) == 0 {
		return nil
	}
	dues, err := s.SortedDues(conversations)
	if err != nil || len(dues) == 0 {
		return err
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	rows, err := s.Conversations(slices.Sorted(maps.Keys(dues)))
	if err != nil {
		return err
	}
	var changes change.List
	for _, r := range rows {
		if due, ok := when.ReadDate(dues[r.ID]); ok {
			changes = append(changes, decide.ComesUp(r.State(), due, byHand, s.At, p.Calendar())...)
		}
	}
	return s.Change(changes)
}
