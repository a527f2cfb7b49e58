package app

import (
	"context"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// What the job adds to the kernel stands here, each a line: what falls due, what
// acts on a letter that was let in, and which steps are undone in a way of
// their own.

// register tells the kernel what falls due.
func (a *App) register() {
	happen := func(do func(s *step, id int64) error) func(*work.Step, schedule.Event) error {
		return func(ws *work.Step, ev schedule.Event) error {
			s := a.on(ws)
			if err := do(s, ev.ID); err != nil {
				return err
			}
			return s.closing()
		}
	}
	a.Dues = work.Dues{
		schedule.Delivery: {
			Happen: happen(func(s *step, _ int64) error { return s.deliver() }), Version: (*store.Tx).DeliverySeq, Undoable: true,
			Failed: "A delivery did not come",
		},
		schedule.Limit:    {Happen: happen((*step).limit), Field: kinds.Expectation.Until.Named, Failed: "A waiting limit could not be seen to"},
		schedule.Return:   {Happen: happen((*step).returnDue), Field: decide.Conversation.Return.Named, Failed: "A letter did not come back"},
		schedule.Look:     {Own: a.lookThrough, Failed: "Someday letters were not looked through"},
		schedule.Reminder: {Happen: happen((*step).reminderDue), Field: kinds.Reminder.State.Named, Failed: "A reminder did not ring"},
		schedule.Alarm:    {Happen: happen((*step).alarm), Field: kinds.Appointment.RemindState.Named, Failed: "An appointment’s reminder did not ring"},
		schedule.Send:     {Own: a.transmit, Beside: true, Failed: "A letter did not leave"},
		schedule.Post:     {Own: a.bring, Failed: "A letter could not be taken in"},
		schedule.Purge:    {Happen: happen((*step).purge), Field: decide.Conversation.Place.Named, Failed: "The bin could not let go of a letter"},
		schedule.Series:   {Happen: happen((*step).extendSeries), Failed: "A recurring appointment could not be reckoned further ahead"},
		schedule.Surface:  {Happen: happen(func(s *step, _ int64) error { return s.surface() }), Undoable: true, Failed: "A kind of the Shallows did not come up"},
		schedule.LetIn:    {Happen: happen((*step).letInLate), Failed: "A held letter could not be let in"},
	}
}

// undoer takes back a step in a way of its own.
type undoer func(s *step, e store.Entry, recorded []change.Recorded) (Undone, error)

// undoers are those of the kinds of steps that need one.
var undoers = map[string]undoer{}

func init() { // they refer to what refers to them
	undoers[importKind] = (*step).undoImport
	for _, kind := range roundKinds {
		undoers[kind] = (*step).undoRound
	}
	undoers[planKind] = (*step).undoPlan
	undoers[show.SortedKind] = (*step).undoSorted
}

// arrivals act on letters that have just been let in and stand in their
// conversations: one by one where mail flows, many at once in a round.
var arrivals = []func(s *step, letters []store.Placed) error{
	(*step).ruled, (*step).answered, (*step).comeUp,
}

// actOn lets everything act on letters that were let in.
func (s *step) actOn(letters []store.Placed) error {
	for _, act := range arrivals {
		if err := act(s, letters); err != nil {
			return err
		}
	}
	return nil
}

// bring takes in a letter of the stand-in post office, or lets it go where there
// is none.
func (a *App) bring(ctx context.Context, ev schedule.Event) error {
	if a.Post == nil {
		return a.Store.TakeBagged(ctx, ev.ID)
	}
	return a.Post.Bring(ctx, ev.ID)
}
