package sitting

import (
	"math"
	"slices"
	"time"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

const (
	// pause is from when on a gap between two decisions is one in which something else was done.
	pause = 10 * time.Minute
	// telling is from how many decisions on it is told how sure the forecast is.
	telling = 10
	// sure is which share of the times the band holds zero.
	sure = 0.8
)

// Pace is how fast somebody decides.
type Pace struct {
	// Median is that of the time that a decision took; 0 while there was none.
	Median time.Duration
	// N are the decisions that it is of.
	N        int
	mean, sd float64 // seconds
}

// PaceOf works out the pace from when decisions were taken, and when sittings began: what a decision
// took is the time since the one before, or since the sitting began. What took longer than ten
// minutes was a pause, and counts for nothing.
func PaceOf(decisions, begins []time.Time) Pace {
	type moment struct {
		at     time.Time
		begins bool
	}
	var all []moment
	for _, t := range decisions {
		all = append(all, moment{t, false})
	}
	for _, t := range begins {
		all = append(all, moment{t, true})
	}
	slices.SortStableFunc(all, func(a, b moment) int { return a.at.Compare(b.at) })
	var took []float64
	for i, m := range all {
		if i == 0 || m.begins {
			continue
		}
		if gap := m.at.Sub(all[i-1].at); gap <= pause {
			took = append(took, gap.Seconds())
		}
	}
	if len(took) == 0 {
		return Pace{}
	}
	slices.Sort(took)
	p := Pace{N: len(took), Median: time.Duration(stat.Quantile(0.5, stat.LinInterp, took, nil) * float64(time.Second))}
	p.mean, p.sd = stat.MeanStdDev(took, nil)
	return p
}

// Zero is when nothing will be left.
type Zero struct {
	At time.Time
	// From and To hold it in eight cases of ten; zero where too little was decided to tell.
	From, To time.Time
}

// Forecast tells when so many letters will be decided at a pace; ok is false while nothing is known of it.
//
// The sum of n times of mean m and deviation s has the deviation s·√(n + n²/k), where m itself is
// known from k of them: the prediction interval of a sum, by Student's t with k-1 degrees of freedom.
func (p Pace) Forecast(left int, now time.Time) (z Zero, ok bool) {
	if p.N == 0 || left == 0 {
		return z, false
	}
	n, k := float64(left), float64(p.N)
	after := func(seconds float64) time.Time { return now.Add(time.Duration(seconds * float64(time.Second))) }
	z.At = after(n * p.mean)
	if p.N < telling {
		return z, true
	}
	t := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: k - 1}.Quantile((1 + sure) / 2)
	wide := t * p.sd * math.Sqrt(n+n*n/k)
	z.From, z.To = after(max(0, n*p.mean-wide)), after(n*p.mean+wide)
	return z, true
}
