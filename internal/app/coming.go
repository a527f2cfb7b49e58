package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

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
	Kind string `json:"kind" enum:"return,limit,reminder,due,appointment,send"`
	ID   int64  `json:"id"`
	// Version is that of a return as it was seen; nil makes no difference.
	Version *int64 `json:"version,omitempty"`
}

// EditingAhead is a change of what is to come.
type EditingAhead struct {
	Command string `json:"command" minLength:"8" maxLength:"80"`
	// Action is what to do: move, cancel, fetch, or skip, which leaves one of a recurring letter
	// out.
	Action string     `json:"action" enum:"move,cancel,fetch,skip"`
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
		gone, err := s.editEntries(e.On, e.Action, w)
		switch {
		case err != nil:
			return Decided{}, err
		case gone > 0 && len(e.On) == 1:
			return Decided{}, errGone
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

func aheadTitle(s *step, action string, on []EntryRef, w wished) string {
	what := fmt.Sprintf("%d entries", len(on))
	if len(on) == 1 {
		what = map[string]string{"return": "the return", "limit": "the limit", "reminder": "the reminder", "due": "the due time", "appointment": "the appointment", "send": "the letter"}[on[0].Kind]
	}
	switch action {
	case "move":
		return "Moved " + what + " " + s.untilWords(w.Moment, w.If, w.Spot, w.Who)
	case "skip":
		return s.Title
	case "fetch":
		return "Fetched back what was ahead"
	case "cancel":
		if len(on) == 1 && on[0].Kind == "send" {
			return "The letter is a draft again, and does not leave by itself"
		}
	}
	return "Cancelled " + what
}

// entryActions are what can be done with entries of each kind. All of one kind are
// acted on at once; gone is how many of them are no longer to come.
var entryActions map[string]entryAction

type entryAction struct {
	move   func(s *step, on []EntryRef, w wished) (gone int, err error)
	cancel func(s *step, on []EntryRef) (gone int, err error)
}

func init() { // they refer to what refers to them
	entryActions = map[string]entryAction{
		"return":      {(*step).moveReturns, (*step).cancelReturns},
		"limit":       {(*step).moveLimits, (*step).cancelLimits},
		"reminder":    {(*step).moveReminderEntries, (*step).cancelReminders},
		"due":         {(*step).moveDues, func(s *step, on []EntryRef) (int, error) { return s.setDues(on, nil) }},
		"appointment": {(*step).moveAppointments, (*step).cancelAppointments},
		"send":        {(*step).moveSends, (*step).cancelSends},
	}
}

// editEntries acts on entries, kind by kind in the order in which they are named.
func (s *step) editEntries(on []EntryRef, action string, w wished) (gone int, err error) {
	var order []string
	byKind := map[string][]EntryRef{}
	for _, ref := range on {
		if byKind[ref.Kind] == nil {
			order = append(order, ref.Kind)
		}
		byKind[ref.Kind] = append(byKind[ref.Kind], ref)
	}
	for _, kind := range order {
		n, err := s.editOfKind(kind, byKind[kind], action, w)
		if err != nil {
			return 0, err
		}
		gone += n
	}
	return gone, nil
}

func (s *step) editOfKind(kind string, on []EntryRef, action string, w wished) (gone int, err error) {
	act, ok := entryActions[kind]
	if !ok {
		return 0, work.Invalid("kind", "Nothing is known of “%s”.", kind)
	}
	switch action {
	case "move":
		return act.move(s, on, w)
	case "cancel":
		return act.cancel(s, on)
	case "fetch":
		if kind != "return" {
			return 0, work.Refuse("Only letters that were put off can be fetched back.")
		}
		return s.decideReturns(on, decide.Decision{Kind: decide.ToInbox}, wishes{})
	}
	if action == "skip" && kind == "send" {
		return s.skipSends(on)
	}
	return 0, work.Invalid("action", "“%s” can't be done here.", action)
}

// entryIDs are the numbers of entries of one kind, each once.
func entryIDs(on []EntryRef) []int64 {
	ids := make([]int64, 0, len(on))
	taken := make(map[int64]bool, len(on))
	for _, ref := range on {
		if !taken[ref.ID] {
			taken[ref.ID] = true
			ids = append(ids, ref.ID)
		}
	}
	return ids
}

// decideReturns decides on conversations that come back by themselves.
func (s *step) decideReturns(on []EntryRef, d decide.Decision, ws wishes) (gone int, err error) {
	seen := make([]store.Seen, len(on))
	for i, ref := range on {
		seen[i] = store.Seen{ID: ref.ID, Version: ref.Version}
	}
	rows, err := s.named(seen)
	if p := (*work.Problem)(nil); errors.As(err, &p) && p.Kind == "gone" {
		return len(on), nil
	}
	if err != nil {
		return 0, err
	}
	gone = s.missing
	rows = slices.DeleteFunc(rows, func(r seenRow) bool {
		if r.Return != nil {
			return false
		}
		gone++
		return true
	})
	changes, err := s.release(rows)
	if err != nil {
		return 0, err
	}
	for _, r := range rows {
		s.checkSeen(r.Row, r.version)
		d.At, d.Saw = s.At, r.LastLetter
		if err := ws.put(s, r.Row, &d); err != nil {
			return 0, err
		}
		changes = append(changes, s.decideOn(r.Row, d)...)
	}
	return gone, s.Change(changes)
}

func (s *step) moveReturns(on []EntryRef, w wished) (int, error) {
	return s.decideReturns(on, decide.Decision{Kind: decide.PutOff}, wishes{all: &w})
}

// cancelReturns leaves conversations in the archive: they do not come back.
func (s *step) cancelReturns(on []EntryRef) (int, error) {
	return s.decideReturns(on, decide.Decision{Kind: decide.Done}, wishes{})
}

// openLimits are the expectations of entries that are waited for still.
func (s *step) openLimits(on []EntryRef) (open []store.Expectation, gone int, err error) {
	ids := entryIDs(on)
	open, err = s.ExpectationsByID(ids)
	open = slices.DeleteFunc(open, func(e store.Expectation) bool { return e.State != waiting.Open })
	return open, len(ids) - len(open), err
}

func (s *step) moveLimits(on []EntryRef, w wished) (int, error) {
	if !w.Timed() {
		return 0, work.Invalid("when", "A limit needs a time.")
	}
	open, gone, err := s.openLimits(on)
	if err != nil {
		return 0, err
	}
	return gone, s.setLimits(open, &w.Moment)
}

// cancelLimits waits no longer. A letter that was put off until then stays in
// the archive, as any whose return is cancelled.
func (s *step) cancelLimits(on []EntryRef) (int, error) {
	open, gone, err := s.openLimits(on)
	if err != nil {
		return 0, err
	}
	var returns []EntryRef
	for _, e := range open {
		if e.ForReturn {
			returns = append(returns, EntryRef{Kind: "return", ID: e.Conversation})
		}
	}
	if len(returns) > 0 {
		if _, err := s.cancelReturns(returns); err != nil {
			return 0, err
		}
		if open, _, err = s.openLimits(on); err != nil { // with their returns they have ended
			return 0, err
		}
	}
	return gone, s.setWaiting(open, waiting.Dropped)
}

func (s *step) moveReminderEntries(on []EntryRef, w wished) (int, error) {
	if !w.Timed() {
		return 0, work.Invalid("when", "A reminder needs a time.")
	}
	return s.changeReminders(on, func(changes *change.List, r store.Reminder) {
		kinds.Reminder.Moment.Set(changes, r.ID, r.Moment, w.Moment)
		kinds.Reminder.State.Set(changes, r.ID, r.State, "set")
	})
}

func (s *step) cancelReminders(on []EntryRef) (int, error) {
	return s.changeReminders(on, func(changes *change.List, r store.Reminder) {
		kinds.Reminder.Alive.Set(changes, r.ID, true, false)
	})
}

func (s *step) changeReminders(on []EntryRef, do func(*change.List, store.Reminder)) (gone int, err error) {
	ids := entryIDs(on)
	list, err := s.RemindersByID(ids)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, r := range list {
		do(&changes, r)
	}
	return len(ids) - len(list), s.Change(changes)
}

func (s *step) moveDues(on []EntryRef, w wished) (int, error) {
	moment := w.Moment
	return s.setDues(on, &moment)
}

// setDues changes when follow-ups are due; nil takes their due away.
func (s *step) setDues(on []EntryRef, due *when.Moment) (gone int, err error) {
	ids := entryIDs(on)
	list, err := s.FollowUpsByID(ids)
	if err != nil {
		return 0, err
	}
	list = slices.DeleteFunc(list, func(f store.FollowUp) bool { return !f.Alive || f.Status.Closed() })
	var changes change.List
	for _, f := range list {
		if err := s.setDue(&changes, f, due); err != nil {
			return 0, err
		}
	}
	return len(ids) - len(list), s.Change(changes)
}

func (s *step) setDue(changes *change.List, f store.FollowUp, due *when.Moment) error {
	kinds.FollowUp.Due.Set(changes, f.ID, f.Due, due)
	if f.Start != nil && followup.CheckTimes(f.Start, due, nil) != nil {
		kinds.FollowUp.Start.Set(changes, f.ID, f.Start, (*when.Moment)(nil)) // it starts when it must
	}
	for _, l := range f.Letters {
		s.Touch(decide.Conversation.Of(l.Conversation))
	}
	return s.moveReminders(changes, f, f.Start, due)
}

// Appointments are moved and called off one by one: those who are invited are told.
func (s *step) moveAppointments(on []EntryRef, w wished) (int, error) {
	return eachEntry(on, func(id int64) error { return s.moveAppointment(id, w) })
}

func (s *step) cancelAppointments(on []EntryRef) (int, error) {
	return eachEntry(on, s.cancelAppointment)
}

func eachEntry(on []EntryRef, do func(id int64) error) (gone int, err error) {
	for _, ref := range on {
		switch err := do(ref.ID); {
		case err == errGone:
			gone++
		case err != nil:
			return 0, err
		}
	}
	return gone, nil
}
