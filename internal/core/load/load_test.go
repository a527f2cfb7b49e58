package load

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

var (
	noon    = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC) // a Tuesday
	tuesday = when.Date{Year: 2026, Month: time.November, Day: 24}
	weekday = when.Standard(time.UTC) // works from 8:30 to 17:30
)

func clock(h, m int) time.Time { return time.Date(2026, 11, 24, h, m, 0, 0, time.UTC) }

func TestPace(t *testing.T) {
	every := func(n int, gap time.Duration) (at []time.Time) {
		for i := range n {
			at = append(at, noon.Add(time.Duration(i)*gap))
		}
		return at
	}
	twoDays := append(every(30, 20*time.Second), slices.Collect(func(yield func(time.Time) bool) {
		for _, x := range every(30, 40*time.Second) {
			if !yield(x.AddDate(0, 0, 1)) {
				return
			}
		}
	})...)
	for name, c := range map[string]struct {
		at   []time.Time
		want time.Duration
	}{
		"nobody has decided":       {nil, UsualPace},
		"too few to tell":          {every(PaceFrom-1, 5*time.Second), UsualPace},
		"steady":                   {every(PaceFrom, 20*time.Second), 20 * time.Second},
		"two sittings":             {twoDays, 40 * time.Second},
		"all at one moment":        {every(PaceFrom, 0), UsualPace},
		"never twice in a sitting": {every(PaceFrom, Sitting+time.Second), UsualPace},
	} {
		assert.Equal(t, c.want, Pace(c.at), name)
	}
}

func TestFree(t *testing.T) {
	busy := func(fromHour, fromMinute, toHour, toMinute int) Busy {
		return Busy{clock(fromHour, fromMinute), clock(toHour, toMinute)}
	}
	early := clock(7, 0)
	for name, c := range map[string]struct {
		date when.Date
		now  time.Time
		busy []Busy
		want time.Duration
	}{
		"a whole day":           {tuesday, early, nil, 9 * time.Hour},
		"what is left of it":    {tuesday, noon, nil, 5*time.Hour + 30*time.Minute},
		"after work":            {tuesday, clock(17, 30), nil, 0},
		"a Saturday":            {tuesday.Add(4), early, nil, 0},
		"an appointment":        {tuesday, early, []Busy{busy(10, 0, 11, 0)}, 8 * time.Hour},
		"two that overlap":      {tuesday, early, []Busy{busy(10, 30, 12, 0), busy(10, 0, 11, 0)}, 7 * time.Hour},
		"one within another":    {tuesday, early, []Busy{busy(10, 0, 12, 0), busy(10, 30, 11, 0)}, 7 * time.Hour},
		"over the day's edges":  {tuesday, early, []Busy{busy(6, 0, 9, 30), busy(17, 0, 20, 0)}, 7*time.Hour + 30*time.Minute},
		"outside working hours": {tuesday, early, []Busy{busy(5, 0, 8, 0), busy(18, 0, 19, 0)}, 9 * time.Hour},
		"one that has begun":    {tuesday, noon, []Busy{busy(11, 0, 13, 0)}, 4*time.Hour + 30*time.Minute},
		"all day":               {tuesday, early, []Busy{busy(0, 0, 23, 59)}, 0},
	} {
		assert.Equal(t, c.want, Free(c.date, c.now, weekday, c.busy), name)
	}
}

func TestDays(t *testing.T) {
	due := func(days int) when.Moment { return when.OnDay(tuesday.Add(days), weekday) }
	tasks := []Task{
		{Due: due(-3), Estimate: time.Hour},                  // overdue
		{Due: due(0)},                                        // without an estimate
		{Due: due(1), Estimate: time.Hour, Returns: 1},       // its letter comes back that day
		{Due: due(1), Estimate: time.Hour, Returns: 9},       // more than come back
		{Due: due(7), Estimate: time.Hour},                   // not looked at
		{Due: when.Moment{Precision: when.Open}, Returns: 1}, // someday
	}
	came := func(from, _ time.Time) (int, error) {
		if from.Equal(noon) {
			return 3, nil // only what is still to come today
		}
		return 2, nil
	}
	days, err := Days(3, noon, weekday, tasks, came, time.Minute, []Busy{{clock(13, 0), clock(14, 0)}}, 0.5)
	require.NoError(t, err)
	assert.Equal(t, []Day{
		{Date: tuesday, Tasks: 2, Returns: 3, Planned: time.Hour + UsualEstimate + 3*time.Minute, Free: 2*time.Hour + 15*time.Minute},
		{Date: tuesday.Add(1), Tasks: 2, Returns: 2, Planned: 2 * time.Hour, Free: 4*time.Hour + 30*time.Minute},
		{Date: tuesday.Add(2), Returns: 2, Planned: 2 * time.Minute, Free: 4*time.Hour + 30*time.Minute},
	}, days)
	broken := errors.New("broken")
	_, err = Days(1, noon, weekday, nil, func(time.Time, time.Time) (int, error) { return 0, broken }, 0, nil, 1)
	assert.ErrorIs(t, err, broken)
}

func TestRoom(t *testing.T) {
	day := func(i int, planned, free time.Duration) Day {
		return Day{Date: tuesday.Add(i), Planned: planned, Free: free}
	}
	days := []Day{day(0, 0, time.Hour), day(1, time.Hour, time.Hour), day(2, 0, 0), day(3, 30*time.Minute, time.Hour)}
	d, ok := Room(days, 30*time.Minute)
	assert.True(t, ok)
	assert.Equal(t, tuesday.Add(3), d.Date, "not today, not a full day, not one without time")
	_, ok = Room(days, 31*time.Minute)
	assert.False(t, ok)
	assert.False(t, day(2, time.Hour, 0).Over(time.Hour), "a day without time is not over-full but free of plans")
}

// Whatever the days, each conversation gets one, the first ones the earliest;
// days without time get none while others have some; and no move of one
// conversation makes the fullest of the days less full.
func TestSpread(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		days := make([]Day, rapid.IntRange(1, 7).Draw(rt, "days"))
		for i := range days {
			days[i].Planned = time.Duration(rapid.IntRange(0, 300).Draw(rt, "planned")) * time.Minute
			days[i].Free = time.Duration(rapid.SampledFrom([]int{0, 60, 270, 540}).Draw(rt, "free")) * time.Minute
		}
		n, pace := rapid.IntRange(0, 60).Draw(rt, "letters"), time.Minute
		out := Spread(days, n, pace)
		if len(out) != n || !slices.IsSorted(out) {
			rt.Fatalf("%d letters are dealt as %v", n, out)
		}
		timed := slices.ContainsFunc(days, func(d Day) bool { return d.Free > 0 })
		planned := make([]time.Duration, len(days))
		for i, d := range days {
			planned[i] = d.Planned
		}
		for _, i := range out {
			planned[i] += pace
			if timed && days[i].Free == 0 {
				rt.Fatalf("day %d has no time", i)
			}
		}
		for _, from := range out {
			for to, d := range days {
				if timed && d.Free == 0 {
					continue
				}
				if fullness(planned[to]+pace, d.Free) < fullness(planned[from], days[from].Free)-1e-9 {
					rt.Fatalf("a letter of day %d would be better on day %d: %v", from, to, planned)
				}
			}
		}
	})
	assert.Nil(t, Spread(nil, 3, time.Minute))
}
