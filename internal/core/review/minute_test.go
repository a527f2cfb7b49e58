package review

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

var dawn = time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)

type step struct {
	at time.Time
	by int
}

// minutesOf counts steps, which are in their order, by minutes.
func minutesOf(t assert.TestingT, steps []step) (out []Minute) {
	for _, s := range steps {
		if n := len(out); n == 0 || !out[n-1].Last.Truncate(time.Minute).Equal(s.at.Truncate(time.Minute)) {
			out = append(out, Minute{})
		}
		assert.True(t, out[len(out)-1].Add(s.at, s.by))
	}
	return out
}

// plainly is the tide read off each instant: what the minutes must come to.
func plainly(before int, steps []step) (high int, zeros []time.Time) {
	at := before
	high = at
	for i := 0; i < len(steps); {
		was, instant := at, steps[i].at
		for i < len(steps) && steps[i].at.Equal(instant) {
			at += steps[i].by
			i++
		}
		high = max(high, at)
		if at == 0 && was != 0 {
			zeros = append(zeros, instant)
		}
	}
	return high, zeros
}

// Whatever happens, minutes know the high mark and the first zero of each to the
// instant; and the curve passes where the inbox stood at each minute's end.
func TestMinutesAreTheDay(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		before := rapid.IntRange(0, 5).Draw(rt, "before")
		level, at := before, dawn
		var steps []step
		for range rapid.IntRange(0, 40).Draw(rt, "steps") {
			at = at.Add(time.Duration(rapid.SampledFrom([]int{0, 0, 1, 7, 30, 61, 500}).Draw(rt, "seconds")) * time.Second)
			by := rapid.IntRange(-min(level, 3), 3).Draw(rt, "by")
			level += by
			steps = append(steps, step{at, by})
		}
		high, zeros := plainly(before, steps)
		tide := TideOf(dawn, at.Add(time.Hour), level, minutesOf(rt, steps))
		if high != tide.High {
			rt.Fatalf("high %d, not %d", tide.High, high)
		}
		var first []time.Time // of each minute: more of them nobody would tell apart
		for _, z := range zeros {
			if n := len(first); n == 0 || !first[n-1].Truncate(time.Minute).Equal(z.Truncate(time.Minute)) {
				first = append(first, z)
			}
		}
		assert.Equal(rt, first, tide.Zeros)
		for _, p := range tide.Curve[1:] {
			level := before
			for _, s := range steps {
				if !s.at.After(p.At) {
					level += s.by
				}
			}
			assert.Equal(rt, level, p.Count, "at %s", p.At)
		}
	})
}

func TestAMinuteOutOfOrder(t *testing.T) {
	var m Minute
	assert.True(t, m.Add(dawn.Add(2*time.Second), 3))
	assert.False(t, m.Add(dawn.Add(time.Second), -1), "it came before: the minute is to be counted anew")
	assert.Equal(t, 3, m.Sum)
	assert.True(t, m.Add(dawn.Add(2*time.Second), -3), "the same instant is one step")
	tide := TideOf(dawn, dawn.Add(time.Hour), 0, []Minute{m})
	assert.Zero(t, tide.High, "and that one changed nothing")
	assert.Empty(t, tide.Zeros)
}
