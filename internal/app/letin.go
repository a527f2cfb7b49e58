package app

import (
	"errors"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/store"
)

func (s *step) letIn(st stored, round time.Time) error {
	conversation, bySubject, err := s.place(st)
	if err != nil {
		return err
	}
	if bySubject { // expectations have not seen it yet
		if _, err := s.judge(st, []int64{conversation}); err != nil {
			return err
		}
	}
	accounts := st.accounts
	if !st.fresh {
		if accounts, err = s.ArrivalAccounts(st.id); err != nil {
			return err
		}
		if err := s.LetArrivalsIn(st.id, s.At); err != nil {
			return err
		}
	}
	sort, err := s.sortOne(st, conversation)
	if err != nil {
		return err
	}
	sorted, err := s.sortedIn(sort)
	if err != nil {
		return err
	}
	if err := s.LetIn(st.id, conversation, s.At, round, st.through, sorted); err != nil {
		return err
	}
	if err := s.Join(store.Joined{
		Conversation: conversation, Letter: st.row, LetterID: st.id, Accounts: accounts, Persons: st.facts.Persons, InAt: s.At, Round: round, Through: st.through, Sort: sort,
	}); err != nil {
		return err
	}
	prepared := false
	if !st.fresh && !s.importing {
		if prepared, err = s.IsPrepared(st.id); err != nil {
			return err
		}
	}
	if prepared {
		err = s.Unprepare(st.id)
	} else {
		s.Index(st.id, st.l)
	}
	if err != nil {
		return err
	}
	unwanted := sort.Kind.Refused()
	if !unwanted {
		if err := s.takePart(st); err != nil {
			return err
		}
	}
	row, err := s.Bare(conversation)
	if err != nil {
		return err
	}
	s.Touch(decide.Conversation.Of(conversation))
	state := row.State()
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	came := decide.Came{At: s.At, Own: st.row.Own, Automatic: st.l.Automatic, From: st.l.From.Display(), Alone: alone(st.row, addresses), Sorted: sort.Out, Refused: decide.RefusedTo(sort.Kind)}
	if r := st.l.Report; r != nil {
		if came.Failed, err = s.failure(st); err != nil {
			return err
		}
		if came.Failed {
			came.From, came.Detail = r.Recipient, r.Reason
		}
		came.Quiet = r.Kind != letter.Failed
	}
	if err := s.Change(decide.Arrive(state, came)); err != nil {
		return err
	}
	if !st.row.Own && !s.importing {
		if err := s.countTaken(map[int64]sorting.Kind{st.id: sort.Kind}); err != nil {
			return err
		}
	}
	if unwanted {
		return nil
	}
	return s.actOn([]store.Placed{{Letter: st.id, Conversation: conversation, Automatic: st.l.Automatic, From: st.l.From, Kind: sort.Kind, Sorted: sort.Out}})
}

// takePart lets a letter do what one does beside standing in a conversation: make its sender
// known, answer what waits for it, bring an appointment.
func (s *step) takePart(st stored) error {
	s.meet(st)
	if err := s.linkWaiting(st); err != nil {
		return err
	}
	return s.takeCalendar(st)
}

func (s *step) answered(letters []store.Placed) error {
	ids := make([]int64, len(letters))
	for i, l := range letters {
		ids[i] = l.Letter
	}
	met, err := s.MetForReturns(ids)
	if err != nil {
		return err
	}
	for _, e := range met {
		row, err := s.Conversation(e.Conversation)
		if errors.Is(err, store.ErrNotFound) || err == nil && (row.Place != decide.Later || row.Return == nil || !row.Return.If.Awaits()) {
			continue
		}
		if err != nil {
			return err
		}
		by, err := s.Letter(e.MetBy)
		if err != nil {
			return err
		}
		if err := s.Change(decide.Arrive(row.State(), decide.Came{At: s.At, From: by.From.Display()})); err != nil {
			return err
		}
	}
	return nil
}

func alone(l store.Letter, own map[string]int64) bool {
	return letter.ToAlone(l.Recipients.To, l.Recipients.Cc, l.Automatic, func(a letter.Address) bool { return own[a.Key()] != 0 })
}

func (s *step) failure(st stored) (bool, error) {
	r := st.l.Report
	if r == nil || r.Kind != letter.Failed {
		return false, nil
	}
	mine, err := s.OwnLetterByMessageID(r.Original)
	return mine != 0, err
}

func (s *step) meet(st stored) {
	switch {
	case st.row.Own:
		s.Meet(st.l.Recipients(), true, st.row.ReceivedAt)
	case !st.l.Automatic.Is() && st.l.From.Email != "":
		s.Meet([]letter.Address{st.l.From}, false, st.row.ReceivedAt)
	}
}

func (s *step) judge(st stored, conversations []int64) (met bool, err error) {
	if st.row.Own {
		return false, nil
	}
	answers := slices.Concat(st.l.InReplyTo, st.l.References)
	open, err := s.OpenFor(conversations, answers)
	if err != nil {
		return met, err
	}
	for _, e := range open {
		verdict := waiting.Judge(e.Expectation, waiting.Arrival{
			From: st.l.From.Key(), Received: st.row.ReceivedAt, Automatic: st.l.Automatic, Answers: answers,
			Conversation: first(conversations, e.Conversation),
		})
		var changes change.List
		switch verdict {
		case waiting.Meets:
			met = true
			kinds.Expectation.State.Set(&changes, e.ID, e.State, waiting.Met)
			kinds.Expectation.MetBy.Set(&changes, e.ID, nil, &st.id)
			if err := s.resume(&changes, e.FollowUp); err != nil {
				return met, err
			}
		case waiting.Partly:
			met = true
			kinds.Expectation.Answered.Set(&changes, e.ID, e.Answered, append(slices.Clone(e.Answered), st.l.From.Key()))
		case waiting.Offers:
			kinds.Expectation.Offered.Set(&changes, e.ID, nil, &st.id)
		case waiting.Away:
			until := ""
			person, err := s.Person()
			if err != nil {
				return met, err
			}
			if r, ok := findings.Away(letter.Unquoted(st.l.Text), st.row.ReceivedAt, person.Calendar()); ok {
				until = r.Canonical
			}
			kinds.Expectation.Away.Set(&changes, e.ID, e.Away, st.l.Subject)
			kinds.Expectation.AwayUntil.Set(&changes, e.ID, e.AwayUntil, until)
		case waiting.Nothing:
		}
		if err := s.Change(changes); err != nil {
			return met, err
		}
	}
	return met, nil
}

func first(list []int64, id int64) int64 {
	if slices.Contains(list, id) {
		return id
	}
	return 0
}

func (s *step) reopen(id int64, own []string) (stored, error) {
	row, err := s.Letter(id)
	if err != nil {
		return stored{}, err
	}
	l, err := arrived(s.Tx, id)
	if err != nil {
		return stored{}, err
	}
	st := describe(l, own, row.ReceivedAt)
	st.id = id
	return st, nil
}

func arrived(tx *store.Tx, id int64) (letter.Letter, error) {
	raw, err := tx.Original(id)
	if err != nil {
		return letter.Letter{}, err
	}
	l := letter.Parse(raw)
	path, err := tx.ReturnPath(id)
	if err == nil && path != nil {
		l = l.Under(*path)
	}
	return l, err
}
