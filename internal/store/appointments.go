package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/change"
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
}

// Object names the appointment in changes.
func (a Appointment) Object() change.Object { return change.Object{Kind: "appointment", ID: a.ID} }

type appointmentRow struct {
	ID, StartAt, EndAt, ConversationID, MadeAt                   int64
	UID, Title, Place, Notes, Start, Organizer, Attendees, Reply string
	RemindState                                                  string
	Sequence, Remind                                             int
	Alive, Free, Cancelled, Mine                                 bool
}

const appointmentColumns = "id, alive, uid, sequence, title, place, notes, start, end_at, free, cancelled, organizer, attendees, mine, reply, conversation_id, remind, remind_state, made_at"

func (tx *Tx) appointments(where string, args ...any) ([]Appointment, error) {
	rows, err := all[appointmentRow](tx.db.Raw("SELECT "+appointmentColumns+" FROM appointments WHERE owner = ? AND "+where, append([]any{tx.owner}, args...)...))
	if err != nil {
		return nil, err
	}
	out := make([]Appointment, len(rows))
	for i, r := range rows {
		a := Appointment{
			ID: r.ID, Alive: r.Alive, Mine: r.Mine, Reply: meeting.Reply(r.Reply), Conversation: r.ConversationID, Remind: r.Remind, RemindState: r.RemindState, MadeAt: fromMillis(r.MadeAt),
			Event: meeting.Event{UID: r.UID, Sequence: r.Sequence, Title: r.Title, Place: r.Place, Notes: r.Notes, End: fromMillis(r.EndAt), Free: r.Free, Cancelled: r.Cancelled},
		}
		for text, into := range map[string]any{r.Start: &a.Start, r.Attendees: &a.Attendees} {
			if err := json.Unmarshal([]byte(text), into); err != nil {
				return nil, err
			}
		}
		if err := json.Unmarshal([]byte(r.Organizer), &a.Organizer); err != nil {
			return nil, err
		}
		out[i] = a
	}
	return out, nil
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

// AppointmentByUID finds an appointment that is alive by its UID.
func (tx *Tx) AppointmentByUID(uid string) (Appointment, error) {
	return tx.oneAppointment("uid = ? AND alive = 1 ORDER BY id LIMIT 1", uid)
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
	return tx.insertReturning(`INSERT INTO appointments (owner, uid, sequence, title, place, notes, start, start_at, end_at, free, cancelled, organizer, attendees, mine, reply, conversation_id, remind, made_at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.owner, a.UID, a.Sequence, a.Title, a.Place, a.Notes, *start, *at, millis(a.End), a.Free, a.Cancelled,
		string(organizer), string(attendees), a.Mine, string(a.Reply), a.Conversation, a.Remind, millis(a.MadeAt))
}

// Busy lists what appointments take of the time in [from, to).
func (tx *Tx) Busy(from, to time.Time) ([]load.Busy, error) {
	rows, err := tx.query(`SELECT start_at, end_at FROM appointments WHERE owner = ? AND alive = 1 AND cancelled = 0 AND free = 0
		AND reply NOT IN ('declined', 'needs-action') AND start_at < ? AND end_at > ? ORDER BY start_at`, tx.owner, millis(to), millis(from))
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
		(SELECT l.automatic FROM letters l WHERE l.conversation_id = c.id AND l.own = 0 AND l.in_at IS NOT NULL ORDER BY l.received_at DESC, l.id DESC LIMIT 1) = 'meeting-answer' LIMIT ?`, tx.owner, most))
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
