package app

import (
	"context"
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// glance is the longest the scheduler sleeps without a look at the clock,
// since machines sleep too.
const glance = 30 * time.Second

// Run carries out what falls due until ctx ends. Between two due times it
// asks the database nothing.
func (a *App) Run(ctx context.Context) {
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
// its own time and once. It returns when the next thing falls due; zero if
// nothing does.
func (a *App) RunDue(ctx context.Context) (time.Time, error) {
	a.due.Lock()
	defer a.due.Unlock()
	for ctx.Err() == nil {
		ev, ok, err := a.Store.NextDue(ctx)
		if err != nil || !ok {
			return time.Time{}, err
		}
		if ev.Due.After(a.Now()) {
			return ev.Due, nil
		}
		if err := a.happen(ctx, ev); err != nil {
			return a.Now().Add(glance), fmt.Errorf("%s: %w", ev.Key(), err)
		}
	}
	return time.Time{}, ctx.Err()
}

// happen carries out one due event.
func (a *App) happen(ctx context.Context, ev schedule.Event) error {
	switch ev.Kind {
	case schedule.Send:
		return a.transmit(ctx, ev.Owner, ev.ID, ev.Due)
	case schedule.Post:
		if a.Post == nil {
			return a.Store.TakeBagged(ctx, ev.ID)
		}
		return a.Post.Bring(ctx, ev.ID)
	case schedule.Look:
		return a.lookThrough(ctx, ev)
	default:
	}
	cmd := Command{Owner: ev.Owner, Actor: ByClock, Kind: ev.Kind.String(), Title: ev.Kind.String(), At: ev.Due}
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
			s.news.add("conversation", ev.ID)
			return true, s.Purge(ev.ID)
		default:
			return false, fmt.Errorf("nothing is known of %s", ev.Kind)
		}
	})
	return err
}

// dueFields names the field whose value made an event fall due. Its version
// is part of the event's id: the same field set anew is another event.
var dueFields = map[schedule.Kind]struct{ kind, field string }{
	schedule.Limit: {"expectation", "until"}, schedule.Return: {"conversation", "return"},
	schedule.Reminder: {"reminder", "state"}, schedule.Alarm: {"appointment", "remindState"}, schedule.Purge: {"conversation", "place"},
}

func (a *App) eventID(ctx context.Context, ev schedule.Event) (string, error) {
	f := dueFields[ev.Kind]
	return read(ctx, a, ev.Owner, func(tx *store.Tx) (string, error) {
		if ev.Kind == schedule.Delivery {
			seq, err := tx.DeliverySeq()
			return fmt.Sprintf("%s:s%d", ev.Key(), seq), err
		}
		version, err := tx.Version(change.Object{Kind: f.kind, ID: ev.ID}, f.field)
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
	changes.Set(e.Object(), "late", false, true)
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
	changes.Set(r.Object(), "state", r.State, "waits")
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
	changes.Set(change.Object{Kind: "reminder", ID: id}, "state", r.State, state)
	return s.apply(changes)
}
