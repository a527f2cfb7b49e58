// Package review looks back on a day: the tide curve of the inbox, its high
// mark, and low water.
package review

import (
	"time"
)

// Point is the count of conversations in the inbox from At on.
type Point struct {
	At    time.Time `json:"at"`
	Count int       `json:"count"`
}

// Tide is a day's curve and what follows from it.
type Tide struct {
	Curve []Point
	High  int
	// Zeros are the instants at which the inbox became empty, the first of
	// which is low water.
	Zeros []time.Time
}

// TideOf computes the curve from start to now. count is the inbox at now; minutes
// are those since start, in their order. Past counts are as they happened: an undo
// is one more move.
func TideOf(start, now time.Time, count int, minutes []Minute) Tide {
	at := count
	for _, m := range minutes {
		at -= m.Sum
	}
	t := Tide{Curve: []Point{{start, at}}, High: at}
	for _, m := range minutes {
		m.settle()
		t.High = max(t.High, at+m.Top)
		if !m.LowAt.IsZero() && at+m.Low == 0 {
			t.Zeros = append(t.Zeros, m.LowAt)
		}
		if m.Sum != 0 {
			at += m.Sum
			t.Curve = append(t.Curve, Point{m.Last, at})
		}
	}
	t.Curve = append(t.Curve, Point{now, count})
	return t
}
