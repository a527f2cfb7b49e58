package meeting_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

var now = time.Date(2026, 11, 24, 10, 6, 0, 0, time.UTC)

func oslo(t require.TestingT) when.Calendar {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	return when.Standard(zone)
}

func TestAnAppointmentComesBackTheSame(t *testing.T) {
	c := oslo(t)
	rapid.Check(t, func(t *rapid.T) {
		start := when.Exact(now.Add(time.Duration(rapid.OneOf(rapid.IntRange(0, 600_000), rapid.IntRange(6_000_000, 40_000_000)).Draw(t, "start"))*time.Minute), c)
		end := start.UTC.Add(time.Duration(rapid.IntRange(1, 3000).Draw(t, "minutes")) * time.Minute)
		if rapid.Bool().Draw(t, "whole") {
			day := c.Today(start.UTC)
			start = when.OnDay(day, c)
			start.Wall = day.String() + "T00:00"
			start = start.In(c)
			end = c.Instant(day.Add(rapid.IntRange(1, 4).Draw(t, "days")), 0)
		}
		text := rapid.StringMatching(`[A-Za-z][a-z,;\\é"]{0,30}[a-z]`)
		e := meeting.Event{
			UID: "one@x.example", Sequence: rapid.IntRange(0, 3).Draw(t, "sequence"), Start: start, End: end, Title: text.Draw(t, "title"), Place: text.Draw(t, "place"), Notes: text.Draw(t, "notes"),
			Organizer: letter.Address{Name: "Ines", Email: "ines@norrholm.example"}, Free: rapid.Bool().Draw(t, "free"), Cancelled: rapid.Bool().Draw(t, "cancelled"),
			Attendees: []meeting.Attendee{{Address: letter.Address{Name: "Bram, of freight", Email: "bram@freight.example"}, Reply: rapid.SampledFrom([]meeting.Reply{meeting.NoReply, meeting.Accepted, meeting.Declined, meeting.Tentative}).Draw(t, "reply")}},
		}
		for _, method := range []string{"", meeting.Request} {
			text := meeting.Write(method, []meeting.Event{e}, c, now)
			got, events, bad, err := meeting.Parse(text, c)
			secondOpinion(t, text)
			require.NoError(t, err, text)
			require.Empty(t, bad)
			assert.Equal(t, method, got)
			events[0].Start.Phrase = e.Start.Phrase
			events[0].End = events[0].End.UTC()
			e.End = e.End.UTC()
			require.Equal(t, e, events[0], text)
		}
	})
}

func TestInvitationsOfOtherPrograms(t *testing.T) {
	c := oslo(t)
	text := strings.ReplaceAll(`BEGIN:VCALENDAR
METHOD:REQUEST
BEGIN:VEVENT
UID:a
DTSTART;TZID=America/New_York:20261127T090000
DURATION:PT90M
SUMMARY:Talk
ORGANIZER;CN="Lee, Ann":MAILTO:ann@x.example
ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:ines@norrholm.example
END:VEVENT
BEGIN:VEVENT
UID:b
DTSTART;VALUE=DATE:20261201
SUMMARY:Closed
END:VEVENT
BEGIN:VEVENT
UID:c
DTSTART:20261201T100000Z
DTEND:20261201T090000Z
END:VEVENT
END:VCALENDAR
`, "\n", "\r\n")
	method, events, bad, err := meeting.Parse(text, c)
	require.NoError(t, err)
	assert.Equal(t, meeting.Request, method)
	assert.Equal(t, []string{"“c” can’t be read: it ends before it starts"}, bad)
	require.Len(t, events, 2)
	assert.Equal(t, "2026-11-27 15:00", events[0].Start.UTC.In(c.Zone).Format("2006-01-02 15:04"))
	assert.Equal(t, 90*time.Minute, events[0].End.Sub(events[0].Start.UTC))
	assert.Equal(t, letter.Address{Name: "Lee, Ann", Email: "ann@x.example"}, events[0].Organizer)
	assert.Equal(t, 24*time.Hour, events[1].End.Sub(events[1].Start.UTC))
	_, _, _, err = meeting.Parse("BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", c)
	require.ErrorIs(t, err, meeting.ErrNothing)
}

func TestAnswersAreCounted(t *testing.T) {
	person := func(name string) letter.Address { return letter.Address{Name: name, Email: name + "@x.example"} }
	e := meeting.Event{UID: "a", Sequence: 1, Attendees: []meeting.Attendee{{Address: person("bram"), Reply: meeting.NoReply}, {Address: person("lise"), Reply: meeting.NoReply}}}
	e, ok := e.Take(e.Replied(person("bram"), meeting.Accepted, "gladly"))
	assert.True(t, ok)
	assert.Equal(t, map[meeting.Reply]int{meeting.Accepted: 1, meeting.NoReply: 1}, e.Count())
	assert.Equal(t, "gladly", e.Attendees[0].Comment)
	old := e.Replied(person("lise"), meeting.Accepted, "")
	old.Sequence = 0
	_, ok = e.Take(old)
	assert.False(t, ok, "an answer to what it was before")
	_, ok = e.Take(e.Replied(person("anton"), meeting.Accepted, ""))
	assert.False(t, ok, "not invited")
}

func FuzzParse(f *testing.F) {
	f.Add("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:a\r\nDTSTART:20261127T090000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	c := oslo(f)
	f.Fuzz(func(_ *testing.T, text string) { _, _, _, _ = meeting.Parse(text, c) })
}

// What stands at its time, and what takes some of it.
func TestWhatTakesTime(t *testing.T) {
	for name, c := range map[string]struct {
		event         meeting.Event
		reply         meeting.Reply
		stands, takes bool
	}{
		"one's own":                 {meeting.Event{}, "", true, true},
		"accepted":                  {meeting.Event{}, meeting.Accepted, true, true},
		"left open":                 {meeting.Event{}, meeting.Tentative, true, true},
		"not answered yet":          {meeting.Event{}, meeting.NoReply, true, false},
		"declined":                  {meeting.Event{}, meeting.Declined, false, false},
		"called off":                {meeting.Event{Cancelled: true}, meeting.Accepted, false, false},
		"free":                      {meeting.Event{Free: true}, "", false, false},
		"free, and not answered":    {meeting.Event{Free: true}, meeting.NoReply, false, false},
		"called off, then accepted": {meeting.Event{Cancelled: true, Free: true}, meeting.Accepted, false, false},
	} {
		assert.Equal(t, c.stands, c.event.Stands(c.reply), name)
		assert.Equal(t, c.takes, c.event.TakesTime(c.reply), name)
	}
}
