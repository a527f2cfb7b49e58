package findings_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

func TestDates(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	c := when.Standard(zone)
	written := time.Date(2026, 11, 23, 9, 0, 0, 0, zone) // Monday
	now := written.Add(24 * time.Hour)
	for text, want := range map[string][]string{
		"Please send it by Friday 27 November. Thanks.":          {"Fri 27 Nov, 08:30"},
		"Could you come on Thursday at 14:00, or on 3 December?": {"Thu 26 Nov, 14:00", "Thu 3 Dec, 08:30"},
		"We met on 3 November and it was fine.":                  nil,
		"I ordered 12 crates and 3 lids in 2024.":                nil,
		"You may use the east gate.":                             nil,
		"Call me tomorrow, please.":                              nil, // that was the day on which it is read
		"The board meets on the 8th of December, 10:00.":         {"Tue 8 Dec, 10:00"},
		"By 2026-12-01 at the latest. Again: by 1 December.":     {"Tue 1 Dec, 08:30"},
		"Mr March and Mrs May send greetings.":                   nil,
	} {
		var got []string
		for _, d := range findings.Dates(text, written, now, c) {
			got = append(got, when.Speak(d.Moment, now.AddDate(0, 0, -7), c))
		}
		assert.Equal(t, want, got, text)
	}
}

func TestAsksAndUrgency(t *testing.T) {
	text := "Dear Ines,\n\nCan you confirm the four crate sizes? The lorry is booked. Please send me the lift height by Friday.\n\nKind regards,\nBram"
	assert.Equal(t, []string{"Can you confirm the four crate sizes?", "Please send me the lift height by Friday."}, findings.Asks(text))
	for text, want := range map[string]followup.Priority{"This is URGENT": followup.Urgent, "deadline on Friday": followup.High, "no hurry at all": followup.Low, "Hello": followup.Normal} {
		p, why := findings.Urgency(text)
		assert.Equal(t, want, p, text)
		assert.Equal(t, want != followup.Normal, why != "", text)
	}
}
