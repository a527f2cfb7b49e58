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
)

var messages int

// invitation receives a message about an appointment from Maren.
func (w *world) invitation(method, lines string) {
	w.t.Helper()
	messages++
	id := fmt.Sprintf("itip-%d", messages)
	calendar := "BEGIN:VCALENDAR\nMETHOD:" + method + "\nBEGIN:VEVENT\nUID:panes@glazing.example\nORGANIZER:mailto:maren@glazing.example\nATTENDEE:mailto:ines@norrholm.example\nSUMMARY:Panes\n" + strings.TrimSpace(lines) + "\nEND:VEVENT\nEND:VCALENDAR\n"
	w.receive(mail{id: id, from: "Maren <maren@glazing.example>", subject: "Panes " + id,
		extra: "Content-Type: text/calendar; method=" + method + "; charset=utf-8\r\n", text: strings.ReplaceAll(strings.TrimSpace(calendar), "\n", "\r\n")})
}

func (w *world) reply(r meeting.Reply) {
	w.t.Helper()
	rows := w.rows(decide.Inbox)
	require.NotEmpty(w.t, rows)
	_, err := w.app.AnswerInvitation(w.ctx, w.who, rand.Text(), app.InvitationAnswer{Letter: rows[0].Last, Reply: r})
	require.NoError(w.t, err)
}

// times are the appointments ahead, in words.
func (w *world) times() (out []string) {
	for _, a := range w.appointments() {
		out = append(out, a.Words)
	}
	return out
}

func TestWhatIsMovedMoves(t *testing.T) {
	w := newWorld(t)
	w.invitation("REQUEST", "SEQUENCE:0\nDTSTART:20261126T090000Z\nDTEND:20261126T100000Z")
	w.reply(meeting.Accepted)
	assert.Equal(t, []string{"Thu 26 Nov, 10:00 to 11:00"}, w.times())
	w.invitation("REQUEST", "SEQUENCE:1\nDTSTART:20261127T120000Z\nDTEND:20261127T130000Z")
	assert.Equal(t, []string{"Fri 27 Nov, 13:00 to 14:00"}, w.times(), "the day line has the new time")
	assert.Equal(t, meeting.NoReply, w.appointments()[0].Reply, "and it is to be answered anew")
	w.invitation("REQUEST", "SEQUENCE:0\nDTSTART:20261126T090000Z\nDTEND:20261126T100000Z")
	assert.Equal(t, []string{"Fri 27 Nov, 13:00 to 14:00"}, w.times(), "an older message changes nothing")
	w.invitation("CANCEL", "SEQUENCE:2")
	assert.Empty(t, w.times(), "called off without a start")
}

const weekly = "DTSTART;TZID=Europe/Oslo:20261126T100000\nDTEND;TZID=Europe/Oslo:20261126T110000\nRRULE:FREQ=WEEKLY;COUNT=4"

func TestASeriesIsAnsweredMovedAndCalledOffInParts(t *testing.T) {
	w := newWorld(t)
	w.invitation("REQUEST", "SEQUENCE:0\n"+weekly)
	w.reply(meeting.Accepted)
	require.Len(t, w.times(), 4)
	w.invitation("REQUEST", "SEQUENCE:1\nRECURRENCE-ID;TZID=Europe/Oslo:20261203T100000\nDTSTART;TZID=Europe/Oslo:20261204T150000\nDTEND;TZID=Europe/Oslo:20261204T160000")
	w.invitation("CANCEL", "SEQUENCE:1\nRECURRENCE-ID;TZID=Europe/Oslo:20261210T100000")
	assert.Equal(t, []string{"Thu 26 Nov, 10:00 to 11:00", "Fri 4 Dec, 15:00 to 16:00", "Thu 17 Dec, 10:00 to 11:00"}, w.times())

	w.pass(time.Minute)
	sent := len(w.post.sent)
	w.invitation("REQUEST", "SEQUENCE:2\nRECURRENCE-ID;TZID=Europe/Oslo:20261217T100000\nDTSTART;TZID=Europe/Oslo:20261218T100000\nDTEND;TZID=Europe/Oslo:20261218T110000")
	w.reply(meeting.Declined)
	w.pass(time.Minute)
	require.Len(t, w.post.sent, sent+1)
	_, events, _, err := meeting.Parse(letter.Parse(w.post.sent[sent]).Calendar(), when.Standard(time.UTC))
	require.NoError(t, err)
	assert.Equal(t, "2026-12-17T09:00:00Z", events[0].Recurrence.Format(time.RFC3339), "the answer names the one that it is to")
	declined := 0
	for _, a := range w.appointments() {
		if a.Reply == meeting.Declined {
			declined++
		}
	}
	assert.Equal(t, 1, declined)

	w.invitation("CANCEL", "SEQUENCE:3")
	assert.Empty(t, w.times())
}

func TestASeriesThatMovesMovesWhole(t *testing.T) {
	w := newWorld(t)
	w.invitation("REQUEST", "SEQUENCE:0\n"+weekly)
	w.reply(meeting.Accepted)
	w.invitation("REQUEST", "SEQUENCE:1\n"+strings.ReplaceAll(weekly, "T1", "T2"))
	assert.Equal(t, []string{"Thu 26 Nov, 20:00 to 21:00", "Thu 3 Dec, 20:00 to 21:00", "Thu 10 Dec, 20:00 to 21:00", "Thu 17 Dec, 20:00 to 21:00"}, w.times())
	row := w.rows(decide.Inbox)[0]
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	card := c.LetterList[0].Body.Invitation
	assert.True(t, card.Moved, "%+v", card)
	assert.Equal(t, "every week", strings.SplitN(card.Recurs, ",", 2)[0])
	assert.Len(t, card.Next, 3)
}

func TestAnUnknownZoneIsSaidOnTheCard(t *testing.T) {
	w := newWorld(t)
	w.invitation("REQUEST", "DTSTART;TZID=Atlantis:20261126T100000")
	c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	assert.Equal(t, "Atlantis", c.LetterList[0].Body.Invitation.Zone)
}

// One's own series: made from words, each one moved and called off by itself,
// answered one by one, and reckoned ahead for ever.
func TestOnesOwnSeries(t *testing.T) {
	w := newWorld(t)
	title, at, recurs, who := "Rota", "thu 10 to 11", "every week", []string{"bram@freight.example"}
	out, err := w.app.NewAppointment(w.ctx, w.who, rand.Text(), app.AppointmentFields{Title: &title, When: &at, Recurs: &recurs, Attendees: &who}, 0)
	require.NoError(t, err)
	assert.Contains(t, out.Title, "every week")
	n := len(w.times())
	assert.Greater(t, n, 20)
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1, "invited once")
	_, events, _, err := meeting.Parse(letter.Parse(w.post.sent[0]).Calendar(), when.Standard(time.UTC))
	require.NoError(t, err)
	require.NotNil(t, events[0].Series)

	second := w.appointments()[1]
	moved := "fri 4 dec 9 to 10"
	_, err = w.app.EditAppointment(w.ctx, w.who, rand.Text(), second.ID, app.AppointmentFields{When: &moved})
	require.NoError(t, err)
	assert.Equal(t, "Fri 4 Dec, 09:00 to 10:00", w.times()[1])
	_, err = w.app.CancelAppointment(w.ctx, w.who, rand.Text(), w.appointments()[2].ID, false)
	require.NoError(t, err)
	assert.Len(t, w.times(), n-1)
	undone := w.undo()
	assert.Contains(t, undone.Title, "Called off")
	assert.Len(t, w.times(), n)

	w.pass(400 * 24 * time.Hour)
	assert.Greater(t, len(w.times()), 20, "it goes on")
	_, err = w.app.CancelAppointment(w.ctx, w.who, rand.Text(), w.appointments()[0].ID, true)
	require.NoError(t, err)
	assert.Empty(t, w.times())
	w.pass(400 * 24 * time.Hour)
	assert.Empty(t, w.times())
}
