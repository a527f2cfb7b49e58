package review

import "time"

// Minute is what went through the inbox within one minute. It is little enough to be
// kept, so that a day is read off at most 1,440 of these however much came.
type Minute struct {
	// Last is the latest instant at which something moved; Sum is by how much the
	// inbox has grown since the minute began, with that instant and, as Before,
	// without it.
	Last        time.Time
	Sum, Before int
	// Top and Low are the most and the least of the sum after instants before Last;
	// Top is at least 0, how the minute began. LowAt is when it was least first; zero
	// where nothing moved before Last.
	Top, Low int
	LowAt    time.Time
}

// Add counts a step of the inbox at an instant: what moves at one instant is one
// step, as a hundred letters let in at once are. It counts nothing and says false
// where the instant is before the last, of which the order is lost.
func (m *Minute) Add(at time.Time, step int) (ok bool) {
	switch {
	case at.Before(m.Last):
		return false
	case at.After(m.Last):
		m.settle()
		m.Last, m.Before = at, m.Sum
	}
	m.Sum += step
	return true
}

// settle takes the last instant into what came before.
func (m *Minute) settle() {
	if m.Sum == m.Before {
		return // nothing has changed at it
	}
	m.Top = max(m.Top, m.Sum)
	if m.LowAt.IsZero() || m.Sum < m.Low {
		m.Low, m.LowAt = m.Sum, m.Last
	}
}
