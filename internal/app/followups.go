package app

import (
	"context"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// FollowUpFields are what a person fills in or changes; nil leaves a field as
// it is. Due and Remind are phrases; "" clears them.
type FollowUpFields struct {
	Title    *string
	Notes    *string
	Due      *string
	Priority *followup.Priority
	Status   *followup.Status
	Remind   *string
	Estimate *int
}

// actionOf proposes a title: the letter's ask as an action.
func actionOf(r seenRow) string { return findings.Action(r.Ask, r.Asks, r.Title()) }

func set[T any](field *T, to *T) {
	if to != nil {
		*field = *to
	}
}

// makeFollowUp makes one follow-up with all the conversations linked.
func (s *step) makeFollowUp(f FollowUpFields, rows []seenRow) (int64, error) {
	new := store.FollowUp{Priority: followup.Normal, Status: followup.Open, MadeAt: s.at}
	if len(rows) > 0 {
		new.Title = actionOf(rows[0])
	}
	set(&new.Title, f.Title)
	set(&new.Notes, f.Notes)
	set(&new.Priority, f.Priority)
	set(&new.Estimate, f.Estimate)
	new.Title = strings.TrimSpace(new.Title)
	due, err := s.optional(f.Due)
	if err != nil {
		return 0, err
	}
	new.Due = due
	remind, err := s.optional(f.Remind)
	if err != nil {
		return 0, err
	}
	return s.addFollowUp(new, rows, remind)
}

func (s *step) addFollowUp(f store.FollowUp, rows []seenRow, remind *when.Moment) (int64, error) {
	if err := followup.Check(f.Title, f.Notes, f.Priority, f.Status); err != nil {
		return 0, problem("The follow-up was not made: %v.", err)
	}
	for _, r := range rows {
		id := r.saw
		if id == 0 || id > r.LastLetter {
			id = r.LastLetter
		}
		f.Letters = append(f.Letters, store.FollowUpLetter{LetterID: id, Subject: r.Title(), Sender: r.From.Display(), Date: r.LastAt, Ask: r.Ask})
	}
	id, err := s.AddFollowUp(f)
	if err != nil {
		return 0, err
	}
	var changes change.List
	changes.Set(change.Object{Kind: "followup", ID: id}, "alive", false, true)
	if remind != nil {
		reminder, err := s.AddReminder(id, *remind)
		if err != nil {
			return 0, err
		}
		changes.Set(change.Object{Kind: "reminder", ID: reminder}, "alive", false, true)
	}
	return id, s.apply(changes)
}

// optional reads a phrase that may be missing or empty.
func (s *step) optional(phrase *string) (*when.Moment, error) {
	if phrase == nil || strings.TrimSpace(*phrase) == "" {
		return nil, nil
	}
	return s.read(*phrase)
}

// NewFollowUp makes a follow-up without a letter.
func (a *App) NewFollowUp(ctx context.Context, owner int64, command string, f FollowUpFields) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "followup:new"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		id, err := s.makeFollowUp(f, nil)
		if err != nil {
			return Decided{}, err
		}
		s.title = "New follow-up “" + shorten(*f.Title, 60) + "”"
		return Decided{Entry: s.id, Title: s.title, FollowUp: id}, nil
	})
}

// EditFollowUp changes fields of a follow-up.
func (a *App) EditFollowUp(ctx context.Context, owner int64, command string, id int64, f FollowUpFields) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		was, err := s.FollowUp(id)
		if err != nil || !was.Alive {
			return Decided{}, problem("That follow-up is no longer there.")
		}
		now := was
		set(&now.Title, f.Title)
		set(&now.Notes, f.Notes)
		set(&now.Priority, f.Priority)
		set(&now.Status, f.Status)
		set(&now.Estimate, f.Estimate)
		now.Title = strings.TrimSpace(now.Title)
		if err := followup.Check(now.Title, now.Notes, now.Priority, now.Status); err != nil {
			return Decided{}, problem("Nothing was changed: %v.", err)
		}
		o := change.Object{Kind: "followup", ID: id}
		var changes change.List
		changes.Set(o, "title", was.Title, now.Title)
		changes.Set(o, "notes", was.Notes, now.Notes)
		changes.Set(o, "priority", was.Priority, now.Priority)
		changes.Set(o, "status", was.Status, now.Status)
		changes.Set(o, "estimate", was.Estimate, now.Estimate)
		if f.Due != nil {
			due, err := s.optional(f.Due)
			if err != nil {
				return Decided{}, err
			}
			changes.Set(o, "due", was.Due, due)
		}
		if f.Remind != nil {
			if err := s.setReminder(&changes, was, *f.Remind); err != nil {
				return Decided{}, err
			}
		}
		for _, l := range was.Letters {
			s.news.add("conversation", l.Conversation)
		}
		s.title = editTitle(was, now)
		return Decided{Entry: s.id, Title: s.title, FollowUp: id}, s.apply(changes)
	})
}

func editTitle(was, now store.FollowUp) string {
	title := "“" + shorten(now.Title, 60) + "”"
	switch {
	case was.Status != now.Status && now.Status == followup.Done:
		return "Completed " + title
	case was.Status != now.Status && now.Status == followup.Dropped:
		return "Dropped " + title
	case was.Status.Closed() && !now.Status.Closed():
		return "Reopened " + title
	}
	return "Changed " + title
}

// setReminder replaces a follow-up's reminder; an empty phrase takes it away.
func (s *step) setReminder(changes *change.List, f store.FollowUp, phrase string) error {
	moment, err := s.optional(&phrase)
	if err != nil {
		return err
	}
	if moment != nil && moment.Precision == when.Open {
		return problem("A reminder needs a time.")
	}
	if f.Reminder != nil {
		o := change.Object{Kind: "reminder", ID: f.Reminder.ID}
		if moment != nil {
			changes.Set(o, "moment", f.Reminder.Moment, *moment)
			changes.Set(o, "state", f.Reminder.State, "set")
			return nil
		}
		changes.Set(o, "alive", true, false)
		return nil
	}
	if moment == nil {
		return nil
	}
	id, err := s.AddReminder(f.ID, *moment)
	if err != nil {
		return err
	}
	changes.Set(change.Object{Kind: "reminder", ID: id}, "alive", false, true)
	return nil
}

// QuietReminder takes note that a reminder was seen, or puts it off to a
// phrase.
func (a *App) QuietReminder(ctx context.Context, owner int64, command string, id int64, until string) (Decided, error) {
	cmd := Command{ID: command, Owner: owner, Actor: ByPerson, Kind: "reminder"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		followUp, r, err := s.ReminderOf(id)
		if err != nil {
			return Decided{}, problem("That reminder is no longer there.")
		}
		o := change.Object{Kind: "reminder", ID: id}
		var changes change.List
		if until == "" {
			s.title = "Reminder seen"
			changes.Set(o, "state", r.State, "seen")
			return Decided{Entry: s.id, Title: s.title, FollowUp: followUp}, s.apply(changes)
		}
		moment, err := s.read(until)
		if err != nil {
			return Decided{}, err
		}
		if moment.Precision == when.Open {
			return Decided{}, problem("A reminder needs a time.")
		}
		changes.Set(o, "moment", r.Moment, *moment)
		changes.Set(o, "state", r.State, "set")
		s.title = "Reminder put off until " + s.speak(*moment)
		return Decided{Entry: s.id, Title: s.title, FollowUp: followUp}, s.apply(changes)
	})
}

// RangView is a reminder that rang.
type RangView struct {
	ID       int64     `json:"id"`
	FollowUp int64     `json:"followUp"`
	Title    string    `json:"title"`
	At       time.Time `json:"at" doc:"When it was due"`
	Words    string    `json:"words"`
	Seen     bool      `json:"seen"`
}

// Rang lists the reminders that rang, the latest first.
func (a *App) Rang(ctx context.Context, owner int64) ([]RangView, error) {
	return read(ctx, a, owner, func(tx *store.Tx) ([]RangView, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return nil, err
		}
		list, err := tx.Rang(100)
		out := make([]RangView, len(list))
		for i, r := range list {
			out[i] = RangView{ID: r.ID, FollowUp: r.FollowUp, Title: r.Title, At: r.When(), Words: v.short(r.When()), Seen: r.State == "seen"}
		}
		return out, err
	})
}
