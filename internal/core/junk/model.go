package junk

import (
	"cmp"
	"math"
	"slices"
)

const (
	// Takes is from which chance on a letter is put into Junk.
	Takes = 0.99
	// Fewest are so many letters of each side that it takes to say anything.
	Fewest = 20
	// loudest is how many features speak: the many that say little would only make it sure of itself.
	loudest = 25
	// reasons is how many are told.
	reasons = 3
)

// Example is a letter by its features, with whether its owner says that it is junk.
type Example struct {
	Features []string
	Junk     bool
}

// side counts letters and, of a feature, in how many it is.
type side struct{ junk, fine float64 }

func (s side) less(junk bool) side {
	if junk {
		s.junk--
	} else {
		s.fine--
	}
	return s
}

// Model tells how like junk a letter is.
type Model struct {
	all   side
	holds map[string]side
	// slope and shift turn how strongly the features speak into a chance.
	slope, shift float64
}

// Learn learns from examples; nil where they are too few to say anything.
func Learn(examples []Example) *Model {
	m := &Model{holds: map[string]side{}}
	for _, e := range examples {
		for _, f := range e.Features {
			s := m.holds[f]
			m.holds[f] = s.more(e.Junk)
		}
		m.all = m.all.more(e.Junk)
	}
	if m.all.junk < Fewest || m.all.fine < Fewest {
		return nil
	}
	scores := make([]float64, len(examples))
	for i, e := range examples { // each as if it had not been learned from
		scores[i] = m.score(e.Features, func(s side) side { return s.less(e.Junk) }, nil)
	}
	m.calibrate(examples, scores)
	return m
}

func (s side) more(junk bool) side {
	if junk {
		s.junk++
	} else {
		s.fine++
	}
	return s
}

// spoken is a feature with how strongly it speaks for junk, as a logarithm of odds.
type spoken struct {
	feature string
	weight  float64
}

// score sums up the features that speak the loudest: log P(f | junk) / P(f | fine), with half a letter
// added to each side (Jeffreys). but takes a letter away from the counts; what is not nil is filled with them.
func (m *Model) score(features []string, but func(side) side, said *[]spoken) (sum float64) {
	all := but(m.all)
	list := make([]spoken, 0, len(features))
	for _, f := range features {
		s, ok := m.holds[f]
		if !ok {
			continue
		}
		if s = but(s); s.junk+s.fine < 1 {
			continue
		}
		list = append(list, spoken{f, math.Log((s.junk + 0.5) / (all.junk + 1) * (all.fine + 1) / (s.fine + 0.5))})
	}
	slices.SortFunc(list, func(a, b spoken) int {
		return cmp.Or(cmp.Compare(math.Abs(b.weight), math.Abs(a.weight)), cmp.Compare(a.feature, b.feature))
	})
	list = list[:min(len(list), loudest)]
	for _, s := range list {
		sum += s.weight
	}
	if said != nil {
		*said = list
	}
	return sum
}

// calibrate finds slope and shift for which the chances of the examples are as they came to be (Platt
// 1999, with its smoothed targets, by Newton's method). The targets bound how sure few letters can make.
func (m *Model) calibrate(examples []Example, scores []float64) {
	high, low := (m.all.junk+1)/(m.all.junk+2), 1/(m.all.fine+2)
	a, b := 0.0, math.Log((m.all.junk+1)/(m.all.fine+1))
	for range 50 {
		var ga, gb, haa, hab, hbb float64
		for i, e := range examples {
			target := low
			if e.Junk {
				target = high
			}
			p := sigmoid(a*scores[i] + b)
			d, w := p-target, max(p*(1-p), 1e-9)
			ga, gb = ga+d*scores[i], gb+d
			haa, hab, hbb = haa+w*scores[i]*scores[i], hab+w*scores[i], hbb+w
		}
		haa, hbb = haa+1e-6, hbb+1e-6
		det := haa*hbb - hab*hab
		if det < 1e-12 {
			break
		}
		da, db := (hbb*ga-hab*gb)/det, (haa*gb-hab*ga)/det
		// A step that is too long is shortened, so that it goes on towards the end.
		size := max(1, math.Abs(da), math.Abs(db)/3)
		a, b = a-da/size, b-db/size
		if math.Abs(da)+math.Abs(db) < 1e-7 {
			break
		}
	}
	m.slope, m.shift = a, b
}

func sigmoid(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

// Of is the chance that a letter is junk, with what speaks for it the strongest, in words. A nil model
// says that of none.
func (m *Model) Of(features []string) (p float64, because []string) {
	if m == nil || m.slope <= 0 {
		return 0, nil
	}
	var said []spoken
	p = sigmoid(m.slope*m.score(features, func(s side) side { return s }, &said) + m.shift)
	for _, s := range said {
		if s.weight > 0 && len(because) < reasons {
			because = append(because, words(s.feature))
		}
	}
	return p, because
}

// Lessons are how many letters it has learned from: junk, and not.
func (m *Model) Lessons() (junk, fine int) {
	if m == nil {
		return 0, 0
	}
	return int(m.all.junk), int(m.all.fine)
}
