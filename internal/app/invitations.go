package app

import (
	"context"
	"crypto/rand"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// InvitationAnswer is an answer to an invitation.
type InvitationAnswer struct {
	Letter  int64
	Reply   meeting.Reply
	Comment string
	// Propose is another time, as a phrase; "" for none.
	Propose string
}

// AnswerInvitation answers an invitation, keeps the appointment, and archives
// the letter. A proposal of another time is a COUNTER.
func (a *App) AnswerInvitation(ctx context.Context, who store.Who, command string, in InvitationAnswer) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "decide:" + string(decide.Answer)}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		row, err := s.Letter(in.Letter)
		if err != nil || row.InAt.IsZero() {
			return Decided{}, work.Gone("That letter is no longer there.")
		}
		raw, err := s.Original(in.Letter)
		if err != nil {
			return Decided{}, err
		}
		l := letter.Parse(raw)
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		method, events, _, err := meeting.Parse(l.Calendar(), p.Calendar())
		if err != nil {
			return Decided{}, work.Refuse("The letter holds no appointment that can be read.")
		}
		e := events[0]
		if e.Start.UTC.IsZero() {
			return Decided{}, work.Refuse("The letter names no time; there is nothing to answer.")
		}
		if in.Reply != meeting.Accepted && in.Reply != meeting.Declined && in.Reply != meeting.Tentative {
			return Decided{}, work.Invalid("reply", "An invitation is accepted, declined, or left open.")
		}
		// A proposal of another time leaves the appointment as it was.
		reply := func(*store.Appointment, meeting.Event) meeting.Reply { return in.Reply }
		if err := s.take(events, reply, row.Conversation); err != nil {
			return Decided{}, err
		}
		if method == meeting.Request && e.Organizer.Email != "" {
			if err := s.replyTo(e, l, row.Conversation, in); err != nil {
				return Decided{}, err
			}
		}
		verb := map[meeting.Reply]string{meeting.Accepted: "Accepted", meeting.Declined: "Declined", meeting.Tentative: "Left open"}[in.Reply]
		if in.Propose != "" {
			verb = "Proposed another time for"
		}
		s.Title = verb + " “" + say.Shorten(e.Title, 60) + "” " + s.speak(e.Start)
		conversation, err := s.Conversation(row.Conversation)
		if err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.settle([]seenRow{{conversation, in.Letter, nil}}, decide.Decision{Kind: decide.Answer, At: s.At, Saw: conversation.LastLetter})
	})
}

func (s *step) replyTo(e meeting.Event, l letter.Letter, conversation int64, in InvitationAnswer) error {
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	own := ownKeys(addresses)
	me := letter.Address{Email: letter.Answer(l, own, false).From}
	accounts, err := s.Accounts()
	if err != nil {
		return err
	}
	for _, acc := range accounts {
		if strings.EqualFold(acc.Address, me.Email) {
			me.Name = acc.Name
		}
	}
	for _, x := range e.Attendees { // as they wrote it
		if strings.EqualFold(x.Email, me.Email) {
			me = x.Address
		}
	}
	answer, method := e.Replied(me, in.Reply, in.Comment), meeting.Answer
	said := map[meeting.Reply]string{meeting.Accepted: "Accepted: ", meeting.Declined: "Declined: ", meeting.Tentative: "Perhaps: "}[in.Reply]
	text := said + e.Title + "\n"
	if in.Propose != "" {
		p, err := s.Person()
		if err != nil {
			return err
		}
		var a store.Appointment
		a.Event = e
		start, end, err := show.ReadWhen(in.Propose, &a, s.At, p.Calendar())
		if err != nil {
			return err
		}
		answer.Start, answer.End, method, said = start, end, meeting.Counter, "Another time: "
		v, err := s.app.Viewer(s.Tx)
		if err != nil {
			return err
		}
		text = fmt.Sprintf("Another time is proposed for “%s”: %s (%s)\n", e.Title, v.SpanWords(start, end), v.Cal.Zone)
	}
	if in.Comment != "" {
		text += "\n" + in.Comment + "\n"
	}
	return s.sendCalendar(said+e.Title, text, method, answer, conversation, []letter.Address{e.Organizer}, &l)
}

// takeCalendar lets a letter that was let in do what it says of appointments:
// an answer is counted on one's own, a cancelling takes effect, and what was
// moved is moved (RFC 5546).
func (s *step) takeCalendar(st stored) error {
	text := st.l.Calendar()
	if text == "" || st.row.Own || s.importing {
		return nil
	}
	p, err := s.Person()
	if err != nil {
		return err
	}
	method, events, _, err := meeting.Parse(text, p.Calendar())
	if err != nil || !slices.Contains([]string{meeting.Answer, meeting.Cancel, meeting.Request, meeting.Add}, method) {
		return nil //nolint:nilerr // nothing that concerns an appointment
	}
	switch method {
	case meeting.Request, meeting.Add:
		return s.takeUpdate(events, st.l.From.Email)
	case meeting.Cancel:
		for _, e := range events {
			if err := s.callOff(e, st.l.From.Email); err != nil {
				return err
			}
		}
		return nil
	}
	for _, e := range events {
		if err := s.takeAnswer(e, st.l.From); err != nil {
			return err
		}
	}
	return nil
}

// takeAnswer counts an answer on one's own appointments that it is to.
func (s *step) takeAnswer(answer meeting.Event, from letter.Address) error {
	if len(answer.Attendees) != 1 || answer.Attendees[0].Key() != from.Key() {
		return nil // nobody answers for somebody else
	}
	list, err := s.AppointmentsByUID(answer.UID)
	if err != nil {
		return err
	}
	var changes change.List
	for _, was := range list {
		if !was.Mine || !answer.Means(was.Recurrence) {
			continue
		}
		if now, ok := was.Take(answer); ok {
			kinds.Appointment.Attendees.Set(&changes, was.ID, was.Attendees, now.Attendees)
		}
	}
	return s.Change(changes)
}

// takeUpdate lets an appointment that the person has move with what its
// organizer says now. What has another time is to be answered anew.
func (s *step) takeUpdate(events []meeting.Event, from string) error {
	list, err := s.AppointmentsByUID(events[0].UID)
	if err != nil {
		return err
	}
	if len(list) == 0 || list[0].Mine || !strings.EqualFold(list[0].Organizer.Email, from) {
		return nil // nothing is kept of it yet; or somebody else says so
	}
	addresses, err := s.addresses()
	if err != nil {
		return err
	}
	reply := func(was *store.Appointment, e meeting.Event) meeting.Reply {
		for _, a := range e.Attendees {
			if addresses[a.Key()] != 0 && a.Reply != meeting.NoReply {
				return a.Reply // the organizer has it on the list
			}
		}
		if was == nil {
			was = &list[0]
		} else if e.Sequence < was.Sequence || e.Series == nil && was.Start.UTC.Equal(e.Start.UTC) && was.End.Equal(e.End) {
			return was.Reply
		}
		if e.Series != nil && e.Sequence == was.Sequence {
			return was.Reply
		}
		return meeting.NoReply
	}
	return s.take(events, reply, list[0].Conversation)
}

// importEvents keeps the appointments of a file that are not here yet.
func (s *step) importEvents(events []meeting.Event) (int, error) {
	n := 0
	known := map[string]bool{} // before this file came
	for _, e := range events {
		list, err := s.AppointmentsByUID(e.UID)
		if err != nil {
			return n, err
		}
		known[e.UID] = len(list) > 0
	}
	apart := map[string]map[int64]bool{} // times of a series that the file gives by themselves
	for _, e := range events {
		if !e.Recurrence.IsZero() {
			if apart[e.UID] == nil {
				apart[e.UID] = map[int64]bool{}
			}
			apart[e.UID][e.Recurrence.UnixMilli()] = true
		}
	}
	for _, e := range events {
		if e.Start.UTC.IsZero() || known[e.UID] {
			continue
		}
		one := store.Appointment{Event: e, Mine: true, Remind: -1, MadeAt: s.At}
		one.Attendees, one.Organizer = nil, letter.Address{} // importing invites nobody
		if e.Cancelled || checkAppointment(one) != nil {
			continue
		}
		if one.Start.Precision == when.ToMinute && one.End.Sub(one.Start.UTC) > 24*time.Hour {
			one.Free = true // what lasts for days leaves time for work
		}
		n++
		if e.Series != nil {
			if err := s.addSeries(store.Series{Event: one.Event, Mine: true, Remind: -1}, apart[e.UID]); err != nil {
				return n, err
			}
			continue
		}
		id, err := s.AddAppointment(one)
		if err != nil {
			return n, err
		}
		var changes change.List
		kinds.Appointment.Alive.Set(&changes, id, false, true)
		if err := s.Change(changes); err != nil {
			return n, err
		}
	}
	return n, nil
}

// RenewFeed makes an address for the calendar that nobody can guess, or takes
// it away; the one before is no longer served.
func (a *App) RenewFeed(ctx context.Context, who store.Who, command string, remove bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "settings", Title: "A new address for the calendar"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		secret := strings.ToLower(rand.Text())
		if remove {
			secret, s.Title = "", "The calendar is no longer served"
		}
		var changes change.List
		kinds.Person.Feed.Set(&changes, p.ID, p.Feed, secret)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
