// Package review looks back on a day: the tide curve of the inbox, its high
// mark, and low water.
package review

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
)

// Move is a change of place of one conversation at its effective time.
type Move struct {
	At       time.Time
	From, To decide.Place
}

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

// TideOf computes the curve from start to now. count is the inbox at now;
// moves are those since start, in any order. Past counts are as they
// happened: an undo is one more move.
func TideOf(start, now time.Time, count int, moves []Move) Tide {
	moves = slices.Clone(moves)
	slices.SortStableFunc(moves, func(a, b Move) int { return a.At.Compare(b.At) })
	at := count
	for _, m := range moves {
		at -= m.Step()
	}
	t := Tide{Curve: []Point{{start, at}}, High: at}
	for i := 0; i < len(moves); {
		// Moves of one instant are one step: a hundred letters let in at once
		// are no ramp.
		instant := moves[i].At
		before := at
		for i < len(moves) && moves[i].At.Equal(instant) {
			at += moves[i].Step()
			i++
		}
		if at == before {
			continue
		}
		t.Curve = append(t.Curve, Point{instant, at})
		t.High = max(t.High, at)
		if at == 0 {
			t.Zeros = append(t.Zeros, instant)
		}
	}
	t.Curve = append(t.Curve, Point{now, count})
	return t
}

// Step is by how much the move changes the count of the inbox.
func (m Move) Step() int {
	switch {
	case m.To == decide.Inbox && m.From != decide.Inbox:
		return 1
	case m.From == decide.Inbox && m.To != decide.Inbox:
		return -1
	}
	return 0
}
