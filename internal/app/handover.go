package app

import (
	"context"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// handOver lets a follow-up wait for whoever it is handed to.
func (s *step) handOver(id int64, to letter.Address) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive {
		return work.Gone("That follow-up is no longer there. The letter was kept as a draft.")
	}
	var changes change.List
	kinds.FollowUp.Status.Set(&changes, f.ID, f.Status, followup.Waiting)
	kinds.FollowUp.Assignee.Set(&changes, f.ID, f.Assignee, to.Display())
	return s.Change(changes)
}

// WaitFollowUp lets a follow-up wait for an answer to its letter until a
// phrase; one without a letter for a reminder then.
func (a *App) WaitFollowUp(ctx context.Context, who store.Who, command string, id int64, until string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		f, err := s.FollowUp(id)
		if err != nil || !f.Alive || f.Status.Closed() {
			return Decided{}, work.Gone("That follow-up is no longer open.")
		}
		moment, err := s.read(until)
		if err != nil {
			return Decided{}, err
		}
		if moment.Precision == when.Open {
			return Decided{}, work.Invalid("until", "Waiting needs a limit.")
		}
		var changes change.List
		kinds.FollowUp.Status.Set(&changes, f.ID, f.Status, followup.Waiting)
		s.Title = "“" + say.Shorten(f.Title, 60) + "” waits until " + s.speak(*moment)
		if err := s.waitForLetter(f, *moment); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title, FollowUp: id}, s.Change(changes)
	})
}

func (s *step) waitForLetter(f store.FollowUp, limit when.Moment) error {
	var changes change.List
	for _, l := range f.Letters {
		row, err := s.Conversation(l.Conversation)
		if l.Conversation == 0 || err != nil || row.From.Email == "" {
			continue
		}
		id, err := s.AddExpectation(store.Expectation{
			Expectation: waiting.Expectation{Conversation: row.ID, Since: s.At, Persons: []string{row.From.Key()}}, Until: &limit, FollowUp: f.ID,
		})
		if err != nil {
			return err
		}
		kinds.Expectation.Alive.Set(&changes, id, false, true)
		return s.Change(changes)
	}
	id, err := s.AddReminder(f.ID, limit, nil)
	if err != nil {
		return err
	}
	kinds.Reminder.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// resume opens a follow-up again that waited: the answer is there, or it has
// not come in time.
func (s *step) resume(changes *change.List, id int64) error {
	if id == 0 {
		return nil
	}
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status != followup.Waiting {
		return nil //nolint:nilerr // gone, or decided otherwise since
	}
	kinds.FollowUp.Status.Set(changes, f.ID, f.Status, followup.Open)
	return nil
}
