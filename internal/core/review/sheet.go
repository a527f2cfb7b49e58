package review

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/sorting"
)

// How is how letters came.
type How string

// The ways in which letters come, in the order in which a day sheet has them: with a delivery, as they
// arrived, through a closed gate, back from later, sorted out, and refused. Purged are those that are no
// longer kept, of which nobody knows how they came.
const (
	InRound    How = "round"
	AtOnce     How = "once"
	LetThrough How = "through"
	CameBack   How = "back"
	SortedOut  How = "shallows"
	Refused    How = "refused"
	Purged     How = "purged"
)

var hows = []How{InRound, AtOnce, LetThrough, CameBack, SortedOut, Refused, Purged}

// Came are letters from others that were let in alike.
type Came struct {
	// At is the minute in which they were let in, Round the delivery that did so; zero for what was not
	// held.
	At, Round time.Time
	Through   bool
	Sorted    bool
	Kind      sorting.Kind
	Purged    bool
	N         int
}

// How tells how they came. What was sorted out did so however it got in: it lies where nobody waited
// for it.
func (c Came) How() How {
	switch {
	case c.Purged:
		return Purged
	case c.Kind.Refused():
		return Refused
	case c.Sorted:
		return SortedOut
	case c.Through:
		return LetThrough
	case c.Round.IsZero():
		return AtOnce
	}
	return InRound
}

// Moved are conversations that steps of a kind moved alike within a minute.
type Moved struct {
	At       time.Time
	Was, Now decide.Place
	// Step is the kind of the step, ByHand that a person took it, Mine that it was the one whose account
	// this is, and Stands that it neither is an undo nor was undone.
	Step                 string
	ByHand, Mine, Stands bool
	N                    int
}

// Decision is the decision by which they were moved out of what is undecided; false for what was no
// decision, or was taken back.
func (m Moved) Decision() (decide.Kind, bool) {
	kind, ok := strings.CutPrefix(m.Step, "decide:")
	return decide.Kind(kind), ok && m.Mine && m.Stands && m.Was.Undecided() && !m.Now.Undecided()
}

// Back tells that they came back from later by themselves.
func (m Moved) Back() bool {
	return m.Stands && !m.ByHand && m.Was == decide.Later && m.Now == decide.Inbox
}

// Exchange is a letter beside the one before it in its conversation.
type Exchange struct {
	// At is when it was written or let in, Wait how long after the one before it arrived.
	At   time.Time
	Wait time.Duration
	// Own and BeforeOwn tell which of them the person wrote, Machine that one of both was not written by
	// hand.
	Own, BeforeOwn, Machine bool
}

// Passed is what is known of a stretch of time: what moved, what was written, what waited.
type Passed struct {
	Came  []Came
	Moved []Moved
	// Decisions are when the person decided, in order; what was undone is not among them.
	Decisions []time.Time
	// PutOffs are the put-offs that stand, each with how many times its conversation has been put off.
	PutOffs []PutOff
	// Exchanges are the letters that were written or let in, with those before them.
	Exchanges []Exchange
	// Waited are when letters arrived that the gate held, in order; Broke when letters got in at once.
	Waited, Broke []time.Time
}

// PutOff is a put-off of a conversation, the Times-th.
type PutOff struct {
	At           time.Time
	Conversation int64
	Times        int
}

// Within is what of it happened in [from, to); each list is in the order of its times.
func (p Passed) Within(from, to time.Time) Passed {
	itself := func(t time.Time) time.Time { return t }
	return Passed{
		Came:      within(p.Came, func(c Came) time.Time { return c.At }, from, to),
		Moved:     within(p.Moved, func(m Moved) time.Time { return m.At }, from, to),
		Decisions: within(p.Decisions, itself, from, to),
		PutOffs:   within(p.PutOffs, func(o PutOff) time.Time { return o.At }, from, to),
		Exchanges: within(p.Exchanges, func(e Exchange) time.Time { return e.At }, from, to),
		Waited:    within(p.Waited, itself, from, to),
		Broke:     within(p.Broke, itself, from, to),
	}
}

func within[T any](list []T, at func(T) time.Time, from, to time.Time) []T {
	first := func(t time.Time) int {
		i, _ := slices.BinarySearchFunc(list, t, func(one T, t time.Time) int { return at(one).Compare(t) })
		return i
	}
	return list[first(from):first(to)]
}

// Part is a part of what came: N letters, or conversations that came back.
type Part struct {
	How How
	// Round is the delivery of what came with one.
	Round time.Time
	N     int
}

// Taken is how often a decision was taken.
type Taken struct {
	Kind decide.Kind
	N    int
}

// Sorts are letters of a kind that were sorted out.
type Sorts struct {
	Kind sorting.Kind
	N    int
}

// Median is the middle of so many times.
type Median struct {
	Time time.Duration
	N    int
}

// Account is what a stretch of time comes to.
type Account struct {
	// Came are all letters and returns, by the way in which they came, Sorts those that were sorted out
	// by their kind, Decided the conversations that were decided on.
	Came    []Part
	Sorts   []Sorts
	Decided []Taken
	// Pace is how long a decision took, Spent the time at it: pauses between sittings are neither (load.Sitting).
	Pace  Median
	Spent time.Duration
	// PutOffs are all of them, Often the conversations that were put off more than twice.
	PutOffs, Often int
	// Mine is how long others waited for the person's answers, Theirs how long the person for theirs.
	Mine, Theirs Median
	// Avoided are the interruptions that the gate kept away, Interrupted those that there were.
	Avoided, Interrupted int
}

// often is from how many put-offs on a conversation was put off often: more than twice.
const often = 3

// Sum makes up the account.
func (p Passed) Sum() Account {
	a := Account{Avoided: Interruptions(p.Waited), Interrupted: Interruptions(p.Broke), PutOffs: len(p.PutOffs)}
	came, sorts, decided := map[Part]int{}, map[sorting.Kind]int{}, map[decide.Kind]int{}
	for _, c := range p.Came {
		part := Part{How: c.How()}
		switch part.How {
		case InRound:
			part.Round = c.Round
		case SortedOut:
			sorts[c.Kind] += c.N
		}
		came[part] += c.N
	}
	for _, m := range p.Moved {
		if kind, ok := m.Decision(); ok {
			decided[kind] += m.N
		}
		if m.Back() {
			came[Part{How: CameBack}] += m.N
		}
	}
	for part, n := range came {
		part.N = n
		a.Came = append(a.Came, part)
	}
	slices.SortFunc(a.Came, func(x, y Part) int {
		return cmp.Or(cmp.Compare(slices.Index(hows, x.How), slices.Index(hows, y.How)), x.Round.Compare(y.Round))
	})
	for _, about := range sorting.Table {
		if n := sorts[about.Kind]; n > 0 {
			a.Sorts = append(a.Sorts, Sorts{about.Kind, n})
		}
	}
	for _, about := range decide.Kinds {
		if n := decided[about.Kind]; n > 0 {
			a.Decided = append(a.Decided, Taken{about.Kind, n})
		}
	}
	took := load.Gaps(p.Decisions)
	for _, t := range took {
		a.Spent += t
	}
	a.Pace = middle(took)
	a.Often = len(p.putOften())
	a.Mine, a.Theirs = Answers(p.Exchanges)
	return a
}

// putOften are the conversations that were put off more than twice.
func (p Passed) putOften() map[int64]bool {
	out := map[int64]bool{}
	for _, o := range p.PutOffs {
		if o.Times >= often {
			out[o.Conversation] = true
		}
	}
	return out
}

// Answers is how long answers took, those of the person and those of others; what a machine wrote or was
// answered by is none.
func Answers(list []Exchange) (mine, theirs Median) {
	own, others := answers(list)
	return middle(own), middle(others)
}

func answers(list []Exchange) (own, others []time.Duration) {
	for _, e := range list {
		switch {
		case e.Machine || e.Own == e.BeforeOwn:
		case e.Own:
			own = append(own, e.Wait)
		default:
			others = append(others, e.Wait)
		}
	}
	return own, others
}

func middle(list []time.Duration) Median {
	if len(list) == 0 {
		return Median{}
	}
	slices.Sort(list)
	return Median{list[len(list)/2], len(list)}
}

// Quiet is the shortest time between two interruptions: what comes sooner is of the same one.
const Quiet = 5 * time.Minute

// Interruptions is how often one would have been interrupted by letters that came at these times, which
// are in order: at most once in five minutes.
func Interruptions(at []time.Time) (n int) {
	var last time.Time
	for _, t := range at {
		if n == 0 || t.Sub(last) >= Quiet {
			n, last = n+1, t
		}
	}
	return n
}
