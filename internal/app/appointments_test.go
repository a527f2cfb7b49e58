package app_test

import (
	"crypto/rand"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) appoint(f app.AppointmentFields) {
	w.t.Helper()
	_, err := w.app.NewAppointment(w.ctx, w.who, rand.Text(), f, 0)
	require.NoError(w.t, err)
}

func (w *world) appointments() (out []show.AppointmentView) {
	w.t.Helper()
	for _, e := range w.ahead().Entries {
		if e.Kind == "appointment" {
			v, err := w.app.AppointmentOf(w.ctx, w.who, e.ID)
			require.NoError(w.t, err)
			out = append(out, v)
		}
	}
	return out
}

// calendarMail is a letter with a calendar part.
func calendarMail(id, from, subject, method, event string) mail {
	return mail{id: id, from: from, subject: subject, extra: "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n",
		text: "--b\r\nContent-Type: text/plain\r\n\r\n" + subject + "\r\n--b\r\nContent-Type: text/calendar; method=" + method + "\r\n\r\nBEGIN:VCALENDAR\r\nMETHOD:" + method + "\r\nBEGIN:VEVENT\r\n" +
			strings.ReplaceAll(event, "\n", "\r\n") + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n--b--\r\n"}
}

func TestAppointmentsCountAgainstFreeTimeAndStandAhead(t *testing.T) {
	w := newWorld(t)
	w.appoint(app.AppointmentFields{Title: ref("Site meeting"), When: ref("wed 10 to 12"), Place: ref("Orangery")})
	v, err := w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "wed"})
	require.NoError(t, err)
	assert.Equal(t, 210, v.Days[1].Free, "two of nine hours, half of the rest")
	one := w.appointments()[0]
	assert.Equal(t, "tomorrow 10:00 to 12:00", one.Words)
	d, err := w.app.Day(w.ctx, w.who, 1)
	require.NoError(t, err)
	require.Len(t, d.Marks, 1)
	assert.Equal(t, "appointment", d.Marks[0].Kind)

	require.NoError(t, w.editAhead("move", "fri", app.EntryRef{Kind: "appointment", ID: one.ID}))
	assert.Equal(t, "Fri 27 Nov, 10:00 to 12:00", w.appointments()[0].Words, "another day, the same hours")
	require.NoError(t, w.editAhead("move", "fri 14:00", app.EntryRef{Kind: "appointment", ID: one.ID}))
	assert.Equal(t, "Fri 27 Nov, 14:00 to 16:00", w.appointments()[0].Words)
	require.NoError(t, w.editAhead("cancel", "", app.EntryRef{Kind: "appointment", ID: one.ID}))
	assert.Empty(t, w.appointments())
	w.undo()
	w.appoint(app.AppointmentFields{Title: ref("Fair"), When: ref("sat"), Free: ref(true)})
	assert.Equal(t, "Sat 28 Nov, all day", w.appointments()[1].Words)
	assert.Empty(t, w.post.sent, "nobody is invited")

	w.pass(3*24*time.Hour + 5*time.Hour + 30*time.Minute) // 13:50 on Friday
	require.Len(t, w.overview().Alarms, 1)
	_, err = w.app.QuietAppointment(w.ctx, w.who, rand.Text(), one.ID)
	require.NoError(t, err)
	assert.Empty(t, w.overview().Alarms)
	for _, bad := range []app.AppointmentFields{
		{}, {Title: ref("x")}, {Title: ref("x"), When: ref("someday")}, {Title: ref("x"), When: ref("mon 10"), Attendees: &[]string{"nobody"}}, {Title: ref("x"), When: ref("mon 12 to 10")},
		{Title: ref("x"), When: ref("mon 10"), Remind: ref(1 << 20)},
	} {
		_, err := w.app.NewAppointment(w.ctx, w.who, rand.Text(), bad, 0)
		assert.Error(t, err)
	}
}

func TestInvitingAndCountingTheAnswers(t *testing.T) {
	w := newWorld(t)
	w.appoint(app.AppointmentFields{Title: ref("Rota"), When: ref("fri 10 to 11"), Attendees: &[]string{"Bram <bram@freight.example>", "lise@x.example", "bram@freight.example"}})
	w.undo()
	w.pass(time.Minute)
	require.Empty(t, w.post.sent, "undone in time, nobody is invited")
	w.appoint(app.AppointmentFields{Title: ref("Rota"), When: ref("fri 10 to 11"), Attendees: &[]string{"Bram <bram@freight.example>", "lise@x.example"}})
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1)
	sent := letter.Parse(w.post.sent[0])
	method, events, _, err := meeting.Parse(sent.Calendar(), when.Standard(time.UTC))
	require.NoError(t, err)
	assert.Equal(t, meeting.Request, method)
	assert.Len(t, events[0].Attendees, 2)
	assert.Contains(t, sent.Text, "Fri 27 Nov, 10:00 to 11:00")

	answer := func(from, said, claims string) {
		w.receive(calendarMail(rand.Text()+"@x.example", from, "Re: Rota", "REPLY", fmt.Sprintf("UID:%s\nDTSTART:20261127T090000Z\nATTENDEE;PARTSTAT=%s:mailto:%s", events[0].UID, said, claims)))
	}
	answer("bram@freight.example", "ACCEPTED", "bram@freight.example")
	answer("anton@x.example", "DECLINED", "lise@x.example")
	assert.Equal(t, "1 accepted, 1 not yet", w.appointments()[0].Answers, "nobody answers for somebody else")
	answer("lise@x.example", "DECLINED", "lise@x.example")
	assert.Equal(t, "1 accepted, 1 declined", w.appointments()[0].Answers)
	r, err := w.app.Replies(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 2}, []int{r.Accepted, r.Declined}, "a plain acceptance lies in the Shallows")
	assert.Len(t, w.rows(decide.Shallows), 1)
	_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: r.On})
	require.NoError(t, err)
	assert.Empty(t, w.rows(decide.Inbox), "cleared at once")

	one := w.appointments()[0]
	_, err = w.app.EditAppointment(w.ctx, w.who, rand.Text(), one.ID, app.AppointmentFields{When: ref("mon 9"), Attendees: &[]string{"bram@freight.example"}})
	require.NoError(t, err)
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 3, "whoever stays is told of the change, whoever goes of the end")
	_, err = w.app.CancelAppointment(w.ctx, w.who, rand.Text(), one.ID, false)
	require.NoError(t, err)
	w.pass(time.Minute)
	last := letter.Parse(w.post.sent[3])
	assert.Equal(t, "Called off: Rota", last.Subject)
	_, err = w.app.CancelAppointment(w.ctx, w.who, rand.Text(), one.ID, false)
	require.Error(t, err, "two tabs")
}

func TestAnInvitationIsAnswered(t *testing.T) {
	w := newWorld(t)
	w.appoint(app.AppointmentFields{Title: ref("Dentist"), When: ref("fri 10 to 11")})
	event := "UID:meet@x.example\nSEQUENCE:%d\nDTSTART:20261127T0%d3000Z\nDTEND:20261127T100000Z\nSUMMARY:Glazing\nORGANIZER;CN=Maren:mailto:maren@x.example\nATTENDEE;CN=Ines:mailto:ines@norrholm.example"
	w.receive(calendarMail("i1@x.example", "Maren <maren@x.example>", "Glazing", "REQUEST", fmt.Sprintf(event, 0, 9)))
	open := func(id int64) *show.InvitationView {
		c, err := w.app.Open(w.ctx, w.who, id)
		require.NoError(t, err)
		return c.LetterList[len(c.LetterList)-1].Body.Invitation
	}
	row := w.row(decide.Inbox)
	inv := open(row.ID)
	require.NotNil(t, inv)
	assert.Equal(t, "invitation", inv.Kind)
	assert.Contains(t, inv.Clash, "Dentist", "what else is then")
	say := func(in app.InvitationAnswer) error {
		in.Letter = row.Last
		_, err := w.app.AnswerInvitation(w.ctx, w.who, rand.Text(), in)
		return err
	}
	require.Error(t, say(app.InvitationAnswer{Reply: "perhaps"}))
	require.Error(t, say(app.InvitationAnswer{Reply: meeting.Tentative, Propose: "soonish"}))
	require.NoError(t, say(app.InvitationAnswer{Reply: meeting.Tentative, Propose: "mon 13:00"}))
	w.pass(time.Minute)
	method, events, _, err := meeting.Parse(letter.Parse(w.post.sent[0]).Calendar(), when.Standard(time.UTC))
	require.NoError(t, err)
	assert.Equal(t, meeting.Counter, method)
	assert.Equal(t, "30 12:00", events[0].Start.UTC.Format("2 15:04"))
	assert.Empty(t, w.rows(decide.Inbox), "answered, it is archived")

	require.NoError(t, say(app.InvitationAnswer{Reply: meeting.Accepted, Comment: "Gladly."}))
	w.pass(time.Minute)
	sent := letter.Parse(w.post.sent[1])
	assert.Equal(t, "Accepted: Glazing", sent.Subject)
	assert.Contains(t, sent.Text, "Gladly.")
	assert.Equal(t, []string{"i1@x.example"}, sent.InReplyTo)
	require.Len(t, w.appointments(), 2)
	require.ErrorContains(t, w.editAhead("move", "mon", app.EntryRef{Kind: "appointment", ID: w.appointments()[1].ID}), "somebody else")

	w.receive(calendarMail("i2@x.example", "Mallory <mallory@y.example>", "Off", "CANCEL", fmt.Sprintf(event, 1, 9)))
	assert.Len(t, w.appointments(), 2, "only its organizer calls it off")
	w.receive(calendarMail("i3@x.example", "Maren <maren@x.example>", "Off", "CANCEL", fmt.Sprintf(event, 1, 9)))
	assert.Len(t, w.appointments(), 1)
}

func TestAppointmentsGoOutAndComeIn(t *testing.T) {
	w := newWorld(t)
	w.appoint(app.AppointmentFields{Title: ref("Rota"), When: ref("fri 10 to 11"), Attendees: &[]string{"lise@x.example"}})
	renew := func(remove bool) string {
		_, err := w.app.RenewFeed(w.ctx, w.who, rand.Text(), remove)
		require.NoError(t, err)
		f, err := w.app.FeedAddress(w.ctx, w.who)
		require.NoError(t, err)
		return strings.TrimSuffix(strings.TrimPrefix(f.Path, "/feed/"), ".ics")
	}
	secret := renew(false)
	text, err := w.app.Feed(w.ctx, secret)
	require.NoError(t, err)
	assert.Contains(t, text, "SUMMARY:Rota")
	assert.NotContains(t, text, "lise", "those invited are nobody else's business")
	assert.Empty(t, renew(true))
	for _, old := range []string{secret, ""} {
		_, err = w.app.Feed(w.ctx, old)
		require.Error(t, err)
	}
	v := newWorld(t)
	p, err := v.app.PreviewTasks(v.ctx, v.who, text)
	require.NoError(t, err)
	assert.Equal(t, 1, p.Events)
	_, err = v.app.ImportTasks(v.ctx, v.who, rand.Text(), text)
	require.NoError(t, err)
	_, err = v.app.ImportTasks(v.ctx, v.who, rand.Text(), text)
	require.ErrorContains(t, err, "nothing new")
	require.Len(t, v.appointments(), 1)
	v.undo()
	assert.Empty(t, v.appointments())
}
