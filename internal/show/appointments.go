package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// AppointmentView is an appointment as the page shows it.
type AppointmentView struct {
	ID           int64              `json:"id"`
	Title        string             `json:"title"`
	Words        string             `json:"words" doc:"When, in words"`
	Phrase       string             `json:"phrase" doc:"To edit it by"`
	Start        time.Time          `json:"start"`
	End          time.Time          `json:"end"`
	Place        string             `json:"place"`
	Notes        string             `json:"notes"`
	Free         bool               `json:"free"`
	Cancelled    bool               `json:"cancelled"`
	Mine         bool               `json:"mine"`
	Organizer    letter.Address     `json:"organizer"`
	Attendees    []meeting.Attendee `json:"attendees"`
	Answers      string             `json:"answers" doc:"How many have accepted, in words"`
	Reply        meeting.Reply      `json:"reply,omitempty" doc:"What the person has said"`
	Remind       int                `json:"remind" doc:"Minutes before; -1 for never"`
	Conversation int64              `json:"conversation,omitempty"`
	Clash        string             `json:"clash,omitempty" doc:"What else is then"`
	Recurs       string             `json:"recurs,omitempty" doc:"How it recurs, in words, where it is one of a series"`
}

const usualLength = time.Hour

func (v Viewer) appointment(a store.Appointment) AppointmentView {
	out := AppointmentView{
		ID: a.ID, Title: a.Title, Words: v.SpanWords(a.Start, a.End), Phrase: v.spanPhrase(a.Start, a.End), Start: a.Start.UTC, End: a.End, Place: a.Place, Notes: a.Notes, Free: a.Free,
		Cancelled: a.Cancelled, Mine: a.Mine, Organizer: a.Organizer, Attendees: OrEmpty(a.Attendees), Answers: say.AnswersInWords(a.Event), Reply: a.Reply, Remind: a.Remind, Conversation: a.Conversation,
	}
	return out
}

// SpanWords says when an appointment is: "Fri 27 Nov, 10:00 to 11:30".
func (v Viewer) SpanWords(start when.Moment, end time.Time) string {
	last := end.In(v.Cal.Zone)
	if start.Precision == when.ToDay {
		words := say.TrimClock(v.speak(when.Moment{UTC: start.UTC.Add(12 * time.Hour), Precision: when.ToMinute}))
		if end.Sub(start.UTC) > 36*time.Hour {
			words += " to " + last.Add(-time.Hour).Format("Mon 2 Jan")
		}
		return words + ", all day"
	}
	words := v.speak(start) + " to "
	if v.Cal.Today(start.UTC) == v.Cal.Today(end.Add(-time.Minute)) {
		return words + last.Format("15:04")
	}
	return words + last.Format("Mon 2 Jan, 15:04")
}

func (v Viewer) spanPhrase(start when.Moment, end time.Time) string {
	if start.Precision == when.ToDay {
		return start.UTC.Add(12 * time.Hour).In(v.Cal.Zone).Format("2006-01-02")
	}
	return when.Exact(start.UTC, v.Cal).Canonical(v.Cal) + " to " + when.Exact(end, v.Cal).Canonical(v.Cal)
}

// ReadWhen reads from when to when an appointment is. A new start alone keeps
// its length; a day alone takes the whole day.
func ReadWhen(phrase string, a *store.Appointment, now time.Time, c when.Calendar) (when.Moment, time.Time, error) {
	span, err := when.ReadSpan(phrase, now, c)
	if err != nil {
		return when.Moment{}, time.Time{}, work.Invalid("when", "%s", err)
	}
	start, end := span.Due.Moment, time.Time{}
	if span.Start != nil {
		start, end = span.Start.Moment, span.Due.UTC
		if span.Due.Precision == when.ToDay {
			end = c.Instant(span.Due.Day(c).Add(1), 0)
		}
	}
	switch {
	case start.Precision == when.Open:
		return start, end, work.Invalid("when", "An appointment needs a time.")
	case start.Precision == when.ToDay && start.UTC.Equal(c.Instant(start.Day(c), c.DayStart)):
		day := start.Day(c)
		start.Wall = day.String() + "T00:00"
		start = start.In(c)
		if end.IsZero() {
			end = c.Instant(day.Add(1), 0)
		}
		return start, end, nil
	}
	start = when.Exact(start.UTC, c)
	if end.IsZero() {
		length := usualLength
		if old := a.End.Sub(a.Start.UTC); a.Start.Precision == when.ToMinute && old > 0 {
			length = old
		}
		end = start.UTC.Add(length)
	}
	return start, end, nil
}

// AppointmentOf gives one appointment.
func (a *Show) AppointmentOf(ctx context.Context, who store.Who, id int64) (AppointmentView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (AppointmentView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return AppointmentView{}, err
		}
		one, err := tx.Appointment(id)
		if err != nil || !one.Alive {
			return AppointmentView{}, store.ErrNotFound
		}
		out := v.appointment(one)
		if one.SeriesID != 0 {
			if x, err := tx.SeriesOf(one.SeriesID); err == nil && x.Alive {
				out.Recurs = say.RecursInWords(x.Event.Series)
			}
		}
		out.Clash, err = v.clash(tx, one.Event, one.ID)
		return out, err
	})
}

// clash names what else is at the time of an appointment.
func (v Viewer) clash(tx *store.Tx, e meeting.Event, except int64) (string, error) {
	others, err := tx.AppointmentsBetween(e.Start.UTC, e.End, 20)
	for _, o := range others {
		if o.ID != except && o.UID != e.UID && o.Stands(o.Reply) {
			return o.Title + ", " + v.SpanWords(o.Start, o.End), err
		}
	}
	return "", err
}

func comingAppointments(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.AppointmentsFrom(from, to, most)
	out := make([]Entry, len(list))
	for i, a := range list {
		end := a.End
		out[i] = Entry{Kind: "appointment", ID: a.ID, At: &a.Start.UTC, End: &end, day: v.Cal.Today(a.Start.UTC), Words: v.speak(a.Start), Phrase: when.Exact(a.Start.UTC, v.Cal).Phrase, Title: a.Title,
			Person: a.Organizer.Name, Note: join(a.Place, say.AnswersInWords(a.Event)), Conversation: a.Conversation}
		if a.Mine {
			out[i].Person = ""
		}
		if a.Start.Precision == when.ToDay {
			out[i].day = v.Cal.Today(a.Start.UTC.Add(12 * time.Hour))
			out[i].Words = say.TrimClock(v.speak(when.Moment{UTC: a.Start.UTC.Add(12 * time.Hour), Precision: when.ToMinute})) + ", all day"
		}
	}
	return out, err
}

// readAppointment reads from when to when an appointment is to be, and says what
// else is then, before it is made.
func (p picker) readAppointment() (*Proposal, error) {
	start, end, err := ReadWhen(p.ask.Phrase, &store.Appointment{}, p.Now, p.Cal)
	if err != nil {
		return nil, err
	}
	out := &Proposal{Phrase: p.ask.Phrase, Words: p.SpanWords(start, end), At: timeOf(start)}
	clash, err := p.clash(p.tx, meeting.Event{Start: start, End: end}, 0)
	if clash != "" {
		out.Why, out.Over = "at that time there is also: "+clash, true
	}
	return out, err
}
