package app

import (
	"context"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// expect starts waiting for an answer to a letter that is being sent.
func (s *step) expect(conversation int64, persons []letter.Address, messageID string, until *when.Moment) error {
	e := store.Expectation{Expectation: waiting.Expectation{Conversation: conversation, StartID: messageID, Since: s.at}, Until: until}
	for _, p := range persons {
		e.Persons = append(e.Persons, p.Key())
	}
	id, err := s.AddExpectation(e)
	if err != nil {
		return err
	}
	var changes change.List
	changes.Set(change.Object{Kind: "expectation", ID: id}, "alive", false, true)
	return s.apply(changes)
}

// EditWaiting moves the limit of an expectation, says that it was answered, or
// drops it.
func (a *App) EditWaiting(ctx context.Context, owner int64, command string, id int64, state *waiting.State, until *string) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "waiting"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		e, err := s.Expectation(id)
		if err != nil {
			return Decided{}, problem("That is no longer waited for.")
		}
		var changes change.List
		if state != nil {
			changes.Set(e.Object(), "state", e.State, *state)
			s.title = map[waiting.State]string{waiting.Met: "Answered: no longer waiting", waiting.Dropped: "No longer waiting", waiting.Open: "Waiting again"}[*state]
		}
		if until != nil {
			moment, err := s.optional(until)
			if err != nil {
				return Decided{}, err
			}
			changes.Set(e.Object(), "until", e.Until, moment)
			changes.Set(e.Object(), "late", e.Late, false)
			s.title = "Waiting without a limit"
			if moment != nil {
				s.title = "Waiting until " + s.speak(*moment)
			}
		}
		s.news.add("conversation", e.Conversation)
		return Decided{Entry: s.id, Title: s.title}, s.apply(changes)
	})
}
