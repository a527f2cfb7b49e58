package meeting_test

import (
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/when"
)

// An invitation names its method, its organizer and its time in their zone.
func ExampleParse() {
	file := strings.ReplaceAll(`BEGIN:VCALENDAR
VERSION:2.0
METHOD:REQUEST
BEGIN:VEVENT
UID:rota@freight.example
DTSTAMP:20261120T100000Z
DTSTART;TZID=Europe/Lisbon:20261127T090000
DURATION:PT45M
SUMMARY:Rota
ORGANIZER:mailto:bram@freight.example
END:VEVENT
END:VCALENDAR
`, "\n", "\r\n")
	oslo, err := time.LoadLocation("Europe/Oslo")
	if err != nil {
		fmt.Println(err)
		return
	}
	method, events, troubles, err := meeting.Parse(file, when.Standard(oslo))
	fmt.Println(method, len(troubles), err)
	for _, e := range events {
		fmt.Println(e.Title, e.Organizer.Email, e.Start.UTC.In(oslo).Format("Mon 15:04"), e.End.In(oslo).Format("15:04"))
	}
	// Output:
	// REQUEST 0 <nil>
	// Rota bram@freight.example Fri 10:00 10:45
}
