package app

import (
	"context"
	"crypto/rand"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// AppointmentFields are what is filled in or changed; nil leaves a field. When
// is a phrase: a start ("fri 10"), or from start to end ("fri 10 to 11:30").
type AppointmentFields struct {
	Title     *string
	When      *string
	Minutes   *int
	Place     *string
	Notes     *string
	Attendees *[]string
	Remind    *int // minutes before, -1 for never
	Free      *bool
	// Recurs is how a new one recurs, as a phrase.
	Recurs *string
}

const (
	maxAttendees = 200

	maxLength = 31 * 24 * time.Hour
)

// fillAppointment puts what was typed into an appointment.
func (s *step) fillAppointment(a *store.Appointment, f AppointmentFields) error {
	set(&a.Title, f.Title)
	set(&a.Place, f.Place)
	set(&a.Notes, f.Notes)
	set(&a.Remind, f.Remind)
	set(&a.Free, f.Free)
	a.Title, a.Place = strings.Join(strings.Fields(a.Title), " "), strings.Join(strings.Fields(a.Place), " ")
	if f.When != nil {
		p, err := s.Person()
		if err != nil {
			return err
		}
		if a.Start, a.End, err = show.ReadWhen(*f.When, a, s.At, p.Calendar()); err != nil {
			return err
		}
	}
	if f.Minutes != nil && a.Start.Precision == when.ToMinute {
		a.End = a.Start.UTC.Add(time.Duration(*f.Minutes) * time.Minute)
	}
	if f.Attendees != nil {
		list, err := checkAddresses(*f.Attendees)
		if err != nil {
			return err
		}
		old := a.Attendees
		a.Attendees = nil
		for _, to := range list {
			if slices.ContainsFunc(a.Attendees, func(x meeting.Attendee) bool { return x.Key() == to.Key() }) {
				continue
			}
			i := slices.IndexFunc(old, func(x meeting.Attendee) bool { return x.Key() == to.Key() })
			if i >= 0 {
				a.Attendees = append(a.Attendees, old[i])
				continue
			}
			a.Attendees = append(a.Attendees, meeting.Attendee{Address: to, Reply: meeting.NoReply})
		}
	}
	return checkAppointment(*a)
}

func checkAppointment(a store.Appointment) error {
	switch {
	case a.Title == "" || len(a.Title) > 400:
		return work.Invalid("title", "An appointment needs a title, not too long a one.")
	case a.Start.UTC.IsZero():
		return work.Invalid("when", "An appointment needs a time.")
	case !a.End.After(a.Start.UTC):
		return work.Invalid("when", "It would end before it starts.")
	case a.End.Sub(a.Start.UTC) > maxLength:
		return work.Invalid("when", "An appointment takes a month at most.")
	case len(a.Place) > 400 || len(a.Notes) > 100_000:
		return work.Invalid("notes", "The place or the notes are too long.")
	case len(a.Attendees) > maxAttendees:
		return work.Invalid("attendees", "Up to %d people can be invited at once.", maxAttendees)
	case a.Remind < -1 || a.Remind > 60*24*28:
		return work.Invalid("remind", "A reminder comes at the start, or up to four weeks before.")
	}
	return nil
}

// NewAppointment makes an appointment. With attendees it is sent to them as an
// invitation, which leaves as any letter does.
func (a *App) NewAppointment(ctx context.Context, who store.Who, command string, f AppointmentFields, conversation int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "appointment"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.appoint(f, conversation) })
}

// appoint is NewAppointment as an action of a step.
func (s *step) appoint(f AppointmentFields, conversation int64) (Decided, error) {
	accounts, err := s.Accounts()
	if err != nil {
		return Decided{}, err
	}
	me := accounts[0]
	_, domain, _ := strings.Cut(me.Address, "@")
	new := store.Appointment{Event: meeting.Event{UID: strings.ToLower(rand.Text()) + "@" + domain}, Mine: true, Remind: 15, Conversation: conversation, MadeAt: s.At}
	if err := s.fillAppointment(&new, f); err != nil {
		return Decided{}, err
	}
	if len(new.Attendees) > 0 {
		new.Organizer = letter.Address{Name: me.Name, Email: me.Address}
	}
	if f.Recurs != nil {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		if new.Series, err = s.repeat(*f.Recurs, new.Event, p.Calendar()); err != nil {
			return Decided{}, err
		}
	}
	if new.Series != nil {
		s.Title = "New appointment “" + say.Shorten(new.Title, 60) + "”, " + say.RecursInWords(new.Series)
		if err := s.invite(new, meeting.Request, new.Attendees); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.addSeries(store.Series{Event: new.Event, Mine: true, Remind: new.Remind, Conversation: conversation}, nil)
	}
	id, err := s.AddAppointment(new)
	if err != nil {
		return Decided{}, err
	}
	new.ID = id
	var changes change.List
	kinds.Appointment.Alive.Set(&changes, new.ID, false, true)
	s.Title = "New appointment “" + say.Shorten(new.Title, 60) + "” " + s.speak(new.Start)
	if err := s.invite(new, meeting.Request, new.Attendees); err != nil {
		return Decided{}, err
	}
	return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
}

// EditAppointment changes an appointment; those invited are told.
func (a *App) EditAppointment(ctx context.Context, who store.Who, command string, id int64, f AppointmentFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "appointment"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		was, err := s.Appointment(id)
		if err != nil || !was.Alive || was.Cancelled {
			return Decided{}, work.Gone("That appointment is no longer there.")
		}
		now := was
		if err := s.fillAppointment(&now, f); err != nil {
			return Decided{}, err
		}
		s.Title = "Changed the appointment “" + say.Shorten(now.Title, 60) + "”"
		return Decided{Entry: s.ID, Title: s.Title}, s.changeAppointment(was, now)
	})
}

// changeAppointment writes down what is different, and tells those invited to
// one's own appointment.
func (s *step) changeAppointment(was, now store.Appointment) error {
	told := was.Title != now.Title || was.Place != now.Place || !was.Start.UTC.Equal(now.Start.UTC) || !was.End.Equal(now.End) || was.Notes != now.Notes ||
		len(was.Attendees) != len(now.Attendees)
	if told && now.Mine && len(now.Attendees) > 0 {
		now.Sequence++
		if now.Organizer.Email == "" {
			accounts, err := s.Accounts()
			if err != nil {
				return err
			}
			now.Organizer = letter.Address{Name: accounts[0].Name, Email: accounts[0].Address}
		}
		if err := s.invite(now, meeting.Request, now.Attendees); err != nil {
			return err
		}
	}
	var gone []meeting.Attendee
	for _, x := range was.Attendees {
		if !slices.ContainsFunc(now.Attendees, func(y meeting.Attendee) bool { return y.Key() == x.Key() }) {
			gone = append(gone, x)
		}
	}
	if now.Mine && len(gone) > 0 {
		if err := s.invite(now, meeting.Cancel, gone); err != nil {
			return err
		}
	}
	var changes change.List
	kinds.Appointment.Title.Set(&changes, was.ID, was.Title, now.Title)
	kinds.Appointment.Place.Set(&changes, was.ID, was.Place, now.Place)
	kinds.Appointment.Notes.Set(&changes, was.ID, was.Notes, now.Notes)
	kinds.Appointment.Start.Set(&changes, was.ID, was.Start, now.Start)
	kinds.Appointment.End.Set(&changes, was.ID, was.End.UnixMilli(), now.End.UnixMilli())
	kinds.Appointment.Free.Set(&changes, was.ID, was.Free, now.Free)
	kinds.Appointment.Sequence.Set(&changes, was.ID, was.Sequence, now.Sequence)
	kinds.Appointment.Attendees.Set(&changes, was.ID, show.OrEmpty(was.Attendees), show.OrEmpty(now.Attendees))
	kinds.Appointment.Reply.Set(&changes, was.ID, was.Reply, now.Reply)
	kinds.Appointment.Cancelled.Set(&changes, was.ID, was.Cancelled, now.Cancelled)
	kinds.Appointment.Remind.Set(&changes, was.ID, was.Remind, now.Remind)
	if !was.Start.UTC.Equal(now.Start.UTC) || was.Remind != now.Remind {
		state := "set"
		if now.Remind >= 0 && now.Start.UTC.Add(-time.Duration(now.Remind)*time.Minute).Before(s.At) {
			state = "seen"
		}
		kinds.Appointment.RemindState.Set(&changes, was.ID, was.RemindState, state)
	}
	return s.Change(changes)
}

// CancelAppointment calls an appointment off, or with all the series that it is
// one of; those invited are told.
func (a *App) CancelAppointment(ctx context.Context, who store.Who, command string, id int64, all bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "appointment"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		cancel := s.cancelAppointment
		if all {
			cancel = s.cancelSeries
		}
		if err := cancel(id); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

func (s *step) cancelAppointment(id int64) error {
	was, err := s.Appointment(id)
	if err != nil || !was.Alive {
		return errGone
	}
	if was.Mine && !was.Cancelled && was.End.After(s.At) {
		told := was
		told.Sequence++
		if err := s.invite(told, meeting.Cancel, was.Attendees); err != nil {
			return err
		}
	}
	var changes change.List
	kinds.Appointment.Alive.Set(&changes, was.ID, true, false)
	s.Title = "Called off “" + say.Shorten(was.Title, 60) + "”"
	return s.Change(changes)
}

// cancelSeries calls off all of a series that is not over.
func (s *step) cancelSeries(id int64) error {
	was, err := s.Appointment(id)
	if err != nil || !was.Alive {
		return errGone
	}
	if was.Mine {
		told := was
		told.Recurrence = time.Time{}
		told.Sequence++
		if err := s.invite(told, meeting.Cancel, was.Attendees); err != nil {
			return err
		}
	}
	s.Title = "Called off the series “" + say.Shorten(was.Title, 60) + "”"
	return s.endSeries(was.UID, func(a store.Appointment) bool { return a.End.Before(s.At) })
}

func (s *step) moveAppointment(id int64, w wished) error {
	was, err := s.Appointment(id)
	if err != nil || !was.Alive || was.Cancelled {
		return errGone
	}
	if !w.Timed() {
		return work.Invalid("when", "An appointment needs a time.")
	}
	if !was.Mine {
		return work.Invalid("when", "“%s” is somebody else's. Propose another time in an answer to the invitation.", say.Shorten(was.Title, 40))
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	c := p.Calendar()
	now := was
	length := was.End.Sub(was.Start.UTC)
	switch {
	case w.Precision == when.ToDay: // another day at the same time
		clock := was.Start.UTC.In(c.Zone)
		day := w.Day(c)
		now.Start = was.Start
		now.Start.Wall, now.Start.Zone = day.String()+clock.Format("T15:04"), when.Mine
		now.Start = now.Start.In(c)
	default:
		now.Start = when.Exact(w.UTC, c)
	}
	now.End = now.Start.UTC.Add(length)
	return s.changeAppointment(was, now)
}

// alarm lets the reminder of an appointment ring.
func (s *step) alarm(id int64) error {
	a, err := s.Appointment(id)
	if err != nil {
		return err
	}
	state := "rang"
	if a.End.Before(s.app.Now()) {
		state = "seen" // after a long sleep, what is over rings no more
	}
	s.Title = "Reminder: " + a.Title
	var changes change.List
	kinds.Appointment.RemindState.Set(&changes, a.ID, a.RemindState, state)
	return s.Change(changes)
}

// QuietAppointment takes note that the reminder of an appointment was seen.
func (a *App) QuietAppointment(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "reminder", Title: "Reminder seen"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		one, err := s.Appointment(id)
		if err != nil {
			return Decided{}, work.Gone("That reminder is no longer there.")
		}
		var changes change.List
		kinds.Appointment.RemindState.Set(&changes, one.ID, one.RemindState, "seen")
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
