package learning

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

const (
	// high is from which chance on a letter is ranked high: sure enough to be said.
	high = 0.6
	// low is under which it hardly matters.
	low = 0.25
	// spoken are how many reasons are given at most.
	spoken = 2
)

// Chance is how likely a letter matters.
type Chance struct {
	// P is between 0 and 1.
	P float64
	// Reasons are the strongest that speak for it, in words and numbers.
	Reasons []string
}

// High tells that it is sure enough to be said of the letter.
func (c Chance) High() bool { return c.P >= high }

// Low tells that it hardly matters.
func (c Chance) Low() bool { return c.P < low }

// Lessons are how many letters the model has learned from.
func (m *Model) Lessons() int { return m.matters.all.letters }

// reason is one that speaks for a letter, and how strongly.
type reason struct {
	words  string
	speaks float64
}

// Of tells how likely a letter matters that is looked at now; ok is false while too little was
// learned to tell. What its owner said of it counts before anything else.
func (m *Model) Of(letter int64, f Facts, now time.Time) (c Chance, ok bool) {
	switch m.said[letter] {
	case Said:
		return Chance{1, []string{"you said that it matters"}}, true
	case Denied:
		return Chance{0, nil}, true
	}
	if m.Lessons() < enough {
		return c, false
	}
	x := m.matters.features(f, now)
	c.P = m.matters.likely(f, x, now)
	for _, r := range m.matters.reasons(f, x) {
		if r.speaks > 0 && len(c.Reasons) < spoken {
			c.Reasons = append(c.Reasons, r.words)
		}
	}
	return c, true
}

// reasons are those that speak for or against a letter, the strongest for it first.
func (m *habit) reasons(f Facts, x vector) []reason {
	var out []reason
	base := m.base()
	add := func(t *tally, of string, speaks float64) {
		out = append(out, reason{fmt.Sprintf("you acted on %d of %d letters %s", t.acted, t.letters, of), speaks})
	}
	alike, sender, around := m.likes[f.like()], m.senders[f.Sender], m.arounds[f.around()]
	switch {
	case alike != nil && alike.letters < sender.letters:
		add(alike, "from them "+f.like().is.phrase(), logit(alike.share(alike.at, base, likeDoubt))-logit(base))
	case sender != nil:
		add(sender, "from them", logit(sender.share(sender.at, base, senderDoubt))-logit(base))
	case around != nil && f.List != "":
		add(around, "of their list", m.weights[bySender]*x[bySender])
	case around != nil:
		add(around, "from their domain", m.weights[bySender]*x[bySender])
	}
	for i := range f.Is.each {
		if t := &m.facts[i]; t.letters > 0 && !(alike != nil && Fact(1<<i)&telling != 0) {
			add(t, words[i], m.weights[firstFact+i])
		}
	}
	slices.SortStableFunc(out, func(a, b reason) int { return cmp.Compare(b.speaks, a.speaks) })
	return out
}

// words say what a fact is, of several letters.
var words = [facts]string{
	"that ask something", "that speak to you by name", "that answer one of yours", "of which you have only a copy", "that came by a list", "that a machine sent",
	"that are bills or about parcels", "with files", "that go on with a conversation", "of a few lines", "of more than a page",
}

// phrase says in which letters are alike.
func (f Fact) phrase() string {
	switch {
	case f.Has(Asks | Attached):
		return "that ask something and carry files"
	case f.Has(Asks):
		return words[0]
	case f.Has(Attached):
		return "with files that ask nothing"
	}
	return "that ask nothing"
}

// Sender is what was learned of a sender.
type Sender struct {
	// Letters were decided on, Acted of them mattered. Facts say it of those that are alike.
	Letters, Acted int
	Facts          []string
}

// Sender tells what was learned of a sender; nothing of one of whom nothing was.
func (m *Model) Sender(address string) (s Sender) {
	t := m.matters.senders[address]
	if t == nil {
		return s
	}
	s.Letters, s.Acted = t.letters, t.acted
	for _, is := range []Fact{Asks, Asks | Attached, Attached, 0} {
		if alike := m.matters.likes[like{address, is}]; alike != nil {
			s.Facts = append(s.Facts, fmt.Sprintf("%d of %d %s", alike.acted, alike.letters, is.phrase()))
		}
	}
	return s
}
