// Package load weighs days: how many minutes of work stand on each, against
// the time that is free for it.
package load

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// UsualEstimate is what a follow-up without an estimate counts for.
const UsualEstimate = 15 * time.Minute

// UsualPace is how long a decision takes somebody who has made fewer than
// PaceFrom of them.
const (
	UsualPace = time.Minute
	PaceFrom  = 50
	// PaceDays is how far back decisions are looked at.
	PaceDays = 28
	// Sitting is the longest pause between two decisions of one sitting.
	Sitting = 5 * time.Minute
)

// Pace is the median time from one decision to the next in the same sitting.
// at are the times of decisions in order.
func Pace(at []time.Time) time.Duration {
	if len(at) < PaceFrom {
		return UsualPace
	}
	gaps := Gaps(at)
	if len(gaps) == 0 {
		return UsualPace
	}
	slices.Sort(gaps)
	return gaps[len(gaps)/2]
}

// Gaps are the times from one decision to the next in the same sitting. at are the times of decisions
// in order.
func Gaps(at []time.Time) (gaps []time.Duration) {
	for i := 1; i < len(at); i++ {
		if gap := at[i].Sub(at[i-1]); gap > 0 && gap <= Sitting {
			gaps = append(gaps, gap)
		}
	}
	return gaps
}

// Task is an open follow-up with a due day.
type Task struct {
	Due      when.Moment
	Estimate time.Duration // 0 where none is set
	// Returns are conversations that it came from and that come back on the
	// day it is due: they are counted with it.
	Returns int
}

// Day is what stands on a day.
type Day struct {
	Date  when.Date
	Tasks int
	// Returns are the conversations that come back, those of tasks included.
	Returns int
	// Planned is the work, Free the time for it; whatever the share.
	Planned, Free time.Duration
}

// Over tells whether there is more planned than there is time, once extra is
// put there too.
func (d Day) Over(extra time.Duration) bool { return d.Free > 0 && d.Planned+extra > d.Free }

// Busy is a stretch of time that is not free: [From, To).
type Busy struct{ From, To time.Time }

// Days weighs n days from today on. returns gives how many conversations come
// back in [from, to). share is the part of the free time that is planned with,
// 0 to 1.
func Days(n int, now time.Time, c when.Calendar, tasks []Task, returns func(from, to time.Time) (int, error), pace time.Duration, busy []Busy, share float64) ([]Day, error) {
	today := c.Today(now)
	days := make([]Day, n)
	for i := range days {
		d := today.Add(i)
		from, to := c.Begins(d), c.Begins(d.Add(1))
		if i == 0 {
			from = now
		}
		came, err := returns(from, to)
		if err != nil {
			return nil, err
		}
		days[i] = Day{Date: d, Returns: came, Planned: time.Duration(came) * pace, Free: time.Duration(float64(Free(d, now, c, busy)) * share)}
	}
	withTasks := make([]int, n) // returns that are counted with a task already
	for _, t := range tasks {
		i := max(0, today.DaysUntil(t.Due.Day(c))) // what is overdue weighs on today
		if i >= n || t.Due.Precision == when.Open {
			continue
		}
		estimate := t.Estimate
		if estimate == 0 {
			estimate = UsualEstimate
		}
		counted := min(t.Returns, days[i].Returns-withTasks[i])
		withTasks[i] += counted
		days[i].Tasks++
		days[i].Planned += estimate - time.Duration(counted)*pace
	}
	return days, nil
}

// Free is the working time of a day, of today what is left of it, less what is
// busy.
func Free(d when.Date, now time.Time, c when.Calendar, busy []Busy) time.Duration {
	if !c.Works(d) {
		return 0
	}
	from, to := c.Instant(d, c.DayStart), c.Instant(d, c.DayEnd)
	if from.Before(now) {
		from = now
	}
	if !from.Before(to) {
		return 0
	}
	free := to.Sub(from)
	busy = slices.Clone(busy)
	slices.SortFunc(busy, func(a, b Busy) int { return a.From.Compare(b.From) })
	at := from
	for _, b := range busy {
		if b.From.Before(at) {
			b.From = at
		}
		if b.To.After(to) {
			b.To = to
		}
		if b.From.Before(b.To) {
			free -= b.To.Sub(b.From)
			at = b.To
		}
	}
	return free
}

// Room is the first of the days, today left out, on which extra fits; ok is
// false if it fits on none.
func Room(days []Day, extra time.Duration) (day Day, ok bool) {
	for i, d := range days {
		if i > 0 && d.Free > 0 && !d.Over(extra) {
			return d, true
		}
	}
	return Day{}, false
}

// Spread deals n conversations over days so that the fullest is as little over
// as can be, in order: the first ones come first. It gives the index of a day
// for each.
func Spread(days []Day, n int, pace time.Duration) []int {
	if len(days) == 0 {
		return nil
	}
	counts := make([]int, len(days))
	planned := make([]time.Duration, len(days))
	for i, d := range days {
		planned[i] = d.Planned
	}
	for range n {
		best := -1
		for i, d := range days {
			if d.Free == 0 && slices.ContainsFunc(days, func(o Day) bool { return o.Free > 0 }) {
				continue // nothing goes on a day without time where another has some
			}
			if best < 0 || fullness(planned[i]+pace, d.Free) < fullness(planned[best]+pace, days[best].Free) {
				best = i
			}
		}
		counts[best]++
		planned[best] += pace
	}
	out := make([]int, 0, n)
	for i, k := range counts {
		for range k {
			out = append(out, i)
		}
	}
	return out
}

func fullness(planned, free time.Duration) float64 {
	if free == 0 {
		return float64(planned)
	}
	return float64(planned) / float64(free)
}
