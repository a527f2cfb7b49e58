package app

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// A recurring appointment is kept as a series, and as an appointment for each
// time that it takes place within reach. So the day line, free time, Ahead and
// reminders need to know nothing of recurrence, and each one can be moved,
// called off and undone by itself.

const (

	// renewed is how long before the end of that more are made.
	renewed = 6 * 30 * 24 * time.Hour
	// mostTimes bounds how many are made at once.
	mostTimes = 800
)

// addSeries keeps a series and its times. Except are times that stand apart
// already.
func (s *step) addSeries(x store.Series, except map[int64]bool) error {
	p, err := s.Person()
	if err != nil {
		return err
	}
	from := x.Event.Start.UTC.Add(-24 * time.Hour)
	if old := s.At.AddDate(-1, 0, 0); from.Before(old) {
		from = old // what is long over is no use on any day line
	}
	to := s.At
	if x.Event.Start.UTC.After(to) {
		to = x.Event.Start.UTC
	}
	x.KeptUntil = to.Add(meeting.Reach)
	times := x.Event.Series.Starts(p.Calendar(), from, x.KeptUntil, mostTimes)
	if len(times) == mostTimes {
		x.KeptUntil = times[len(times)-1].Add(time.Millisecond)
	}
	if more := x.Event.Series.Starts(p.Calendar(), x.KeptUntil, x.KeptUntil.Add(10*meeting.Reach), 1); len(more) > 0 {
		x.ExtendAt = x.KeptUntil.Add(-renewed)
	}
	if x.ID, err = s.AddSeries(x); err != nil {
		return err
	}
	var changes change.List
	kinds.Series.Alive.Set(&changes, x.ID, false, true)
	if err := s.Change(changes); err != nil {
		return err
	}
	return s.addTimes(x, times, except, p.Calendar())
}

// addTimes makes the appointments of a series at these times.
func (s *step) addTimes(x store.Series, times []time.Time, except map[int64]bool, c when.Calendar) error {
	var changes change.List
	for _, at := range times {
		if except[at.UnixMilli()] {
			continue
		}
		one := store.Appointment{
			Event: x.Event.On(at, c), Mine: x.Mine, Reply: x.Reply, Conversation: x.Conversation, Remind: x.Remind, MadeAt: s.At, SeriesID: x.ID,
		}
		id, err := s.AddAppointment(one)
		if err != nil {
			return err
		}
		one.ID = id
		kinds.Appointment.Alive.Set(&changes, one.ID, false, true)
		if one.Remind >= 0 && one.Start.UTC.Before(s.At) {
			kinds.Appointment.RemindState.Set(&changes, one.ID, "set", "seen")
		}
	}
	return s.Change(changes)
}

// extendSeries reckons a series further ahead.
func (s *step) extendSeries(id int64) error {
	x, err := s.SeriesOf(id)
	if err != nil {
		return err
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	c := p.Calendar()
	s.Title = "Reckoned further ahead: “" + say.Shorten(x.Event.Title, 60) + "”"
	until := x.KeptUntil.Add(meeting.Reach)
	times := x.Event.Series.Starts(c, x.KeptUntil, until, mostTimes)
	if len(times) == mostTimes {
		until = times[len(times)-1].Add(time.Millisecond)
	}
	extendAt := time.Time{}
	if more := x.Event.Series.Starts(c, until, until.Add(10*meeting.Reach), 1); len(more) > 0 {
		extendAt = until.Add(-renewed)
	}
	if err := s.ExtendSeries(id, until, extendAt); err != nil {
		return err
	}
	return s.addTimes(x, times, nil, c)
}

// endSeries takes a series off, with those of its times that are not kept; what
// is over stays.
func (s *step) endSeries(uid string, keep func(store.Appointment) bool) error {
	list, err := s.AppointmentsByUID(uid)
	if err != nil {
		return err
	}
	var changes change.List
	if err := s.dropSeries(&changes, uid); err != nil {
		return err
	}
	for _, a := range list {
		if a.SeriesID != 0 && !keep(a) {
			kinds.Appointment.Alive.Set(&changes, a.ID, true, false)
		}
	}
	return s.Change(changes)
}

// take keeps what a message says of an appointment of somebody else's: all of
// it, or those of a series that it names. The rest of the series stays.
func (s *step) take(events []meeting.Event, reply func(was *store.Appointment, e meeting.Event) meeting.Reply, conversation int64) error {
	apart := map[int64]bool{} // times that messages of this file name themselves
	for _, e := range events {
		if !e.Recurrence.IsZero() {
			apart[e.Recurrence.UnixMilli()] = true
		}
	}
	for _, e := range events {
		if e.Start.UTC.IsZero() {
			continue
		}
		var err error
		switch {
		case e.Series != nil:
			err = s.takeSeries(e, reply, conversation, apart)
		default:
			err = s.takeOne(e, reply, conversation)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// keptAs are the appointments with a UID, as messages about them see them.
func (s *step) keptAs(uid string) ([]store.Appointment, []meeting.Kept, error) {
	list, err := s.AppointmentsByUID(uid)
	kept := make([]meeting.Kept, len(list))
	for i, a := range list {
		kept[i] = meeting.Kept{Event: a.Event, Made: a.SeriesID != 0, Mine: a.Mine}
	}
	return list, kept, err
}

func (s *step) takeOne(e meeting.Event, reply func(*store.Appointment, meeting.Event) meeting.Reply, conversation int64) error {
	list, kept, err := s.keptAs(e.UID)
	if err != nil {
		return err
	}
	if at, event := meeting.TakeOne(e, kept); at >= 0 {
		now := list[at]
		now.Reply, now.Event, now.Mine = reply(&list[at], e), event, false
		return s.changeAppointment(list[at], now)
	}
	if e.Recurrence.IsZero() && len(list) > 0 { // it was a series, and is none any more
		if err := s.endSeries(e.UID, func(a store.Appointment) bool { return a.End.Before(s.At) }); err != nil {
			return err
		}
	}
	one := store.Appointment{Event: e, Reply: reply(nil, e), Conversation: conversation, Remind: 15, MadeAt: s.At}
	if len(list) > 0 {
		one.SeriesID = list[0].SeriesID
	}
	if one.ID, err = s.AddAppointment(one); err != nil {
		return err
	}
	var changes change.List
	kinds.Appointment.Alive.Set(&changes, one.ID, false, true)
	return s.Change(changes)
}

func (s *step) takeSeries(e meeting.Event, reply func(*store.Appointment, meeting.Event) meeting.Reply, conversation int64, apart map[int64]bool) error {
	list, kept, err := s.keptAs(e.UID)
	if err != nil {
		return err
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	c := p.Calendar()
	times := e.Series.Starts(c, s.At.AddDate(-1, 0, 0), s.At.Add(meeting.Reach), mostTimes)
	fates, ok := meeting.TakeSeries(e, kept, times, func(at time.Time) bool { return apart[at.UnixMilli()] }, s.At)
	if !ok {
		return nil
	}
	var was *store.Appointment
	if len(list) > 0 {
		was = &list[len(list)-1]
	}
	answer := reply(was, e)
	var changes change.List
	stand := map[int64]bool{}
	for i, a := range list {
		if fates[i] == meeting.Goes {
			kinds.Appointment.Alive.Set(&changes, a.ID, true, false)
			continue
		}
		stand[a.Recurrence.UnixMilli()] = true
		if a.End.Before(s.At) {
			continue
		}
		now := a
		now.Reply, now.Mine = answer, false
		if fates[i] == meeting.Renewed {
			now.Event = e.On(a.Recurrence, c)
		}
		if err := s.changeAppointment(a, now); err != nil {
			return err
		}
	}
	if err := s.dropSeries(&changes, e.UID); err != nil {
		return err
	}
	if err := s.Change(changes); err != nil {
		return err
	}
	return s.addSeries(store.Series{Event: e, Reply: answer, Conversation: conversation, Remind: 15}, stand)
}

// dropSeries makes no more times of the series with a UID.
func (s *step) dropSeries(changes *change.List, uid string) error {
	ids, err := s.SeriesIDs(uid)
	for _, id := range ids {
		kinds.Series.Alive.Set(changes, id, true, false)
	}
	return err
}

// callOff marks what a message calls off: all of an appointment, one of a
// series, or that and all after it.
func (s *step) callOff(e meeting.Event, from string) error {
	list, kept, err := s.keptAs(e.UID)
	if err != nil {
		return err
	}
	var changes change.List
	off, over := meeting.TakeCancel(e, from, kept)
	for _, i := range off {
		kinds.Appointment.Cancelled.Set(&changes, list[i].ID, list[i].Cancelled, true)
	}
	if over {
		if err := s.dropSeries(&changes, e.UID); err != nil {
			return err
		}
	}
	return s.Change(changes)
}

// repeat reads how one's own appointment is to recur.
func (s *step) repeat(phrase string, e meeting.Event, c when.Calendar) (*meeting.Series, error) {
	if strings.TrimSpace(phrase) == "" {
		return nil, nil
	}
	r, err := followup.ReadRecurrence(phrase, e.Start.UTC, c)
	if err != nil {
		return nil, work.Invalid("recurs", "%s", say.Sentence(err))
	}
	if r.AfterDone {
		return nil, work.Invalid("recurs", "An appointment recurs by the calendar, not by when it was done.")
	}
	zone := c.Zone.String()
	if slices.Contains([]string{"", "Local"}, zone) {
		zone = "UTC"
	}
	out := &meeting.Series{Wall: e.Start.UTC.In(c.Zone).Format("20060102T150405"), Days: e.Start.Precision == when.ToDay, Zone: zone, Rules: []string{r.Rule}}
	if out.Days {
		out.Zone = ""
	}
	return out, nil
}
