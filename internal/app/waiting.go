package app

import (
	"context"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// expect starts waiting for an answer to a letter that is being sent.
func (s *step) expect(conversation int64, persons []letter.Address, all bool, messageID string, until *when.Moment, followUp int64) error {
	e := store.Expectation{Expectation: waiting.Expectation{Conversation: conversation, StartID: messageID, Since: s.At, All: all}, Until: until, FollowUp: followUp}
	for _, p := range persons {
		e.Persons = append(e.Persons, p.Key())
	}
	id, err := s.AddExpectation(e)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Expectation.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// EditWaiting moves the limit of an expectation, says that it was answered, or
// drops it. Sure is that of Deciding.
func (a *App) EditWaiting(ctx context.Context, who store.Who, command string, id int64, state *waiting.State, until *string, sure bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "waiting"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		e, err := s.Expectation(id)
		if err != nil {
			return Decided{}, work.Gone("That is no longer waited for.")
		}
		s.sure = sure
		if state != nil {
			s.Title = map[waiting.State]string{waiting.Met: "Answered: no longer waiting", waiting.Dropped: "No longer waiting", waiting.Open: "Waiting again"}[*state]
			if err := s.setWaiting([]store.Expectation{e}, *state); err != nil {
				return Decided{}, err
			}
		}
		if until != nil {
			moment, err := s.optional(until)
			if err != nil {
				return Decided{}, err
			}
			s.Title = "Waiting without a limit"
			if moment != nil {
				s.Title = "Waiting until " + s.speak(*moment)
			}
			if err := s.setLimits([]store.Expectation{e}, moment); err != nil {
				return Decided{}, err
			}
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

// putOffsFor are the conversations that are put off until expectations are met or
// their limits pass, by the expectation's id.
func (s *step) putOffsFor(list []store.Expectation) (map[int64]store.Row, error) {
	var ids []int64
	for _, e := range list {
		if e.ForReturn && e.State == waiting.Open {
			ids = append(ids, e.Conversation)
		}
	}
	if len(ids) == 0 {
		return nil, nil
	}
	rows, err := s.Conversations(ids)
	if err != nil {
		return nil, err
	}
	by := make(map[int64]store.Row, len(rows))
	for _, r := range rows {
		by[r.ID] = r
	}
	out := map[int64]store.Row{}
	for _, e := range list {
		row, ok := by[e.Conversation]
		if ok && row.Place == decide.Nowhere { // joined into another meanwhile
			row, err = s.Conversation(e.Conversation)
			ok = err == nil
		}
		if ok && e.ForReturn && e.State == waiting.Open && row.Place == decide.Later && row.Return != nil {
			out[e.ID] = row
		}
	}
	return out, nil
}

// setLimits changes until when answers are waited for; nil waits without a
// limit. A letter that is put off until then is put off anew.
func (s *step) setLimits(list []store.Expectation, until *when.Moment) error {
	return s.changeWaiting(list, func(changes *change.List, e store.Expectation, row *store.Row) {
		kinds.Expectation.Until.Set(changes, e.ID, e.Until, until)
		kinds.Expectation.Late.Set(changes, e.ID, e.Late, false)
		if row != nil {
			*changes = append(*changes, s.decideOn(*row, decide.Until(row.State(), until, s.At))...)
		}
	})
}

// setWaiting ends the waiting for answers, or begins it again. A letter that
// was put off until then comes back: nothing else would bring it.
func (s *step) setWaiting(list []store.Expectation, state waiting.State) error {
	return s.changeWaiting(list, func(changes *change.List, e store.Expectation, row *store.Row) {
		kinds.Expectation.State.Set(changes, e.ID, e.State, state)
		if row != nil {
			*changes = append(*changes, s.decideOn(*row, decide.Decision{Kind: decide.ToInbox, At: s.At, Saw: row.LastLetter})...)
		}
	})
}

func (s *step) changeWaiting(list []store.Expectation, do func(*change.List, store.Expectation, *store.Row)) error {
	rows, err := s.putOffsFor(list)
	if err != nil {
		return err
	}
	var changes change.List
	for _, e := range list {
		if row, ok := rows[e.ID]; ok {
			do(&changes, e, &row)
		} else {
			do(&changes, e, nil)
		}
		s.Touch(decide.Conversation.Of(e.Conversation))
	}
	return s.Change(changes)
}
