package delivery

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Sample is a letter that arrived.
type Sample struct {
	At    time.Time
	Facts Facts
}

// Delivered is one delivery of a replay and how many letters it would have
// let in.
type Delivered struct {
	At      time.Time `json:"at"`
	Letters int       `json:"letters"`
}

// Replay is what a plan would have done with letters that really came.
type Replay struct {
	Letters    int
	Deliveries []Delivered
	// At once are those that would have come as they arrived, by an open gate,
	// and Through those let through, by entry.
	AtOnce  int
	Through map[int64]int
	// Median and Longest are waits over all letters.
	Median, Longest time.Duration
	// OverDay are the indexes of letters that would have waited longer than a
	// day.
	OverDay []int
	// Avoided is by how much interruptions would have been fewer than if each
	// letter had come at once.
	Avoided int
}

// Run replays letters, in the order of their arrival, against the plan.
func Run(g *Gate, through []Through, letters []Sample) Replay {
	r := Replay{Letters: len(letters), Through: map[int64]int{}}
	waits := make([]time.Duration, 0, len(letters))
	lets := 0
	var next time.Time // the delivery that what came so far waits for
	for i, l := range letters {
		if next.IsZero() || !l.At.Before(next) {
			s := g.State(l.At, OneOff{})
			if s.Open {
				r.AtOnce++
				waits = append(waits, 0)
				continue
			}
			next = s.Next
		}
		if e, ok := LetsThrough(through, l.Facts, l.At); ok {
			r.Through[e.ID]++
			lets++
			waits = append(waits, 0)
			continue
		}
		if next.IsZero() {
			continue
		}
		wait := next.Sub(l.At)
		waits = append(waits, wait)
		if wait > 24*time.Hour {
			r.OverDay = append(r.OverDay, i)
		}
		if n := len(r.Deliveries); n > 0 && r.Deliveries[n-1].At.Equal(next) {
			r.Deliveries[n-1].Letters++
		} else {
			r.Deliveries = append(r.Deliveries, Delivered{next, 1})
		}
	}
	slices.Sort(waits)
	if n := len(waits); n > 0 {
		r.Median, r.Longest = waits[n/2], waits[n-1]
	}
	r.Avoided = len(waits) - r.AtOnce - lets - len(r.Deliveries)
	return r
}

// Example is a plan to start from.
type Example struct {
	Name string
	Why  string
	Plan Plan
	// Fitted tells that enough has come for the plan to be more than a guess.
	Fitted bool
}

// enough is of how many letters on working days a plan can be fitted.
const enough = 30

// Times are the rounds of a working day in words, “8:30, 13:00 and 16:30”; "" for none.
func (p Plan) Times() string {
	for _, d := range p.Days {
		words := make([]string, len(d.Rounds))
		for i, r := range d.Rounds {
			words[i] = r.String()
		}
		if n := len(words); n > 1 {
			return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
		} else if n == 1 {
			return words[0]
		}
	}
	return ""
}

// Examples are three plans that fit the times of day at which mail arrives on
// working days.
func Examples(arrivals []time.Time, c when.Calendar) []Example {
	var minutes []when.Minute
	for _, t := range arrivals {
		local := t.In(c.Zone)
		if c.Works(when.DateOf(local)) {
			minutes = append(minutes, when.At(local.Hour(), local.Minute()))
		}
	}
	slices.Sort(minutes)
	within := slices.DeleteFunc(slices.Clone(minutes), func(m when.Minute) bool { return m < c.DayStart || m >= c.DayEnd })
	// quantile is when a share of the mail of working hours has come, to the
	// quarter of an hour after.
	quantile := func(share float64) when.Minute {
		at := c.DayStart + when.Minute(float64(c.DayEnd-c.DayStart)*share)
		if len(within) > 0 {
			at = within[min(int(float64(len(within))*share), len(within)-1)]
		}
		return min((at+14)/15*15, c.DayEnd-30)
	}
	off := []Span{}
	if c.DayStart > 0 {
		off = append(off, Span{0, c.DayStart})
	}
	if c.DayEnd < day {
		off = append(off, Span{c.DayEnd, day})
	}
	week := func(d DayPlan) Plan {
		p := Plan{Exceptions: []Exception{}}
		for i := range p.Days {
			p.Days[i] = DayPlan{Rounds: []when.Minute{}, Quiet: []Span{{0, day}}, Closed: []Span{}}
			if c.Works(when.Date{Year: 2001, Month: time.April, Day: 1}.Add(i)) { // a Sunday
				p.Days[i] = d
			}
		}
		return p.Tidy()
	}
	half := "No mail came yet, so these are even parts of your working day."
	if len(minutes) > 0 {
		half = "Half of your mail comes before " + minutes[len(minutes)/2].String() + "."
	}
	closeFrom, closeTo := c.DayStart+30, min(c.DayStart+180, c.DayEnd-60)
	fitted := len(minutes) >= enough
	return []Example{
		{Fitted: fitted, Name: "Three rounds", Why: half + " What came overnight first, then twice as the day brings it.", Plan: week(DayPlan{
			Rounds: []when.Minute{c.DayStart, max(quantile(0.5), c.DayStart+60), max(quantile(0.9), c.DayStart+120)}, Quiet: off, Closed: []Span{},
		})},
		{Fitted: fitted, Name: "Undisturbed mornings", Why: half + " The morning is for work: mail first thing, then not before it is over.", Plan: week(DayPlan{
			Rounds: []when.Minute{c.DayStart, closeTo, max(quantile(0.8), closeTo+60)}, Quiet: off, Closed: []Span{{closeFrom, closeTo}},
		})},
		{Fitted: fitted, Name: "Evenings and weekends off", Why: "Mail flows while you work, and waits while you don’t.", Plan: week(DayPlan{Rounds: []when.Minute{}, Quiet: off, Closed: []Span{}})},
	}
}
