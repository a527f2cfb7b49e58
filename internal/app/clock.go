package app

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// glance is the longest the scheduler sleeps without a look at the clock,
// since machines sleep too.
const glance = 30 * time.Second

// breath is how long the scheduler waits where the database can't be used: the
// disk is full, say. Nothing is at fault then, and all goes on once it can.
const breath = time.Second

// sendersAtOnce is how many letters are handed over at the same time.
const sendersAtOnce = 4

// Run carries out what falls due until ctx ends. Between two due times it
// asks the database nothing. Letters leave beside the clock: a slow mail
// service delays nobody's returns.
func (a *App) Run(ctx context.Context) {
	var senders sync.WaitGroup
	defer senders.Wait()
	turn := make(chan struct{}, sendersAtOnce)
	a.due.Lock()
	a.beside = func(send func()) {
		senders.Go(func() {
			select {
			case turn <- struct{}{}:
				defer func() { <-turn }()
				send()
			case <-ctx.Done():
			}
		})
	}
	a.due.Unlock()
	for {
		next, err := a.RunDue(ctx)
		if err != nil && ctx.Err() == nil {
			a.Log.Error("what fell due could not be carried out; trying again soon", "reason", err)
		}
		if !a.sleepUntil(ctx, next) {
			return
		}
	}
}

// sleepUntil waits for the time, or for a change; false when ctx has ended.
func (a *App) sleepUntil(ctx context.Context, next time.Time) bool {
	for {
		wait := glance
		if !next.IsZero() {
			wait = min(max(next.Sub(a.Clock.Now()), time.Millisecond), glance)
		}
		select {
		case <-ctx.Done():
			return false
		case <-a.wake:
			return true
		case <-a.Clock.After(wait):
			if !next.IsZero() && !a.Clock.Now().Before(next) {
				return true
			}
		}
	}
}

// RunDue carries out everything due by now, one by one in due order, each at
// its own time and once. One that fails is taken out of the way and tried
// again later (see trouble.go); the others go on. It returns when the next
// thing falls due; zero if nothing does. An error says that the database can't
// be used, or not all of it.
func (a *App) RunDue(ctx context.Context) (time.Time, error) {
	a.due.Lock()
	defer a.due.Unlock()
	var last schedule.Event
	for ctx.Err() == nil {
		ev, at, ok, unknown := a.nextEvent(ctx)
		if !ok || at.After(a.Now()) {
			if unknown != nil {
				at = earlier(at, a.Now().Add(breath))
			}
			return at, unknown
		}
		var err error
		switch {
		case ev == last: // it says that it happened, and still falls due
			err = errNothingDone
		case ev.Kind == schedule.Send:
			a.startSending(ctx, ev)
			continue
		default:
			err = a.attempt(ctx, ev)
		}
		if err == nil {
			last = ev
			continue
		}
		if err := a.setAside(ctx, ev, err); err != nil {
			return a.Now().Add(breath), err
		}
	}
	return time.Time{}, ctx.Err()
}

var errNothingDone = errors.New("it was carried out already, and yet it is still due")

// nextEvent is what is to happen first, and when: something that falls due, or
// the next try of something that failed; ok is false if there is nothing. An
// error means that not everything could be looked for.
func (a *App) nextEvent(ctx context.Context) (ev schedule.Event, at time.Time, ok bool, err error) {
	for {
		sending := a.sending.list()
		next, ok, err := a.Store.NextDue(ctx, sending)
		stuck, stuckErr := a.Store.NextStuck(ctx, sending)
		switch {
		case errors.Is(stuckErr, store.ErrNotFound):
			return next, next.Due, ok, err
		case stuckErr != nil:
			return next, next.Due, ok, errors.Join(err, stuckErr)
		case ok && next.Due.Before(stuck.AgainAt):
			return next, next.Due, ok, err
		case stuck.AgainAt.After(a.Now()):
			return schedule.Event{}, stuck.AgainAt, true, err
		}
		again, still, againErr := a.Store.StillDue(ctx, stuck.Kind, stuck.Object)
		if still {
			return again, stuck.AgainAt, true, err
		}
		if againErr == nil {
			againErr = a.Store.FreeStuck(ctx, stuck.Kind, stuck.Object)
		}
		if againErr != nil {
			return next, next.Due, ok, errors.Join(err, againErr)
		}
	}
}

// earlier is the earlier of two times, of which zero is none.
func earlier(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}

// attempt lets an event happen. A panic in it is an error like others.
func (a *App) attempt(ctx context.Context, ev schedule.Event) (err error) {
	defer a.caught("an event", &err)
	if err := a.happen(ctx, ev); err != nil {
		return err
	}
	return a.freed(ctx, ev)
}

// happen carries out one due event.
func (a *App) happen(ctx context.Context, ev schedule.Event) error {
	switch ev.Kind {
	case schedule.Send:
		return a.transmit(ctx, ev)
	case schedule.Post:
		if a.Post == nil {
			return a.Store.TakeBagged(ctx, ev.ID)
		}
		return a.Post.Bring(ctx, ev.ID)
	case schedule.Look:
		return a.lookThrough(ctx, ev)
	default:
	}
	cmd := Command{Who: store.Nobody(ev.Owner), Actor: ByClock, Kind: ev.Kind.String(), Title: ev.Kind.String(), At: ev.Due}
	var err error
	if cmd.ID, err = a.eventID(ctx, ev); err != nil {
		return err
	}
	_, err = run(ctx, a, cmd, func(s *step) (bool, error) {
		s.final = ev.Kind != schedule.Delivery
		switch ev.Kind {
		case schedule.Delivery:
			return true, s.deliver()
		case schedule.Limit:
			return true, s.limit(ev.ID)
		case schedule.Return:
			return true, s.returnDue(ev.ID)
		case schedule.Reminder:
			return true, s.reminderDue(ev.ID)
		case schedule.Alarm:
			return true, s.alarm(ev.ID)
		case schedule.Purge:
			s.title = "Purged from the bin"
			s.changed = true
			s.news.add(decide.Conversation.Of(ev.ID))
			return true, s.Purge(ev.ID)
		case schedule.Series:
			return true, s.extendSeries(ev.ID)
		case schedule.LetIn:
			s.title = "A letter that a delivery had to leave was let in"
			return true, s.letInLate(ev.ID)
		default:
			return false, fmt.Errorf("nothing is known of %s", ev.Kind)
		}
	})
	return err
}

// dueFields names the field whose value made an event fall due. Its version
// is part of the event's id: the same field set anew is another event.
var dueFields = map[schedule.Kind]change.Named{
	schedule.Limit: kinds.Expectation.Until.Named, schedule.Return: decide.Conversation.Return.Named,
	schedule.Reminder: kinds.Reminder.State.Named, schedule.Alarm: kinds.Appointment.RemindState.Named, schedule.Purge: decide.Conversation.Place.Named,
}

func (a *App) eventID(ctx context.Context, ev schedule.Event) (string, error) {
	f := dueFields[ev.Kind]
	return read(ctx, a, store.Nobody(ev.Owner), func(tx *store.Tx) (string, error) {
		if ev.Kind == schedule.Delivery {
			seq, err := tx.DeliverySeq()
			return fmt.Sprintf("%s:s%d", ev.Key(), seq), err
		}
		version, err := tx.Version(f, ev.ID)
		return fmt.Sprintf("%s:v%d", ev.Key(), version), err
	})
}

// returnDue brings a conversation back, or leaves it to the next delivery when
// only its day was meant and delivery is held.
func (s *step) returnDue(conversation int64) error {
	row, err := s.Conversation(conversation)
	if err != nil {
		return err
	}
	g, err := gatesOf(s.Tx)
	if err != nil {
		return err
	}
	if row.Return != nil && row.Return.When.Precision == when.ToDay && !g.reaches(0, s.at) {
		s.title = "Due, and waiting for the next delivery: “" + shorten(row.Title(), 60) + "”"
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
	s.title = "No answer from " + person + ": “" + shorten(row.Title(), 60) + "”"
	changes := decide.Limit(row.State(), s.at, e.Since, person)
	kinds.Expectation.Late.Set(&changes, e.ID, false, true)
	if err := s.resume(&changes, e.FollowUp); err != nil {
		return err
	}
	return s.apply(changes)
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
	g, err := gatesOf(s.Tx)
	if err != nil {
		return err
	}
	if r.Moment.Precision != when.ToDay || g.reaches(0, s.at) {
		return s.ring(id)
	}
	s.title = "A reminder waits for the next delivery"
	var changes change.List
	kinds.Reminder.State.Set(&changes, r.ID, r.State, "waits")
	return s.apply(changes)
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
	s.title = "Reminder: " + f.Title
	var changes change.List
	kinds.Reminder.State.Set(&changes, id, r.State, state)
	return s.apply(changes)
}
