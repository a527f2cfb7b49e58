package review

import (
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Weeks is over how many full weeks of history an expectation is the mean.
const Weeks = 6

// Hours are counts, or means of counts, by hour of a local day.
type Hours [24]float64

// History counts something by day and hour.
type History map[when.Date]*Hours

// Quarter is how finely history is counted: no zone's offset cuts it.
const Quarter = 15 * time.Minute

// Add counts n things in the quarter of an hour that begins at t.
func (h History) Add(t time.Time, n float64, zone *time.Location) {
	local := t.In(zone)
	y, m, d := local.Date()
	date := when.Date{Year: y, Month: m, Day: d}
	if h[date] == nil {
		h[date] = &Hours{}
	}
	h[date][local.Hour()] += n
}

// since is the first day of the window before day: the full weeks between the
// first day that has any history and day, at most Weeks.
func (h History) since(day when.Date) (from when.Date, weeks int) {
	first := day
	for d := range h {
		if d.Before(first) {
			first = d
		}
	}
	weeks = min(first.DaysUntil(day)/7, Weeks)
	return day.Add(-7 * weeks), weeks
}

// Expect is what a day is expected to bring by hour: the mean of the same
// weekday over the full weeks before today, which is left out. All zero
// without a full week of history.
func (h History) Expect(day, today when.Date) Hours {
	_, weeks := h.since(today)
	var out Hours
	// The same weekday in each of the weeks that end with yesterday.
	back := (int(today.Weekday()) - int(day.Weekday()) + 7) % 7
	if back == 0 {
		back = 7
	}
	for w := range weeks {
		h.addTo(&out, today.Add(-back-7*w), 1/float64(weeks))
	}
	return out
}

// Between is what is expected of [from, to), in which today is left out of the
// history.
func (h History) Between(from, to time.Time, today when.Date, zone *time.Location) (sum float64) {
	days := map[when.Date]Hours{}
	for t := from; t.Before(to); {
		next := t.Truncate(Quarter).Add(Quarter)
		if next.After(to) {
			next = to
		}
		local := t.In(zone)
		d := when.DateOf(local)
		if _, ok := days[d]; !ok {
			days[d] = h.Expect(d, today)
		}
		sum += days[d][local.Hour()] * next.Sub(t).Hours()
		t = next
	}
	return sum
}

// ExpectPlain is the plain mean per hour of day over the same weeks, whatever
// the weekday: what Expect is measured against.
func (h History) ExpectPlain(today when.Date) Hours {
	from, weeks := h.since(today)
	var out Hours
	for d := from; weeks > 0 && d.Before(today); d = d.Add(1) {
		h.addTo(&out, d, 1/float64(7*weeks))
	}
	return out
}

func (h History) addTo(out *Hours, day when.Date, weight float64) {
	if hours := h[day]; hours != nil {
		for i, n := range hours {
			out[i] += n * weight
		}
	}
}

// Sum is the whole day.
func (h Hours) Sum() (sum float64) {
	for _, n := range h {
		sum += n
	}
	return sum
}

// Expected is a point of the curve to come.
type Expected struct {
	At    time.Time `json:"at"`
	Count float64   `json:"count"`
}

// Prospect is what the curve to come follows from.
type Prospect struct {
	Now   time.Time
	Count int
	// Held letters wait for the next delivery.
	Held int
	// Gate tells whether mail flows at a moment, and when the next delivery
	// after it comes; zero if none is known.
	Gate func(time.Time) (open bool, next time.Time)
	// Returns are when put-off conversations come back.
	Returns []Returning
	// In are the new ones expected by hour of each day, Out the decisions.
	In, Out func(day when.Date) Hours
}

// Returning is a conversation that comes back; with Exact it passes a hold.
type Returning struct {
	At    time.Time
	Exact bool
}

// Foresee computes the curve from now to the end: the count, what is held from
// the next delivery on, what returns, and the expected new ones less the
// expected decisions, never below 0.
func Foresee(o Prospect, end time.Time, c when.Calendar) []Expected {
	count, waiting := float64(o.Count), float64(o.Held)
	out := []Expected{{o.Now, count}}
	in, outflow := map[when.Date]Hours{}, map[when.Date]Hours{}
	rate := func(cache map[when.Date]Hours, of func(when.Date) Hours, t time.Time) float64 {
		local := t.In(c.Zone)
		y, m, d := local.Date()
		date := when.Date{Year: y, Month: m, Day: d}
		hours, ok := cache[date]
		if !ok {
			hours = of(date)
			cache[date] = hours
		}
		return hours[local.Hour()]
	}
	returns := o.Returns
	for t := o.Now; t.Before(end); {
		next := t.Truncate(Quarter).Add(Quarter)
		open, delivery := o.Gate(t)
		if !delivery.IsZero() && delivery.Before(next) {
			next = delivery
		}
		share := next.Sub(t).Hours()
		came := rate(in, o.In, t) * share
		for len(returns) > 0 && returns[0].At.Before(next) {
			if !open && !returns[0].Exact {
				waiting++
			} else {
				count++
			}
			returns = returns[1:]
		}
		if open {
			count += came
		} else {
			waiting += came
		}
		count = max(0, count-rate(outflow, o.Out, t)*share)
		out = append(out, Expected{next, count})
		if waiting > 0 && next.Equal(delivery) {
			count += waiting
			waiting = 0
			out = append(out, Expected{next, count})
		}
		t = next
	}
	return out
}
