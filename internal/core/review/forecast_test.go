package review

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

var tuesday = when.Date{Year: 2026, Month: time.November, Day: 24}

func oslo(t require.TestingT) when.Calendar {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	return when.Standard(zone)
}

// history has n things at nine on each day of the given number of weeks before
// today, and twice as many on Tuesdays.
func history(t require.TestingT, weeks int) History {
	c, h := oslo(t), History{}
	for d := tuesday.Add(-7 * weeks); d.Before(tuesday); d = d.Add(1) {
		n := 2.0
		if d.Weekday() == time.Tuesday {
			n = 4
		}
		h.Add(c.Instant(d, when.At(9, 0)), n, c.Zone)
	}
	return h
}

func TestExpectation(t *testing.T) {
	c := oslo(t)
	h := history(t, 3)
	assert.InDelta(t, 4, h.Expect(tuesday, tuesday)[9], 1e-9)
	assert.InDelta(t, 2, h.Expect(tuesday.Add(1), tuesday)[9], 1e-9)
	assert.InDelta(t, 16.0/7, h.ExpectPlain(tuesday)[9], 1e-9)
	assert.Zero(t, h.Expect(tuesday, tuesday)[8])
	h.Add(c.Instant(tuesday, when.At(9, 0)), 100, c.Zone)
	assert.InDelta(t, 4, h.Expect(tuesday, tuesday)[9], 1e-9, "today is left out")
	h.Add(c.Instant(tuesday.Add(-7*20), when.At(9, 0)), 500, c.Zone)
	assert.InDelta(t, 2, h.Expect(tuesday, tuesday)[9], 1e-9, "six weeks at most: three of them empty")
	assert.Zero(t, History{}.Expect(tuesday, tuesday).Sum(), "nothing is expected of no history")
	assert.Zero(t, History{}.ExpectPlain(tuesday).Sum())
}

func flat(n float64) func(when.Date) Hours {
	var h Hours
	for i := range h {
		h[i] = n
	}
	return func(when.Date) Hours { return h }
}

// held is a gate that is held until a moment, or for good.
func held(until time.Time, endless bool) func(time.Time) (bool, time.Time) {
	return func(t time.Time) (bool, time.Time) {
		if endless || t.Before(until) {
			return false, until
		}
		return true, time.Time{}
	}
}

func TestForesee(t *testing.T) {
	c := oslo(t)
	now := c.Instant(tuesday, when.At(11, 6))
	at := func(points []Expected, m when.Minute) (last float64) {
		for _, p := range points {
			if !p.At.After(c.Instant(tuesday, m)) {
				last = p.Count
			}
		}
		return last
	}
	o := Prospect{Now: now, Count: 10, In: flat(4), Out: flat(0), Gate: held(time.Time{}, false)}
	points := Foresee(o, now.Add(4*time.Hour), c)
	assert.InDelta(t, 10+4*1.9, at(points, when.At(13, 0)), 1e-9)

	o.Held, o.Gate = 5, held(c.Instant(tuesday, when.At(13, 0)), false)
	o.Returns = []Returning{{At: c.Instant(tuesday, when.At(12, 0))}, {At: c.Instant(tuesday, when.At(12, 30)), Exact: true}}
	points = Foresee(o, now.Add(4*time.Hour), c)
	assert.InDelta(t, 10, at(points, when.At(12, 15)), 1e-9, "a day-precise return waits with the mail")
	assert.InDelta(t, 11, at(points, when.At(12, 45)), 1e-9, "one with a minute passes")
	assert.InDelta(t, 10+5+2+4*1.9, at(points, when.At(13, 0)), 1e-9, "the delivery brings what was held, what came, and what waited")

	o.Gate = held(time.Time{}, true)
	points = Foresee(o, now.Add(4*time.Hour), c)
	assert.InDelta(t, 11, points[len(points)-1].Count, 1e-9, "a hold without an end lets nothing in")
}

func TestTheCurveNeverFallsBelowZero(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		c := oslo(rt)
		now := c.Instant(tuesday, when.Minute(rapid.IntRange(0, 1439).Draw(rt, "now")))
		o := Prospect{
			Now: now, Count: rapid.IntRange(0, 50).Draw(rt, "count"), Held: rapid.IntRange(0, 20).Draw(rt, "held"),
			In: flat(rapid.Float64Range(0, 5).Draw(rt, "in")), Out: flat(rapid.Float64Range(0, 30).Draw(rt, "out")),
		}
		o.Gate = held(time.Time{}, false)
		if rapid.Bool().Draw(rt, "hold") {
			o.Gate = held(now.Add(time.Duration(rapid.IntRange(1, 600).Draw(rt, "minutes"))*time.Minute), false)
		}
		before := now
		for _, p := range Foresee(o, now.Add(24*time.Hour), c) {
			if p.Count < 0 || p.At.Before(before) {
				rt.Fatalf("%v %v", p.At, p.Count)
			}
			before = p.At
		}
	})
}
