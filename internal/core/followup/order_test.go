package followup_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
)

func moment(t *rapid.T, name string, c when.Calendar) *when.Moment {
	at := tuesday.Add(time.Duration(rapid.IntRange(-60*24*60, 60*24*60).Draw(t, name)) * time.Minute)
	m := when.Exact(at, c)
	if rapid.Bool().Draw(t, name+" day") {
		m = when.OnDay(c.Today(at), c)
	}
	return &m
}

// With all else equal an earlier due, a higher priority, a longer wait, a key
// person who waits and a greater age never lower a rank.
func TestOrderIsMonotone(t *testing.T) {
	c := oslo(t)
	rapid.Check(t, func(t *rapid.T) {
		weight := rapid.Float64Range(0, 10)
		w := followup.Weights{Due: weight.Draw(t, "due"), Priority: weight.Draw(t, "priority"), Waits: weight.Draw(t, "waits"), Age: weight.Draw(t, "age"), Fits: weight.Draw(t, "fits")}
		n := followup.Now{At: tuesday, Calendar: c, Free: time.Duration(rapid.IntRange(0, 300).Draw(t, "free")) * time.Minute}
		priorities := []followup.Priority{followup.Urgent, followup.High, followup.Normal, followup.Low}
		p := rapid.IntRange(0, 3).Draw(t, "p")
		a := followup.Standing{
			ID: 1, Due: moment(t, "a", c), Priority: priorities[p], MadeAt: tuesday.Add(-time.Duration(rapid.IntRange(0, 9999).Draw(t, "made")) * time.Hour),
			Waiter: "Bram", Since: tuesday.Add(-time.Duration(rapid.IntRange(0, 999).Draw(t, "since")) * time.Hour),
			Estimate: time.Duration(rapid.IntRange(0, 400).Draw(t, "estimate")) * time.Minute,
		}
		b := a
		switch rapid.IntRange(0, 5).Draw(t, "what") {
		case 0:
			b.Due = moment(t, "b", c)
			late := func(m *when.Moment) time.Time {
				if m.Precision == when.ToDay {
					return c.Begins(m.Day(c).Add(1))
				}
				return m.UTC
			}
			if late(b.Due).After(late(a.Due)) {
				a, b = b, a
			}
		case 1:
			b.Priority = priorities[rapid.IntRange(0, p).Draw(t, "higher")]
		case 2:
			b.Since = a.Since.Add(-time.Duration(rapid.IntRange(0, 999).Draw(t, "longer")) * time.Hour)
		case 3:
			b.MadeAt = a.MadeAt.Add(-time.Duration(rapid.IntRange(0, 999).Draw(t, "older")) * time.Hour)
		case 4:
			a.Due = nil // a due at all never lowers it
		case 5:
			b.Key = true
		}
		assert.GreaterOrEqual(t, b.Score(w, n), a.Score(w, n)-1e-12)
	})
}

func TestOrderSaysWhy(t *testing.T) {
	c := oslo(t)
	in := func(d time.Duration) *when.Moment { m := when.Exact(tuesday.Add(d), c); return &m }
	today, late := when.OnDay(c.Today(tuesday), c), when.OnDay(c.Today(tuesday).Add(-3), c)
	n := followup.Now{At: tuesday, Calendar: c, Free: 40 * time.Minute}
	list := []followup.Standing{
		{ID: 1, Priority: followup.Low, MadeAt: tuesday.AddDate(0, 0, -35), Estimate: time.Hour},
		{ID: 2, Priority: followup.Urgent, MadeAt: tuesday, Due: in(54 * time.Minute), Waiter: "Bram", Since: tuesday.AddDate(0, 0, -3)},
		{ID: 3, Priority: followup.Normal, MadeAt: tuesday, Due: &today},
		{ID: 4, Priority: followup.Normal, MadeAt: tuesday, Due: &late, Estimate: time.Hour},
		{ID: 5, Priority: followup.Normal, MadeAt: tuesday, Due: in(-30 * time.Minute)},
	}
	var ids []int64
	why := map[int64][]string{}
	for _, r := range followup.Order(list, followup.UsualWeights, n) {
		ids = append(ids, r.ID)
		why[r.ID] = followup.Explain(list[r.ID-1], followup.UsualWeights, n)
	}
	assert.Equal(t, []int64{2, 4, 5, 3, 1}, ids)
	assert.Equal(t, map[int64][]string{
		1: {"here for 35 days"}, 2: {"urgent", "due in 54 min", "Bram waits 3 days"}, 3: {"due today", "fits into the 40 min left"},
		4: {"late by 2 days"}, 5: {"late since 10:36", "fits into the 40 min left"},
	}, why)
	require.Error(t, followup.Weights{}.Check())
	require.Error(t, followup.Weights{Due: -1}.Check())
	require.NoError(t, followup.UsualWeights.Check())
}

func TestFit(t *testing.T) {
	day := func(planned, free int) load.Day {
		return load.Day{Planned: time.Duration(planned) * time.Minute, Free: time.Duration(free) * time.Minute}
	}
	list := []followup.Fittable{{ID: 1, Estimate: 60 * time.Minute}, {ID: 2, Fixed: true}, {ID: 3, Estimate: 30 * time.Minute}, {ID: 4}}
	for name, c := range map[string]struct {
		days   []load.Day
		shifts []followup.Shift
		over   time.Duration
	}{
		"fits already":           {[]load.Day{day(120, 120), day(0, 90)}, nil, 0},
		"the last goes first":    {[]load.Day{day(120, 110), day(0, 90)}, []followup.Shift{{4, 1}}, 0},
		"to the first with room": {[]load.Day{day(120, 80), day(85, 90), day(0, 0), day(0, 90)}, []followup.Shift{{4, 3}, {3, 3}}, 0},
		"or the emptiest":        {[]load.Day{day(120, 110), day(85, 90), day(80, 90)}, []followup.Shift{{4, 2}}, 0},
		"what is fixed stays":    {[]load.Day{day(120, 0), day(0, 400)}, []followup.Shift{{4, 1}, {3, 1}, {1, 1}}, 15 * time.Minute},
		"nowhere to go":          {[]load.Day{day(120, 0), day(0, 0)}, nil, 120 * time.Minute},
		"nothing":                {nil, nil, 0},
	} {
		shifts, over := followup.Fit(list, c.days)
		assert.Equal(t, c.shifts, shifts, name)
		assert.Equal(t, c.over, over, name)
	}
}

// BenchmarkOrder ranks ten thousand follow-ups.
func BenchmarkOrder(b *testing.B) {
	c := oslo(b)
	list := make([]followup.Standing, 10_000)
	for i := range list {
		m := when.Exact(tuesday.Add(time.Duration(i*37%50_000)*time.Minute), c)
		list[i] = followup.Standing{ID: int64(i), Due: &m, Priority: followup.Normal, MadeAt: tuesday.Add(-time.Duration(i) * time.Hour), Waiter: "Bram", Since: tuesday.AddDate(0, 0, -i%9)}
	}
	n := followup.Now{At: tuesday, Calendar: c, Free: time.Hour}
	for b.Loop() {
		followup.Order(list, followup.UsualWeights, n)
	}
}
