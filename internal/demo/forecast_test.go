package demo

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
)

// The expectation of the day line is honest: over five worlds each working day
// of weeks 7 and 8 is forecast from the days before it. docs/forecast.md has
// the errors; run with -v for them.
func TestTheForecastBeatsThePlainMean(t *testing.T) {
	c := calendar()
	var hour, hourPlain, day, dayPlain, letters float64
	days := 0
	for world := range uint64(5) {
		h := review.History{}
		for d := first; d.Before(first.Add(8 * 7)); d = d.Add(1) {
			var came review.Hours
			arrivals := everyday(world+1, d)
			for _, a := range arrivals {
				came[a.minute/60]++
			}
			if c.Works(d) && first.DaysUntil(d) >= 6*7 {
				expected, plain := h.Expect(d, d), h.ExpectPlain(d)
				for i := range came {
					hour += math.Abs(came[i] - expected[i])
					hourPlain += math.Abs(came[i] - plain[i])
				}
				day += math.Abs(came.Sum() - expected.Sum())
				dayPlain += math.Abs(came.Sum() - plain.Sum())
				letters += came.Sum()
				days++
			}
			for _, a := range arrivals {
				h.Add(c.Instant(d, when.Minute(a.minute)), 1, c.Zone)
			}
		}
	}
	n := float64(days)
	t.Logf("%d working days, %.1f letters each", days, letters/n)
	t.Logf("error by hour: %.2f letters, plain mean %.2f", hour/n/24, hourPlain/n/24)
	t.Logf("error by day: %.1f letters, plain mean %.1f", day/n, dayPlain/n)
	assert.Equal(t, 50, days)
	assert.Less(t, hour, hourPlain)
	assert.Less(t, day, dayPlain)
}
