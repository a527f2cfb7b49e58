package app

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
)

// returnDue brings a conversation back, or leaves it to the next delivery when
// only its day was meant and delivery is held.
func (s *step) returnDue(conversation int64) error {
	row, err := s.Conversation(conversation)
	if err != nil {
		return err
	}
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	// Nothing comes back before it lay there: a part that is split off late, of what is due already.
	if s.At.Before(row.PlaceSince) {
		s.At = row.PlaceSince
	}
	if row.Return != nil && delivery.Waits(row.Return.When.Precision == when.ToDay, g.Reaches(0, s.At)) {
		s.Title = "Due, and waiting for the next delivery: “" + say.Shorten(row.Title(), 60) + "”"
		return s.Await(conversation)
	}
	return s.comeBack(conversation)
}

// limit brings a conversation back because nobody has answered in time.
func (s *step) limit(id int64) error {
	e, err := s.Expectation(id)
	if err != nil {
		return err
	}
	row, err := s.Conversation(e.Conversation)
	if err != nil {
		return err
	}
	person := ""
	if len(e.Persons) > 0 {
		person = s.nameOf(e.Persons[0])
	}
	s.Title = "No answer from " + person + ": “" + say.Shorten(row.Title(), 60) + "”"
	changes := decide.Limit(row.State(), s.At, e.Since, person)
	kinds.Expectation.Late.Set(&changes, e.ID, false, true)
	if err := s.resume(&changes, e.FollowUp); err != nil {
		return err
	}
	return s.Change(changes)
}

func (s *step) nameOf(email string) string {
	known, err := s.Knows(email, 1)
	if err != nil || len(known) == 0 || known[0].Name == "" {
		return email
	}
	return known[0].Name
}

// reminderDue lets a reminder ring, or leaves it to the next delivery when only
// its day was meant and delivery is held.
func (s *step) reminderDue(id int64) error {
	_, r, err := s.ReminderOf(id)
	if err != nil {
		return err
	}
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	if !delivery.Waits(r.Moment.Precision == when.ToDay, g.Reaches(0, s.At)) {
		return s.ring(id)
	}
	s.Title = "A reminder waits for the next delivery"
	var changes change.List
	kinds.Reminder.State.Set(&changes, r.ID, r.State, "waits")
	return s.Change(changes)
}

func (s *step) ring(id int64) error {
	followUp, r, err := s.ReminderOf(id)
	if err != nil {
		return err
	}
	f, err := s.FollowUp(followUp)
	if err != nil {
		return err
	}
	state := "rang"
	if f.Status.Closed() || !f.Alive {
		state = "seen"
	}
	s.Title = "Reminder: " + f.Title
	var changes change.List
	kinds.Reminder.State.Set(&changes, id, r.State, state)
	return s.Change(changes)
}

// purge lets go of a binned conversation for good.
func (s *step) purge(conversation int64) error {
	s.Title = "Purged from the bin"
	s.Changed = true
	s.Touch(decide.Conversation.Of(conversation))
	if err := s.PurgeCopies(conversation); err != nil {
		return err
	}
	return s.Purge(conversation)
}
