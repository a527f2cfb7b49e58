package meeting_test

import (
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

// secondOpinion reads a calendar that Ebbe wrote with another parser, and checks
// the form of its lines.
func secondOpinion(t require.TestingT, text string) *ical.Calendar {
	cal, err := ical.NewDecoder(strings.NewReader(text)).Decode()
	require.NoError(t, err, text)
	assert.NotContains(t, strings.ReplaceAll(text, "\r\n", ""), "\n", "lines end with CRLF")
	zones := map[string]bool{}
	for _, c := range cal.Children {
		if c.Name == ical.CompTimezone {
			zones[c.Props.Get(ical.PropTimezoneID).Value] = true
		}
	}
	for line := range strings.SplitSeq(text, "\r\n") {
		assert.LessOrEqual(t, len(line), 75, line)
	}
	for _, e := range cal.Events() {
		for _, props := range e.Props {
			for _, p := range props {
				if id := p.Params.Get(ical.PropTimezoneID); id != "" {
					assert.True(t, zones[id], "the zone %s is defined", id)
				}
			}
		}
		start, end := e.Props.Get(ical.PropDateTimeStart), e.Props.Get(ical.PropDateTimeEnd)
		if start != nil && end != nil {
			assert.Equal(t, start.ValueType(), end.ValueType(), "start and end are of one type")
		}
		if e.Props.Get(ical.PropRecurrenceRule) != nil {
			assert.NotNil(t, start, "what recurs has a start")
		}
	}
	return cal
}

func parse(t *testing.T, lines string) (string, []meeting.Event, []string) {
	t.Helper()
	method, events, troubles, err := meeting.Parse(strings.ReplaceAll(lines, "\n", "\r\n"), oslo(t))
	require.NoError(t, err)
	return method, events, troubles
}

const ownZone = `BEGIN:VTIMEZONE
TZID:NAME
BEGIN:STANDARD
DTSTART:16011104T020000
RRULE:FREQ=YEARLY;BYDAY=1SU;BYMONTH=11
TZOFFSETFROM:-0400
TZOFFSETTO:-0500
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:16010311T020000
RRULE:FREQ=YEARLY;BYDAY=2SU;BYMONTH=3
TZOFFSETFROM:-0500
TZOFFSETTO:-0400
END:DAYLIGHT
END:VTIMEZONE
`

// A time is read in its zone, however that is named.
func TestZonesOfTheWorld(t *testing.T) {
	for name, c := range map[string]struct{ defined bool }{
		"Customized Time Zone": {true}, "Eastern Standard Time": {false}, "/mozilla.example/20070129_1/America/New_York": {false}, "America/New_York": {false},
		"Europe/Oslo": {true}, // what the file defines outranks the name
	} {
		for wall, want := range map[string]string{"20260115T090000": "2026-01-15T14:00:00Z", "20260715T090000": "2026-07-15T13:00:00Z", "20260308T023000": "2026-03-08T07:30:00Z", "20261101T013000": "2026-11-01T05:30:00Z"} {
			zone := ""
			if c.defined {
				zone = strings.ReplaceAll(ownZone, "NAME", name)
			}
			_, events, troubles := parse(t, "BEGIN:VCALENDAR\n"+zone+"BEGIN:VEVENT\nUID:a\nDTSTART;TZID=\""+name+"\":"+wall+"\nSUMMARY:x\nEND:VEVENT\nEND:VCALENDAR\n")
			assert.Equal(t, want, events[0].Start.UTC.Format(time.RFC3339), "%s in %s", wall, name)
			assert.Empty(t, events[0].UnknownZone)
			assert.Empty(t, troubles)
		}
	}
	_, events, _ := parse(t, "BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nDTSTART;TZID=Atlantis:20260115T090000\nSUMMARY:x\nEND:VEVENT\nEND:VCALENDAR\n")
	assert.Equal(t, "Atlantis", events[0].UnknownZone, "it is said where a zone is not known")
	assert.Equal(t, "2026-01-15T08:00:00Z", events[0].Start.UTC.Format(time.RFC3339))
}

// What can be read of a broken file is read, and the rest named.
func TestBrokenFilesAreReadAsFarAsTheyGo(t *testing.T) {
	_, events, troubles := parse(t, `BEGIN:VCALENDAR
VERSION:2.0

BEGIN:VEVENT
UID:a
DTSTART:20261127T090000Z
SUMMARY:one
ATTENDEE;CN="unclosed:mailto:b@x.example
ATTENDEE;CN=Nobody:not an address
this line is nothing
END:VEVENT

END:VCALENDAR

BEGIN:VCALENDAR
BEGIN:VEVENT
DTSTART:20261128T090000Z
SUMMARY:without an id
END:VEVENT
BEGIN:VEVENT
UID:c
SUMMARY:never
END:VEVENT
END:VCALENDAR
`)
	require.Len(t, events, 2)
	assert.Equal(t, "b@x.example", events[0].Attendees[0].Email)
	assert.NotEmpty(t, events[1].UID)
	assert.Equal(t, []string{"a line can’t be read: “this line is nothing”", "somebody who is invited to “one” can’t be read: “not an address”", "“never” can’t be read: it has no start"}, troubles)
	_, again, _ := parse(t, "BEGIN:VCALENDAR\nBEGIN:VEVENT\nDTSTART:20261128T090000Z\nSUMMARY:without an id\nEND:VEVENT\nEND:VCALENDAR\n")
	assert.Equal(t, events[1].UID, again[0].UID, "it is known again")
}

func TestCancellingsAndAnswersNeedNoStart(t *testing.T) {
	method, events, _ := parse(t, "BEGIN:VCALENDAR\nMETHOD:CANCEL\nBEGIN:VEVENT\nUID:a\nSEQUENCE:2\nEND:VEVENT\nEND:VCALENDAR\n")
	assert.Equal(t, meeting.Cancel, method)
	assert.Equal(t, 2, events[0].Sequence)
	_, events, _ = parse(t, "BEGIN:VCALENDAR\nMETHOD:REPLY\nBEGIN:VEVENT\nUID:a\nRECURRENCE-ID:20261201T090000Z\nATTENDEE;PARTSTAT=DECLINED:mailto:b@x.example\nEND:VEVENT\nEND:VCALENDAR\n")
	assert.Equal(t, meeting.Declined, events[0].Attendees[0].Reply)
	assert.Equal(t, "2026-12-01T09:00:00Z", events[0].Recurrence.Format(time.RFC3339))
}

func starts(s *meeting.Series, c when.Calendar, from, to time.Time) (out []string) {
	for _, at := range s.Starts(c, from, to, 100) {
		out = append(out, at.In(c.Zone).Format("2006-01-02 15:04"))
	}
	return out
}

func TestSeries(t *testing.T) {
	c := oslo(t)
	from, to := time.Date(2026, 10, 1, 0, 0, 0, 0, time.UTC), time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)
	for name, x := range map[string]struct {
		lines string
		want  []string
	}{
		"weekly over a change of the clock": {"DTSTART;TZID=Europe/Oslo:20261013T090000\nRRULE:FREQ=WEEKLY;COUNT=4", []string{"2026-10-13 09:00", "2026-10-20 09:00", "2026-10-27 09:00", "2026-11-03 09:00"}},
		"until an instant":                  {"DTSTART;TZID=Europe/Oslo:20261013T090000\nRRULE:FREQ=WEEKLY;UNTIL=20261027T080000Z", []string{"2026-10-13 09:00", "2026-10-20 09:00", "2026-10-27 09:00"}},
		"in another zone":                   {"DTSTART;TZID=America/New_York:20261021T090000\nRRULE:FREQ=WEEKLY;COUNT=3", []string{"2026-10-21 15:00", "2026-10-28 14:00", "2026-11-04 15:00"}},
		"but not then":                      {"DTSTART;TZID=Europe/Oslo:20261013T090000\nRRULE:FREQ=WEEKLY;COUNT=4\nEXDATE;TZID=Europe/Oslo:20261020T090000,20261027T090000", []string{"2026-10-13 09:00", "2026-11-03 09:00"}},
		"and then as well":                  {"DTSTART:20261013T070000Z\nRDATE:20261015T070000Z,20261016T070000Z", []string{"2026-10-13 09:00", "2026-10-15 09:00", "2026-10-16 09:00"}},
		"whole days":                        {"DTSTART;VALUE=DATE:20261023\nRRULE:FREQ=DAILY;UNTIL=20261026", []string{"2026-10-23 00:00", "2026-10-24 00:00", "2026-10-25 00:00", "2026-10-26 00:00"}},
		"two rules":                         {"DTSTART:20261013T070000Z\nRRULE:FREQ=DAILY;COUNT=2\nRRULE:FREQ=WEEKLY;COUNT=2", []string{"2026-10-13 09:00", "2026-10-14 09:00", "2026-10-20 09:00"}},
	} {
		_, events, troubles := parse(t, "BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nSUMMARY:x\n"+x.lines+"\nEND:VEVENT\nEND:VCALENDAR\n")
		require.Empty(t, troubles, name)
		require.NotNil(t, events[0].Series, name)
		assert.Equal(t, x.want, starts(events[0].Series, c, from, to), name)
		secondOpinion(t, meeting.Write(meeting.Request, events, c, now))
		_, again, _, err := meeting.Parse(meeting.Write("", events, c, now), c)
		require.NoError(t, err)
		assert.Equal(t, x.want, starts(again[0].Series, c, from, to), "written and read again: %s", name)
	}
	_, events, troubles := parse(t, "BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nSUMMARY:x\nDTSTART:20261013T070000Z\nRRULE:FREQ=DAILY;INTERVAL=0\nEND:VEVENT\nEND:VCALENDAR\n")
	assert.Nil(t, events[0].Series)
	assert.Len(t, troubles, 1, "every 0th day is no rule")
}

func TestNamesAreQuoted(t *testing.T) {
	c := oslo(t)
	e := meeting.Event{UID: "a@x.example", Start: when.Exact(now, c), End: now.Add(time.Hour), Title: "a; b, c\\d\nsecond line with more than seventy-five octets, ä ö ü ß in it, to be folded",
		Organizer: letter.Address{Name: `Lee; "Ann": of, x`, Email: "ann@x.example"}, Attendees: []meeting.Attendee{{Address: letter.Address{Name: "Bram, of freight", Email: "bram@x.example"}}}}
	text := meeting.Write(meeting.Request, []meeting.Event{e}, c, now)
	cal := secondOpinion(t, text)
	title, err := cal.Events()[0].Props.Text(ical.PropSummary)
	require.NoError(t, err)
	assert.Equal(t, e.Title, title)
	assert.Equal(t, "Bram, of freight", cal.Events()[0].Props.Get(ical.PropAttendee).Params.Get(ical.ParamCommonName))
	_, events, _, err := meeting.Parse(text, c)
	require.NoError(t, err)
	assert.Equal(t, e.Organizer, events[0].Organizer)
}
