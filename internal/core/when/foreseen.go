package when

import (
	"fmt"
	"strings"
	"time"
)

// foreseenDays is how far ahead dates are foreseen.
const foreseenDays = 60

// ForeseenPhrase is a phrase that may be read before it is typed.
type ForeseenPhrase struct {
	Text string
	// Until is from when on it would mean another time, or one that has passed; the
	// zero Time for never.
	Until time.Time
}

// Foreseen are phrases that somebody may type while nothing can read them, as
// on a page that has lost its server: the names of times, the common words, the
// distances in days and weeks, and the dates of the next two months. Each of
// them can be read; none depends on the minute.
func Foreseen(now time.Time, c Calendar) []ForeseenPhrase {
	var passing, dates []string
	for _, n := range c.Named {
		passing = append(passing, strings.ToLower(n.Name))
	}
	passing = append(passing, "tonight", "tomorrow", "tomorrow afternoon", "tomorrow evening", "weekend", "next week", "next month", "end of week", "end of month", "someday")
	today := c.Today(now)
	for i := 1; i <= 7; i++ {
		passing = append(passing, strings.ToLower(today.Add(i).Weekday().String()))
	}
	for i := 1; i <= 14; i++ {
		passing = append(passing, fmt.Sprintf("%dd", i))
	}
	for i := 1; i <= 8; i++ {
		passing = append(passing, fmt.Sprintf("%dw", i))
	}
	for i := range foreseenDays {
		d := today.Add(i + 1)
		dates = append(dates, strings.ToLower(fmt.Sprintf("%d %.3s", d.Day, d.Month)), d.String())
	}
	out := make([]ForeseenPhrase, 0, len(passing)+len(dates))
	foresee := func(text string, until time.Time) {
		r, err := Read(text, now, c)
		if err != nil {
			return // a name of the person's own may mean nothing on this day
		}
		if soon, err := Read(text, now.Add(time.Minute), c); err == nil && !soon.UTC.Equal(r.UTC) {
			return // it depends on the minute, as “later today” does
		}
		if r.Precision != Open && (until.IsZero() || r.UTC.Before(until)) {
			until = r.UTC
		}
		out = append(out, ForeseenPhrase{text, until})
	}
	for _, text := range passing {
		foresee(text, c.Begins(today.Add(1)))
	}
	for _, text := range dates {
		foresee(text, time.Time{})
	}
	return out
}
