package learning

import (
	"cmp"
	"math"
	"slices"
	"time"

	"gonum.org/v1/gonum/mat"
)

const (
	// enough is from how many lessons on anything is told.
	enough = 10
	// halfLife is after how long a letter of a sender counts half: habits change.
	halfLife = 10 * 24 * time.Hour
	// fade is after how long a lesson counts half for what facts are worth.
	fade = 120 * 24 * time.Hour
	// A sender is thought of as of its list or domain until that many letters tell otherwise,
	// and these as of all.
	senderDoubt, aroundDoubt, likeDoubt = 2.5, 4, 1.5
	// ridge is how strongly weights are held to what is thought before anything was learned.
	ridge = 3
	// rounds is how often the weights are mended at most; four to six do.
	rounds = 12
)

// The features of a letter: what its sender's letters came to beside all others, whether it is
// new, and its facts.
const (
	bySender = iota
	isNew
	firstFact
	features = firstFact + facts
)

type vector [features]float64

// tally counts letters and those of which something is so, the older the less.
type tally struct {
	n, so float64
	at    time.Time
	// letters and acted are the plain counts.
	letters, acted int
}

func (t *tally) add(at time.Time, so bool) {
	f := t.fading(at)
	t.n, t.so, t.at, t.letters = t.n*f+1, t.so*f, at, t.letters+1
	if so {
		t.so++
		t.acted++
	}
}

// fading is what is left of what was counted, at a moment.
func (t *tally) fading(at time.Time) float64 {
	if t.n == 0 || !at.After(t.at) {
		return 1
	}
	return math.Exp2(-float64(at.Sub(t.at)) / float64(halfLife))
}

// share is of which share it is so, drawn to another by as many letters.
func (t *tally) share(at time.Time, to, doubt float64) float64 {
	if t == nil {
		return to
	}
	f := t.fading(at)
	return (t.so*f + to*doubt) / (t.n*f + doubt)
}

// like are letters of a sender that are alike in what tells the most beside who sent them.
type like struct {
	sender string
	is     Fact
}

// telling are the facts in which such letters are alike.
const telling = Asks | Attached

func (f Facts) like() like { return like{f.Sender, f.Is & telling} }

// habit is what was learned of something that is so of letters or not: that they matter, or that
// they are filed.
type habit struct {
	all     tally
	senders map[string]*tally
	arounds map[string]*tally
	likes   map[like]*tally
	facts   [facts]tally
	weights vector
	// doubt is how many letters of a sender that are alike count as much as all else.
	doubt float64
}

// learnHabit learns of what lessons say that it is so, in the order of time. It takes one pass over
// them and a few over their features.
func learnHabit(lessons []Lesson, doubt float64, is func(Lesson) bool) habit {
	m := habit{doubt: doubt, senders: map[string]*tally{}, arounds: map[string]*tally{}, likes: map[like]*tally{}}
	m.weights[bySender] = 1
	rows, offsets, outcomes := make([]vector, 0, len(lessons)), make([]float64, 0, len(lessons)), make([]bool, 0, len(lessons))
	for _, l := range lessons {
		so := is(l)
		// As it was seen when it came: what became of it is not known yet.
		rows, offsets, outcomes = append(rows, m.features(l.Facts, l.At)), append(offsets, logit(m.base())), append(outcomes, so)
		m.take(l, so)
	}
	m.weigh(lessons, rows, offsets, outcomes)
	return m
}

// Model is what was learned.
type Model struct {
	matters habit
	said    map[int64]Outcome // of single letters, by whom they are for
	foresight
}

// Learn learns from lessons, in whatever order they come. Of several of one letter the latest
// tells whether it matters.
func Learn(lessons []Lesson) *Model {
	lessons = inTime(lessons)
	m := &Model{said: map[int64]Outcome{}, foresight: foresee(lessons)}
	counting := latest(lessons)
	for _, l := range counting {
		if l.Outcome == Said || l.Outcome == Denied {
			m.said[l.Letter] = l.Outcome
		}
	}
	m.matters = learnHabit(counting, likeDoubt, func(l Lesson) bool { matters, _ := l.Outcome.Matters(); return matters })
	return m
}

// inTime are lessons in the order of time; those of one letter at one moment in the order in which they
// were given.
func inTime(lessons []Lesson) []Lesson {
	sorted := slices.Clone(lessons)
	slices.SortStableFunc(sorted, func(a, b Lesson) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Letter, b.Letter)) })
	return sorted
}

// latest are those of lessons that tell whether a letter matters.
func latest(sorted []Lesson) []Lesson {
	last := make(map[int64]int, len(sorted))
	for i, l := range sorted {
		if _, ok := l.Outcome.Matters(); ok {
			last[l.Letter] = i
		}
	}
	out := make([]Lesson, 0, len(last))
	for i, l := range sorted {
		if at, ok := last[l.Letter]; ok && at == i {
			out = append(out, l)
		}
	}
	return out
}

func (m *habit) take(l Lesson, so bool) {
	m.all.add(l.At, so)
	of(m.senders, l.Sender).add(l.At, so)
	of(m.arounds, l.around()).add(l.At, so)
	of(m.likes, l.like()).add(l.At, so)
	for i := range l.Is.each {
		m.facts[i].add(l.At, so)
	}
}

func of[K comparable](tallies map[K]*tally, name K) *tally {
	t := tallies[name]
	if t == nil {
		t = &tally{}
		tallies[name] = t
	}
	return t
}

// likely is how likely it is so of a letter: by what its features are worth, and by what became of
// letters of its sender that were like it.
func (m *habit) likely(f Facts, x vector, at time.Time) float64 {
	return m.likes[f.like()].share(at, sigmoid(logit(m.base())+dot(&m.weights, &x)), m.doubt)
}

// base is of which share of all letters it is so.
func (m *habit) base() float64 { return (float64(m.all.acted) + 1) / (float64(m.all.letters) + 3) }

// features are those of a letter at a moment.
func (m *habit) features(f Facts, at time.Time) (x vector) {
	base := m.base()
	x[bySender] = logit(m.senders[f.Sender].share(at, m.arounds[f.around()].share(at, base, aroundDoubt), senderDoubt)) - logit(base)
	if m.senders[f.Sender] == nil {
		x[isNew] = 1
	}
	for i := range f.Is.each {
		x[firstFact+i] = 1
	}
	return x
}

// weigh finds what the features are worth: a logistic regression with a ridge, by Newton's
// method (iteratively reweighted least squares; Hastie, Tibshirani, Friedman, The Elements of
// Statistical Learning, 4.4.1). Before anything is learned a sender is worth what its letters
// came to, and a fact nothing.
func (m *habit) weigh(lessons []Lesson, rows []vector, offsets []float64, outcomes []bool) {
	if len(lessons) < enough {
		return
	}
	var before vector
	before[bySender] = 1
	end := lessons[len(lessons)-1].At
	weights := make([]float64, len(lessons))
	for i, l := range lessons {
		weights[i] = math.Exp2(-float64(end.Sub(l.At)) / float64(fade))
	}
	for range rounds {
		var slope vector
		var bends [features]vector
		for i := range rows {
			x, weight := &rows[i], weights[i]
			p := sigmoid(offsets[i] + dot(&m.weights, x))
			miss := -p
			if outcomes[i] {
				miss++
			}
			spread := weight * p * (1 - p)
			for j := range features {
				if x[j] == 0 {
					continue
				}
				slope[j] += weight * miss * x[j]
				of := spread * x[j]
				for k := j; k < features; k++ {
					bends[j][k] += of * x[k]
				}
			}
		}
		bend := mat.NewSymDense(features, nil)
		for j := range features {
			for k := j; k < features; k++ {
				bend.SetSym(j, k, bends[j][k])
			}
		}
		for j := range features {
			slope[j] -= ridge * (m.weights[j] - before[j])
			bend.SetSym(j, j, bend.At(j, j)+ridge)
		}
		var solved mat.Cholesky
		var step mat.VecDense
		if !solved.Factorize(bend) || solved.SolveVecTo(&step, mat.NewVecDense(features, slope[:])) != nil {
			return // a ridge keeps it from that
		}
		largest := 0.0
		for j := range features {
			m.weights[j] += step.AtVec(j)
			largest = max(largest, math.Abs(step.AtVec(j)))
		}
		if largest < 1e-6 {
			return
		}
	}
}

func dot(a, b *vector) (sum float64) {
	for i := range a {
		sum += a[i] * b[i]
	}
	return sum
}

func logit(p float64) float64   { return math.Log(p / (1 - p)) }
func sigmoid(x float64) float64 { return 1 / (1 + math.Exp(-x)) }
