package followup

import (
	"time"

	"ebbe.example/ebbe/internal/core/load"
)

// Fittable is a follow-up that weighs on today.
type Fittable struct {
	ID       int64
	Estimate time.Duration // 0 where none is set
	// Fixed ones are due at a minute of today, and stay.
	Fixed bool
}

// Shift proposes that a follow-up is moved to a later day.
type Shift struct {
	ID  int64
	Day int // index into the days
}

// Fit proposes what to move, and where to, so that today holds no more than it
// has time for. list is in the order of work: what comes last is moved first.
// Each goes to the first later day on which it fits, or failing that to the
// one with the most time left; nothing goes on a day without time. days[0] is
// today.
func Fit(list []Fittable, days []load.Day) (shifts []Shift, over time.Duration) {
	if len(days) == 0 {
		return nil, 0
	}
	planned := make([]time.Duration, len(days))
	for i, d := range days {
		planned[i] = d.Planned
	}
	for i := len(list) - 1; i >= 0 && planned[0] > days[0].Free; i-- {
		f := list[i]
		if f.Fixed {
			continue
		}
		estimate := f.Estimate
		if estimate == 0 {
			estimate = load.UsualEstimate
		}
		best := -1
		for k := 1; k < len(days); k++ {
			left := days[k].Free - planned[k]
			if days[k].Free == 0 {
				continue
			}
			if left >= estimate {
				best = k
				break
			}
			if best < 0 || left > days[best].Free-planned[best] {
				best = k
			}
		}
		if best < 0 {
			break
		}
		shifts = append(shifts, Shift{f.ID, best})
		planned[0] -= estimate
		planned[best] += estimate
	}
	return shifts, max(0, planned[0]-days[0].Free)
}
