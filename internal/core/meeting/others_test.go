package meeting_test

import (
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

// Another reader of calendars finds in what is written what was meant.
func TestOthersReadOurAppointments(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := when.Standard(zone)
	start := time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	day := when.OnDay(when.Date{Year: 2026, Month: 12, Day: 1}, c)
	events := []meeting.Event{
		{
			UID: "rounds@x.example", Sequence: 2, Start: when.Exact(start, c), End: start.Add(45 * time.Minute), Title: "Rounds; crates, boxes", Place: "The yard\nbehind the barn",
			Notes: strings.Repeat("å long note, ", 40), Organizer: letter.Address{Name: `Lee, "Ann"`, Email: "ann@x.example"},
			Attendees: []meeting.Attendee{{Address: letter.Address{Name: "Bram", Email: "bram@x.example"}, Reply: meeting.Tentative, Comment: "gladly"}},
		},
		{UID: "closed@x.example", Start: day, End: c.Instant(when.Date{Year: 2026, Month: 12, Day: 3}, 0), Title: "Closed", Free: true},
		{UID: "off@x.example", Start: when.Exact(start, c), End: start.Add(time.Hour), Title: "Off", Cancelled: true},
	}
	text := meeting.Write(meeting.Request, events, c, start.Add(-24*time.Hour))
	for line := range strings.SplitSeq(strings.TrimSuffix(text, "\r\n"), "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "lines are folded (RFC 5545, 3.1)")
		assert.True(t, strings.ToValidUTF8(line, "?") == line, "not within a letter: %q", line)
	}
	cal, err := ics.ParseCalendar(strings.NewReader(text))
	require.NoError(t, err)
	read := cal.Events()
	require.Len(t, read, 3)
	of := func(i int, p ics.ComponentProperty) string {
		if v := read[i].GetProperty(p); v != nil {
			return v.Value
		}
		return ""
	}
	assert.Equal(t, events[0].Title, of(0, ics.ComponentPropertySummary))
	assert.Equal(t, events[0].Place, of(0, ics.ComponentPropertyLocation))
	assert.Equal(t, events[0].Notes, of(0, ics.ComponentPropertyDescription))
	assert.Equal(t, "2", of(0, ics.ComponentPropertySequence))
	assert.Equal(t, "mailto:ann@x.example", strings.ToLower(of(0, ics.ComponentPropertyOrganizer)))
	at, err := read[0].GetStartAt()
	require.NoError(t, err)
	assert.True(t, start.Equal(at), at)
	end, err := read[0].GetEndAt()
	require.NoError(t, err)
	assert.True(t, events[0].End.Equal(end), end)
	attendees := read[0].Attendees()
	require.Len(t, attendees, 1)
	assert.Equal(t, "bram@x.example", attendees[0].Email())
	assert.Equal(t, "TRANSPARENT", of(1, ics.ComponentPropertyTransp))
	assert.Equal(t, "20261201", of(1, ics.ComponentPropertyDtStart))
	assert.Equal(t, "CANCELLED", of(2, ics.ComponentPropertyStatus))
}
