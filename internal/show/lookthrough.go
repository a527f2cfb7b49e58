package show

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// NextLook is when someday letters are looked through next.
func NextLook(p store.Person, after time.Time) time.Time {
	c := p.Calendar()
	return c.NextOn(time.Weekday(p.LookDay), c.DayStart, after)
}

// lookNote says on the group of someday letters when some of them come up.
func (v Viewer) lookNote(count int) string {
	n := min(v.Person.LookCount, count)
	if n == 0 {
		return ""
	}
	at := NextLook(v.Person, v.Now)
	return fmt.Sprintf("%d to look through %s", n, say.TrimClock(v.speak(when.Moment{UTC: at, Precision: when.ToDay, Wall: at.In(v.Cal.Zone).Format("2006-01-02T15:04")})))
}
