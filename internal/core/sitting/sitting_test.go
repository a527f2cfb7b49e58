package sitting_test

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/sitting"
)

var began = time.Date(2026, 11, 24, 11, 6, 0, 0, time.UTC)

func TestHowASittingStands(t *testing.T) {
	of := func(ids ...int64) map[int64]bool {
		out := map[int64]bool{}
		for _, id := range ids {
			out[id] = true
		}
		return out
	}
	for _, c := range []struct {
		name              string
		letters, skipped  []int64
		there             []int64
		decided           map[int64]bool
		queue             []int64
		left, new, passed int
	}{
		{"as it began", []int64{1, 2, 3}, nil, []int64{1, 2, 3}, nil, []int64{1, 2, 3}, 3, 0, 0},
		{"one decided", []int64{1, 2, 3}, nil, []int64{2, 3}, of(1), []int64{2, 3}, 2, 0, 0},
		{"one gone by other hands", []int64{1, 2, 3}, nil, []int64{1, 3}, nil, []int64{1, 3}, 2, 0, 0},
		{"one skipped comes at the end", []int64{1, 2, 3}, []int64{1}, []int64{1, 2, 3}, nil, []int64{2, 3, 1}, 3, 0, 0},
		{"two skipped, in that order", []int64{1, 2, 3}, []int64{2, 1}, []int64{1, 2, 3}, nil, []int64{3, 2, 1}, 3, 0, 0},
		{"skipped twice comes no more", []int64{1, 2}, []int64{1, 1}, []int64{1, 2}, nil, []int64{2}, 1, 0, 1},
		{"what comes joins the end", []int64{1, 2}, []int64{1}, []int64{9, 1, 2}, nil, []int64{2, 1, 9}, 2, 1, 0},
		{"what comes and is skipped", []int64{1}, []int64{9}, []int64{9, 8, 1}, nil, []int64{1, 8, 9}, 1, 2, 0},
		{"decided and back is new", []int64{1, 2}, nil, []int64{1, 2}, of(1), []int64{2, 1}, 1, 1, 0},
		{"skipped, then decided", []int64{1, 2}, []int64{1}, []int64{2}, of(1), []int64{2}, 1, 0, 0},
		{"nothing there", []int64{1, 2}, []int64{1}, nil, of(1, 2), nil, 0, 0, 0},
	} {
		s := sitting.Sitting{Began: began, Letters: c.letters, Skipped: c.skipped}
		got := s.Lay(c.there, c.decided)
		assert.Equal(t, c.queue, got.Queue, c.name)
		assert.Equal(t, []int{c.left, c.new, c.passed}, []int{got.Left, got.New, got.Passed}, c.name)
	}
}

// Whatever happens, each letter that is there comes once, unless it was skipped twice, and what is
// left and new is what comes.
func TestEachComesOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := func(name string) []int64 {
			return rapid.SliceOfDistinct(rapid.Int64Range(1, 12), func(i int64) int64 { return i }).Draw(t, name)
		}
		s := sitting.Sitting{Letters: some("letters"), Skipped: append(some("skipped"), some("skipped again")...)}
		there := some("there")
		decided := map[int64]bool{}
		for _, id := range some("decided") {
			decided[id] = true
		}
		got := s.Lay(there, decided)
		assert.Len(t, got.Queue, got.Left+got.New)
		assert.Len(t, there, got.Left+got.New+got.Passed)
		once := slices.Clone(got.Queue)
		slices.Sort(once)
		assert.Len(t, slices.Compact(once), len(got.Queue))
		for _, id := range got.Queue {
			assert.Contains(t, there, id)
		}
	})
}

func TestPace(t *testing.T) {
	at := func(seconds ...int) (out []time.Time) {
		for _, s := range seconds {
			out = append(out, began.Add(time.Duration(s)*time.Second))
		}
		return out
	}
	assert.Zero(t, sitting.PaceOf(nil, nil))
	assert.Zero(t, sitting.PaceOf(at(5), nil), "nobody knows what the first one took")
	assert.Equal(t, 30*time.Second, sitting.PaceOf(at(30), at(0)).Median)
	p := sitting.PaceOf(at(10, 30, 70, 70+601, 70+601+20), at(0))
	assert.Equal(t, 4, p.N, "a pause is none")
	assert.Equal(t, 20*time.Second, p.Median)
	// A pause ends with a sitting that begins: what it took is counted from there.
	assert.Equal(t, 2, sitting.PaceOf(at(10, 5000), at(0, 4990)).N)

	_, ok := sitting.Pace{}.Forecast(3, began)
	assert.False(t, ok)
	_, ok = p.Forecast(0, began)
	assert.False(t, ok, "it is zero now")
	z, ok := p.Forecast(4, began)
	assert.True(t, ok)
	assert.Equal(t, began.Add(90*time.Second), z.At, "4 of 22.5 seconds")
	assert.Zero(t, z.To, "of four decisions nothing is told of how sure it is")
}

// In eight cases of ten zero lies within the band, also where times are as uneven as they are.
func TestTheBandHoldsZero(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	const worlds = 2000
	for _, left := range []int{3, 12, 60} {
		held := 0
		for range worlds {
			took := func() time.Duration { return time.Duration((5 + r.ExpFloat64()*25) * float64(time.Second)) }
			decisions, now := []time.Time{}, began
			for range 20 {
				now = now.Add(took())
				decisions = append(decisions, now)
			}
			z, _ := sitting.PaceOf(decisions, []time.Time{began}).Forecast(left, now)
			zero := now
			for range left {
				zero = zero.Add(took())
			}
			if !zero.Before(z.From) && !zero.After(z.To) {
				held++
			}
		}
		assert.InDelta(t, 0.8, float64(held)/worlds, 0.06, "with %d left", left)
	}
}
