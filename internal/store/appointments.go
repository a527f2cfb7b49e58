package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/load"
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

type appointmentRow struct {
	ID, StartAt, EndAt, ConversationID, MadeAt, RecurrenceAt, SeriesID int64
	UID, Title, Place, Notes, Start, Organizer, Attendees, Reply       string
	RemindState                                                        string
	Sequence, Remind                                                   int
	Alive, Free, Cancelled, Mine                                       bool
}

const appointmentColumns = "id, alive, uid, sequence, title, place, notes, start, end_at, free, cancelled, organizer, attendees, mine, reply, conversation_id, remind, remind_state, made_at, recurrence_at, series_id"

func (tx *Tx) appointments(where string, args ...any) ([]Appointment, error) {
	rows, err := all[appointmentRow](tx.db.Raw("SELECT "+appointmentColumns+" FROM appointments WHERE owner = ? AND "+where, append([]any{tx.who.Inbox}, args...)...))
	if err != nil {
		return nil, err
	}
	return readable(tx, "appointment", rows, func(r appointmentRow) int64 { return r.ID }, appointmentRow.appointment), nil
}

func (r appointmentRow) appointment() (Appointment, error) {
	a := Appointment{
		ID: r.ID, SeriesID: r.SeriesID, Alive: r.Alive, Mine: r.Mine, Reply: meeting.Reply(r.Reply), Conversation: r.ConversationID, Remind: r.Remind, RemindState: r.RemindState, MadeAt: fromMillis(r.MadeAt),
		Event: meeting.Event{UID: r.UID, Sequence: r.Sequence, Title: r.Title, Place: r.Place, Notes: r.Notes, End: fromMillis(r.EndAt), Free: r.Free, Cancelled: r.Cancelled, Recurrence: fromMillis(r.RecurrenceAt)},
	}
	for text, into := range map[string]any{r.Start: &a.Start, r.Attendees: &a.Attendees} {
		if err := json.Unmarshal([]byte(text), into); err != nil {
			return a, err
		}
	}
	return a, json.Unmarshal([]byte(r.Organizer), &a.Organizer)
}

// AppointmentsBetween lists the appointments that overlap [from, to), in their
// order.
func (tx *Tx) AppointmentsBetween(from, to time.Time, most int) ([]Appointment, error) {
	return tx.appointments("alive = 1 AND start_at < ? AND end_at > ? ORDER BY start_at, id LIMIT ?", millis(to), millis(from), most)
}

// AppointmentsFrom lists those that begin in [from, to), in their order.
func (tx *Tx) AppointmentsFrom(from, to time.Time, most int) ([]Appointment, error) {
	return tx.appointments("alive = 1 AND cancelled = 0 AND start_at >= ? AND start_at < ? ORDER BY start_at, id LIMIT ?", millis(from), millis(to), most)
}

// Appointment is one appointment by its id.
func (tx *Tx) Appointment(id int64) (Appointment, error) { return tx.oneAppointment("id = ?", id) }

// AppointmentByUID finds an appointment that is alive by its UID: of a series the
// one that starts by its rules at recurrence, or where that is zero the next
// one from now on, else the last.
func (tx *Tx) AppointmentByUID(uid string, recurrence, now time.Time) (Appointment, error) {
	at, ms := millis(recurrence), millis(now)
	return tx.oneAppointment("uid = ? AND alive = 1 AND (? = 0 OR recurrence_at IN (0, ?)) ORDER BY recurrence_at = ? DESC, end_at < ?, CASE WHEN end_at < ? THEN -end_at ELSE start_at END, id LIMIT 1",
		uid, at, at, at, ms, ms)
}

// AppointmentsByUID lists all that are alive of a UID, in their order.
func (tx *Tx) AppointmentsByUID(uid string) ([]Appointment, error) {
	return tx.appointments("uid = ? AND alive = 1 ORDER BY start_at, id", uid)
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
	value, err := json.Marshal(s)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning("INSERT INTO series (owner, uid, value, kept_until, extend_at) VALUES (?, ?, ?, ?, ?)", tx.who.Inbox, s.Event.UID, string(value), millis(s.KeptUntil), optionalMillis(s.ExtendAt))
}

func optionalMillis(t time.Time) any {
	if t.IsZero() {
		return nil
	}
	return millis(t)
}

// ExtendSeries keeps how far ahead a series is reckoned.
func (tx *Tx) ExtendSeries(id int64, until, extendAt time.Time) error {
	return tx.exec("UPDATE series SET kept_until = ?, extend_at = ? WHERE owner = ? AND id = ?", millis(until), optionalMillis(extendAt), tx.who.Inbox, id)
}

// SeriesOf is one series by its id.
func (tx *Tx) SeriesOf(id int64) (Series, error) {
	r, err := one[struct {
		Value     string
		Alive     bool
		KeptUntil int64
		ExtendAt  *int64
	}](tx.db.Raw("SELECT value, alive, kept_until, extend_at FROM series WHERE owner = ? AND id = ?", tx.who.Inbox, id))
	if err != nil {
		return Series{}, err
	}
	var s Series
	err = json.Unmarshal([]byte(r.Value), &s)
	s.ID, s.Alive, s.KeptUntil, s.ExtendAt = id, r.Alive, fromMillis(r.KeptUntil), time.Time{}
	if r.ExtendAt != nil {
		s.ExtendAt = fromMillis(*r.ExtendAt)
	}
	return s, err
}

// SeriesIDs lists the series of a UID that are alive.
func (tx *Tx) SeriesIDs(uid string) ([]int64, error) {
	return tx.ids("SELECT id FROM series WHERE owner = ? AND uid = ? AND alive = 1 ORDER BY id", tx.who.Inbox, uid)
}

func (tx *Tx) oneAppointment(where string, args ...any) (Appointment, error) {
	list, err := tx.appointments(where, args...)
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
	return tx.appointments("alive = 1 AND cancelled = 0 AND remind_state = 'rang' ORDER BY start_at, id")
}

// AddAppointment writes an appointment that is not alive yet.
func (tx *Tx) AddAppointment(a Appointment) (int64, error) {
	start, at, err := momentColumns(&a.Start)
	if err != nil {
		return 0, err
	}
	if at == nil {
		return 0, errors.New("an appointment without a time")
	}
	if a.Attendees == nil {
		a.Attendees = []meeting.Attendee{}
	}
	attendees, err := json.Marshal(a.Attendees)
	if err != nil {
		return 0, err
	}
	organizer, err := json.Marshal(a.Organizer)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning(`INSERT INTO appointments (owner, uid, sequence, title, place, notes, start, start_at, end_at, free, cancelled, organizer, attendees, mine, reply, conversation_id, remind, made_at, recurrence_at, series_id)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.who.Inbox, a.UID, a.Sequence, a.Title, a.Place, a.Notes, *start, *at, millis(a.End), a.Free, a.Cancelled,
		string(organizer), string(attendees), a.Mine, string(a.Reply), a.Conversation, a.Remind, millis(a.MadeAt), millis(a.Recurrence), a.SeriesID)
}

// Busy lists what appointments take of the time in [from, to).
func (tx *Tx) Busy(from, to time.Time) ([]load.Busy, error) {
	rows, err := tx.query(`SELECT start_at, end_at FROM appointments WHERE owner = ? AND alive = 1 AND cancelled = 0 AND free = 0
		AND reply NOT IN ('declined', 'needs-action') AND start_at < ? AND end_at > ? ORDER BY start_at`, tx.who.Inbox, millis(to), millis(from))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []load.Busy
	for rows.Next() {
		var from, to int64
		if err := rows.Scan(&from, &to); err != nil {
			return nil, err
		}
		out = append(out, load.Busy{From: fromMillis(from), To: fromMillis(to)})
	}
	return out, rows.Err()
}

// InboxReplies lists the conversations of the inbox whose newest letter from
// somebody else is an answer to an invitation.
func (tx *Tx) InboxReplies(most int) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT c.id FROM conversations c WHERE c.owner = ? AND c.place = 'inbox' AND
		(SELECT l.automatic FROM letters l WHERE l.conversation_id = c.id AND l.own = 0 AND l.in_at IS NOT NULL ORDER BY l.received_at DESC, l.id DESC LIMIT 1) = 'meeting-answer' LIMIT ?`, tx.who.Inbox, most))
}

// FeedOwner finds whose calendar is read at a secret address; 0 if nobody's. A
// system query: it is how a feed finds its person.
func (s *Store) FeedOwner(ctx context.Context, secret string) (int64, error) {
	ids, err := all[int64](s.reader.WithContext(ctx).Raw("SELECT id FROM people WHERE feed = ? AND feed <> ''", secret))
	if err != nil || len(ids) == 0 {
		return 0, err
	}
	return ids[0], nil
}
