package store

import (
	"context"
	"errors"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/meeting"
)

// Appointment is an appointment as stored.
type Appointment struct {
	ID    int64
	Alive bool
	meeting.Event
	// Mine tells that the person organizes it; Reply is what the person said to
	// an invitation, "" to none.
	Mine         bool
	Reply        meeting.Reply
	Conversation int64
	// Remind is how many minutes before it rings, -1 for never; RemindState is
	// "set", "rang" or "seen".
	Remind      int
	RemindState string
	MadeAt      time.Time
	// SeriesID is the series that it is one of; 0 for none.
	SeriesID int64
}

// Object names the appointment in changes.
func (a Appointment) Object() change.Object { return kinds.Appointment.Of(a.ID) }

func (tx *Tx) appointments(which gorm.ChainInterface[appointmentRow]) ([]Appointment, error) {
	rows, err := which.Find(tx.ctx())
	return readable(tx, "appointment", rows, func(r appointmentRow) int64 { return r.ID }, appointmentRow.appointment), err
}

func (r appointmentRow) appointment() (Appointment, error) {
	return Appointment{
		ID: r.ID, SeriesID: r.SeriesID, Alive: r.Alive, Mine: r.Mine, Reply: r.Reply, Conversation: r.ConversationID, Remind: r.Remind, RemindState: r.RemindState, MadeAt: r.MadeAt.Time,
		Event: meeting.Event{
			UID: r.UID, Sequence: r.Sequence, Title: r.Title, Place: r.Place, Notes: r.Notes, Start: r.Start.V, End: r.EndAt.Time, Free: r.Free, Cancelled: r.Cancelled,
			Organizer: r.Organizer.V, Attendees: r.Attendees.V, Recurrence: r.RecurrenceAt.Time,
		},
	}, errors.Join(r.Start.Err, r.Organizer.Err, r.Attendees.Err)
}

// living are the appointments that were not taken away.
func (tx *Tx) living() gorm.ChainInterface[appointmentRow] {
	return gorm.G[appointmentRow](tx.db).Where("alive = 1")
}

// AppointmentsBetween lists the appointments that overlap [from, to), in their
// order.
func (tx *Tx) AppointmentsBetween(from, to time.Time, most int) ([]Appointment, error) {
	return tx.appointments(tx.living().Where("start_at < ? AND end_at > ?", at(to), at(from)).Order("start_at, id").Limit(most))
}

// AppointmentsFrom lists those that begin in [from, to), in their order.
func (tx *Tx) AppointmentsFrom(from, to time.Time, most int) ([]Appointment, error) {
	return tx.appointments(tx.living().Where("cancelled = 0 AND start_at >= ? AND start_at < ?", at(from), at(to)).Order("start_at, id").Limit(most))
}

// AppointmentsOf lists those that some people have called, or are to come to.
func (tx *Tx) AppointmentsOf(people []string) ([]meeting.Event, error) {
	list, err := tx.appointments(tx.living().Where("organizer <> 'null' OR attendees <> '[]'").Order("start_at, id"))
	var out []meeting.Event
	for _, a := range list {
		if slices.Contains(people, a.Organizer.Key()) || slices.ContainsFunc(a.Attendees, attends(people)) {
			out = append(out, a.Event)
		}
	}
	return out, err
}

// Appointment is one appointment by its id.
func (tx *Tx) Appointment(id int64) (Appointment, error) {
	return tx.oneAppointment(gorm.G[appointmentRow](tx.db).Where("id = ?", id))
}

// AppointmentByUID finds an appointment that is alive by its UID: of a series the
// one that starts by its rules at recurrence, or where that is zero the next
// one from now on, else the last.
func (tx *Tx) AppointmentByUID(uid string, recurrence, now time.Time) (Appointment, error) {
	list, ms := tx.living().Where("uid = ?", uid).Limit(1), millis(now)
	if !recurrence.IsZero() {
		list = list.Where("recurrence_at IN (0, ?)", at(recurrence))
	}
	return tx.oneAppointment(list.Order(clause.OrderBy{Expression: gorm.Expr(
		"recurrence_at = ? DESC, end_at < ?, CASE WHEN end_at < ? THEN -end_at ELSE start_at END, id", at(recurrence), ms, ms)}))
}

// AppointmentsByUID lists all that are alive of a UID, in their order.
func (tx *Tx) AppointmentsByUID(uid string) ([]Appointment, error) {
	return tx.appointments(tx.living().Where("uid = ?", uid).Order("start_at, id"))
}

// Series is a recurring appointment: what each of it is like, and how far ahead
// it is reckoned.
type Series struct {
	ID    int64
	Alive bool
	Event meeting.Event
	// Mine, Reply, Remind and Conversation are those of appointments to be made.
	Mine         bool
	Reply        meeting.Reply
	Remind       int
	Conversation int64
	KeptUntil    time.Time
	// ExtendAt is when more are to be made; zero when there are no more.
	ExtendAt time.Time
}

// Object names the series in changes.
func (s Series) Object() change.Object { return kinds.Series.Of(s.ID) }

// AddSeries writes a series that is not alive yet.
func (tx *Tx) AddSeries(s Series) (int64, error) {
	row := seriesRow{UID: s.Event.UID, Value: keep(s), KeptUntil: at(s.KeptUntil), ExtendAt: maybeAt(s.ExtendAt)}
	err := gorm.G[seriesRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// ExtendSeries keeps how far ahead a series is reckoned.
func (tx *Tx) ExtendSeries(id int64, until, extendAt time.Time) error {
	_, err := gorm.G[seriesRow](tx.db).Where("id = ?", id).Select("kept_until", "extend_at").Updates(tx.ctx(), seriesRow{KeptUntil: at(until), ExtendAt: maybeAt(extendAt)})
	return err
}

// SeriesOf is one series by its id.
func (tx *Tx) SeriesOf(id int64) (Series, error) {
	r, err := gorm.G[seriesRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	if err != nil {
		return Series{}, err
	}
	s := r.Value.V
	s.ID, s.Alive, s.KeptUntil, s.ExtendAt = id, r.Alive, r.KeptUntil.Time, r.ExtendAt.Time
	return s, r.Value.Err
}

// SeriesIDs lists the series of a UID that are alive.
func (tx *Tx) SeriesIDs(uid string) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[seriesRow](tx.db).Where("uid = ? AND alive = 1", uid).Order("id"), "id")
}

func (tx *Tx) oneAppointment(which gorm.ChainInterface[appointmentRow]) (Appointment, error) {
	list, err := tx.appointments(which)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Appointment{}, err
	}
	return list[0], nil
}

// RangAppointments lists those whose reminder rang and was not looked at yet.
func (tx *Tx) RangAppointments() ([]Appointment, error) {
	return tx.appointments(tx.living().Where("cancelled = 0 AND remind_state = 'rang'").Order("start_at, id"))
}

// AddAppointment writes an appointment that is not alive yet.
func (tx *Tx) AddAppointment(a Appointment) (int64, error) {
	due := instantOf(&a.Start)
	if due.IsZero() {
		return 0, errors.New("an appointment without a time")
	}
	row := appointmentRow{
		UID: a.UID, Sequence: a.Sequence, Title: a.Title, Place: a.Place, Notes: a.Notes, Start: keep(a.Start), StartAt: due.stamp, EndAt: at(a.End),
		Free: a.Free, Cancelled: a.Cancelled, Organizer: keep(a.Organizer), Attendees: keep(append([]meeting.Attendee{}, a.Attendees...)), Mine: a.Mine, Reply: a.Reply,
		ConversationID: a.Conversation, Remind: a.Remind, RemindState: "set", MadeAt: at(a.MadeAt), RecurrenceAt: at(a.Recurrence), SeriesID: a.SeriesID,
	}
	err := gorm.G[appointmentRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// InboxReplies lists the conversations of the inbox whose newest letter from
// somebody else is an answer to an invitation.
//
// By hand: the newest letter of each conversation, by an index.
func (tx *Tx) InboxReplies(most int) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT c.id FROM conversations c WHERE c.owner = ? AND c.place = 'inbox' AND
		(SELECT l.automatic FROM letters l WHERE l.conversation_id = c.id AND l.own = 0 AND l.in_at IS NOT NULL ORDER BY l.received_at DESC, l.id DESC LIMIT 1) = 'meeting-answer' LIMIT ?`, tx.who.Inbox, most))
}

// FeedOwner finds whose calendar is read at a secret address; 0 if nobody's. A
// system query: it is how a feed finds its person.
func (s *Store) FeedOwner(ctx context.Context, secret string) (int64, error) {
	row, err := orNone(gorm.G[personRow](s.reader).Where("feed = ? AND feed <> ''", secret).Take(ctx))
	return row.ID, err
}
