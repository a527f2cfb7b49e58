package when

import (
	"fmt"
	"strings"
	"time"
)

// foreseenDays is how far ahead dates are foreseen.
const foreseenDays = 60

// Foreseen are phrases that somebody may type while nothing can read them, as
// on a page that has lost its server: the names of times, the common words, the
// distances in days and weeks, and the dates of the next two months. Each of
// them can be read; none depends on the minute.
func Foreseen(now time.Time, c Calendar) []string {
	var out []string
	for _, n := range c.Named {
		out = append(out, strings.ToLower(n.Name))
	}
	out = append(out, "tonight", "tomorrow", "tomorrow afternoon", "tomorrow evening", "weekend", "next week", "next month", "end of week", "end of month", "someday")
	today := c.Today(now)
	for i := 1; i <= 7; i++ {
		out = append(out, strings.ToLower(today.Add(i).Weekday().String()))
	}
	for i := 1; i <= 14; i++ {
		out = append(out, fmt.Sprintf("%dd", i))
	}
	for i := 1; i <= 8; i++ {
		out = append(out, fmt.Sprintf("%dw", i))
	}
	for i := range foreseenDays {
		d := today.Add(i + 1)
		out = append(out, strings.ToLower(fmt.Sprintf("%d %.3s", d.Day, d.Month)), d.String())
	}
	return out
}
