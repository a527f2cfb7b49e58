package app

import (
	"context"
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// EntryRef names an entry.
type EntryRef struct {
	Kind string `json:"kind" enum:"return,limit,reminder,due,appointment"`
	ID   int64  `json:"id"`
	// Version is that of a return as it was seen; nil makes no difference.
	Version *int64 `json:"version,omitempty"`
}

// EditingAhead is a change of what is to come.
type EditingAhead struct {
	Command string `json:"command" minLength:"8" maxLength:"80"`
	// Action is what to do: move, cancel or fetch.
	Action string     `json:"action" enum:"move,cancel,fetch"`
	On     []EntryRef `json:"on" minItems:"1" maxItems:"100000"`
	// When is where to move to.
	When string `json:"when,omitempty" maxLength:"200"`
	// Sure is that of Deciding.
	Sure bool `json:"sure,omitempty" doc:"Put off all the same what was put off often already; without it that is refused as put-off-again, with what can be done instead"`
}

// EditAhead moves entries to another time, takes their time away, or fetches
// conversations back now, all as one step.
func (a *App) EditAhead(ctx context.Context, who store.Who, e EditingAhead) (Decided, error) {
	cmd := work.Command{ID: e.Command, Who: who, Actor: work.ByPerson, Kind: "ahead:" + e.Action}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.sure = e.Sure
		var w wished
		if e.Action == "move" {
			if e.When == "" {
				return Decided{}, work.Invalid("when", "Moving needs a time.")
			}
			var err error
			if w.Wish, w.spot, err = s.wish(e.When); err != nil {
				return Decided{}, err
			}
		}
		gone := 0
		for _, ref := range e.On {
			if err := s.editEntry(ref, e.Action, w); err != nil {
				if len(e.On) == 1 || !errorsIsGone(err) {
					return Decided{}, err
				}
				gone++
			}
		}
		s.Title = aheadTitle(s, e.Action, e.On, w)
		if gone > 0 {
			s.Title += fmt.Sprintf("; %d had gone", gone)
		}
		var returns []int64
		for _, ref := range e.On {
			if ref.Kind == "return" {
				returns = append(returns, ref.ID)
			}
		}
		now, err := s.standing(returns)
		return Decided{Entry: s.ID, Title: s.Title, Now: now}, err
	})
}

var errGone = &work.Problem{Kind: "gone", Reason: "That is no longer to come."}

func errorsIsGone(err error) bool { return err == errGone }

func aheadTitle(s *step, action string, on []EntryRef, w wished) string {
	what := fmt.Sprintf("%d entries", len(on))
	if len(on) == 1 {
		what = map[string]string{"return": "the return", "limit": "the limit", "reminder": "the reminder", "due": "the due time", "appointment": "the appointment"}[on[0].Kind]
	}
	switch action {
	case "move":
		return "Moved " + what + " " + s.untilWords(w.Moment, w.If, w.Spot, w.Who)
	case "fetch":
		return "Fetched back what was ahead"
	}
	return "Cancelled " + what
}

// entryActions are what can be done with entries of each kind.
var entryActions map[string]entryAction

type entryAction struct {
	move   func(s *step, id int64, w wished) error
	cancel func(s *step, id int64) error
}

func init() { // they refer to what refers to them
	entryActions = map[string]entryAction{
		"return":      {(*step).moveReturn, (*step).cancelReturn},
		"limit":       {(*step).moveLimit, (*step).cancelLimit},
		"reminder":    {(*step).moveReminder, (*step).cancelReminder},
		"due":         {(*step).moveDue, (*step).cancelDue},
		"appointment": {(*step).moveAppointment, (*step).cancelAppointment},
	}
}

func (s *step) editEntry(ref EntryRef, action string, w wished) error {
	act, ok := entryActions[ref.Kind]
	if !ok {
		return work.Invalid("kind", "Nothing is known of “%s”.", ref.Kind)
	}
	if ref.Version != nil && ref.Kind == "return" {
		if row, err := s.Conversation(ref.ID); err == nil {
			s.checkSeen(row, ref.Version)
		}
	}
	switch action {
	case "move":
		return act.move(s, ref.ID, w)
	case "cancel":
		return act.cancel(s, ref.ID)
	case "fetch":
		if ref.Kind != "return" {
			return work.Refuse("Only letters that were put off can be fetched back.")
		}
		return s.decideReturn(ref.ID, decide.Decision{Kind: decide.ToInbox}, wishes{})
	}
	return work.Invalid("action", "“%s” can't be done here.", action)
}

// decideReturn decides on a conversation that stands in Later.
func (s *step) decideReturn(id int64, d decide.Decision, ws wishes) error {
	row, err := s.Conversation(id)
	if err != nil || row.Place != decide.Later {
		return errGone
	}
	changes, err := s.release([]seenRow{{row, row.LastLetter, nil}})
	if err != nil {
		return err
	}
	d.At, d.Saw = s.At, row.LastLetter
	if err := ws.put(s, row, &d); err != nil {
		return err
	}
	return s.Change(append(changes, s.decideOn(row, d)...))
}

func (s *step) moveReturn(id int64, w wished) error {
	return s.decideReturn(id, decide.Decision{Kind: decide.PutOff}, wishes{all: &w})
}

// cancelReturn leaves the conversation in the archive: it does not come back.
func (s *step) cancelReturn(id int64) error {
	return s.decideReturn(id, decide.Decision{Kind: decide.Done}, wishes{})
}

func (s *step) moveLimit(id int64, w wished) error {
	e, err := s.Expectation(id)
	if err != nil || e.State != waiting.Open {
		return errGone
	}
	if !w.Timed() {
		return work.Invalid("when", "A limit needs a time.")
	}
	return s.setLimit(e, &w.Moment)
}

// cancelLimit waits no longer. A letter that was put off until then stays in
// the archive, as any whose return is cancelled.
func (s *step) cancelLimit(id int64) error {
	e, err := s.Expectation(id)
	if err != nil || e.State != waiting.Open {
		return errGone
	}
	if e.ForReturn {
		if err := s.cancelReturn(e.Conversation); err != errGone {
			return err
		}
	}
	return s.setWaiting(e, waiting.Dropped)
}

func (s *step) moveReminder(id int64, w wished) error {
	_, r, err := s.ReminderOf(id)
	if err != nil {
		return errGone
	}
	if !w.Timed() {
		return work.Invalid("when", "A reminder needs a time.")
	}
	var changes change.List
	kinds.Reminder.Moment.Set(&changes, id, r.Moment, w.Moment)
	kinds.Reminder.State.Set(&changes, id, r.State, "set")
	return s.Change(changes)
}

func (s *step) cancelReminder(id int64) error {
	if _, _, err := s.ReminderOf(id); err != nil {
		return errGone
	}
	var changes change.List
	kinds.Reminder.Alive.Set(&changes, id, true, false)
	return s.Change(changes)
}

func (s *step) moveDue(id int64, w wished) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status.Closed() {
		return errGone
	}
	moment := w.Moment
	return s.setDue(f, &moment)
}

func (s *step) cancelDue(id int64) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status.Closed() {
		return errGone
	}
	return s.setDue(f, nil)
}

func (s *step) setDue(f store.FollowUp, due *when.Moment) error {
	var changes change.List
	kinds.FollowUp.Due.Set(&changes, f.ID, f.Due, due)
	if f.Start != nil && followup.CheckTimes(f.Start, due, nil) != nil {
		kinds.FollowUp.Start.Set(&changes, f.ID, f.Start, (*when.Moment)(nil)) // it starts when it must
	}
	if err := s.moveReminders(&changes, f, f.Start, due); err != nil {
		return err
	}
	for _, l := range f.Letters {
		s.Touch(decide.Conversation.Of(l.Conversation))
	}
	return s.Change(changes)
}
