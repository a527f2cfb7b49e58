package review

import (
	"maps"
	"slices"
	"time"
)

// Day is what a day comes to in the account of several: all that these say of it, so that days that are over need
// not be read again.
type Day struct {
	Came, Decided, PutOffs int
	// Zeros are low waters, Night how many were undecided at its end.
	Zeros, Night         int
	Avoided, Interrupted int
	// Often are the conversations that were put off more than twice.
	Often []int64
	// Mine is how long others waited for the person's answers, Theirs how long the person for theirs.
	Mine, Theirs []time.Duration
}

// Days makes up days out of what passed in them, each from one of the bounds to the next; curve is that of all of them.
func Days(p Passed, tide Tide, bounds []time.Time) (out []Day) {
	i, count := 0, 0
	for n := range len(bounds) - 1 {
		from, to := bounds[n], bounds[n+1]
		for i < len(tide.Curve) && tide.Curve[i].At.Before(to) {
			count = tide.Curve[i].Count
			i++
		}
		day := p.Within(from, to).day()
		day.Night, day.Zeros = count, len(within(tide.Zeros, func(t time.Time) time.Time { return t }, from, to))
		out = append(out, day)
	}
	return out
}

func (p Passed) day() Day {
	sum := p.Sum()
	d := Day{PutOffs: sum.PutOffs, Avoided: sum.Avoided, Interrupted: sum.Interrupted, Often: slices.Sorted(maps.Keys(p.putOften()))}
	for _, c := range sum.Came {
		d.Came += c.N
	}
	for _, t := range sum.Decided {
		d.Decided += t.N
	}
	d.Mine, d.Theirs = answers(p.Exchanges)
	return d
}

// Together is what several days come to.
type Together struct {
	Came, Decided, PutOffs, Often, Zeros int
	// Night is the mean of the nights, rounded; 0 of none.
	Night                int
	Avoided, Interrupted int
	Mine, Theirs         Median
}

// Over sums up days. Interruptions are counted day by day.
func Over(days []Day) (t Together) {
	often := map[int64]bool{}
	var mine, theirs []time.Duration
	for _, d := range days {
		t.Came, t.Decided, t.PutOffs, t.Zeros = t.Came+d.Came, t.Decided+d.Decided, t.PutOffs+d.PutOffs, t.Zeros+d.Zeros
		t.Night, t.Avoided, t.Interrupted = t.Night+d.Night, t.Avoided+d.Avoided, t.Interrupted+d.Interrupted
		for _, c := range d.Often {
			often[c] = true
		}
		mine, theirs = append(mine, d.Mine...), append(theirs, d.Theirs...)
	}
	if len(days) > 0 {
		t.Night = (t.Night + len(days)/2) / len(days)
	}
	t.Often, t.Mine, t.Theirs = len(often), middle(mine), middle(theirs)
	return t
}
