package main

import (
	"cmp"
	"slices"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/sorting"
)

// share is so many of so many.
type share struct{ n, of int }

func (s *share) add(so bool) {
	s.of++
	if so {
		s.n++
	}
}

func (s share) and(o share) share { return share{s.n + o.n, s.of + o.of} }

// ranking is how well something tells which letters matter: of those it names so many do, of
// those that do it names so many.
type ranking struct{ precision, recall share }

func (r *ranking) add(named, matters bool) {
	if named {
		r.precision.add(matters)
	}
	if matters {
		r.recall.add(named)
	}
}

// bin is one of ten of what was foretold.
type bin struct {
	foretold float64
	matters  share
}

// judged are the figures of a world.
type judged struct {
	seed uint64
	// kinds counts letters by what they are and what they were taken for.
	kinds map[sorting.Kind]map[sorting.Kind]int
	// people and machines are the letters that were sorted out, of whom; hard those of them that are
	// hard to tell.
	people, machines, hardPeople, hardMachines share
	corrected                                  int
	// learned, bySender, commonest and best tell what matters of the letters in the inbox: what was
	// learned, the commonest decision on the sender's, the commonest of all, and whoever
	// knew how likely each decision was.
	learned, bySender, commonest, best ranking
	bins                               [10]bin
	foretold                           foretelling
}

// foretelling is how well it is foretold which decision is taken on a letter in the inbox: by what was
// learned, by the commonest decision on the sender's letters, and by the commonest of all.
type foretelling struct {
	top1, top2, bySender, byAll share
	// marked are those that were shown, taken those that one key would have taken.
	marked, taken share
	bins          [10]bin
}

func (f foretelling) and(o foretelling) foretelling {
	for i := range f.bins {
		f.bins[i].foretold += o.bins[i].foretold
		f.bins[i].matters = f.bins[i].matters.and(o.bins[i].matters)
	}
	return foretelling{f.top1.and(o.top1), f.top2.and(o.top2), f.bySender.and(o.bySender), f.byAll.and(o.byAll), f.marked.and(o.marked), f.taken.and(o.taken), f.bins}
}

// judge counts a letter on which was decided.
func (f *foretelling) judge(s seen, bySender, byAll decide.Kind) {
	best := s.likely[0]
	right := best.Decision == s.Became
	f.top1.add(right)
	f.top2.add(right || s.likely[1].Decision == s.Became)
	f.bySender.add(bySender == s.Became)
	f.byAll.add(byAll == s.Became)
	if best.Marked() {
		f.marked.add(right)
	}
	if best.Sure() {
		f.taken.add(right)
	}
	b := &f.bins[min(int(best.P*10), 9)]
	b.foretold += best.P
	b.matters.add(right)
}

// commonest gives the decision that was taken most often on the letters of each sender, and of all.
func commonest(lessons []learning.Lesson) (map[string]decide.Kind, decide.Kind) {
	type counts map[decide.Kind]int
	most := func(of counts) (best decide.Kind) {
		for _, a := range decide.Kinds {
			if of[a.Kind] > of[best] {
				best = a.Kind
			}
		}
		return best
	}
	senders, all := map[string]counts{}, counts{}
	for _, l := range lessons {
		d := decide.Kind(l.Outcome)
		if !d.About().Deck {
			continue
		}
		if senders[l.Sender] == nil {
			senders[l.Sender] = counts{}
		}
		senders[l.Sender][d]++
		all[d]++
	}
	out := make(map[string]decide.Kind, len(senders))
	for sender, of := range senders {
		out[sender] = most(of)
	}
	return out, most(all)
}

// judge judges a world by its last weeks.
func judge(seed uint64, letters []seen, w *world) judged {
	out := judged{seed: seed, kinds: map[sorting.Kind]map[sorting.Kind]int{}, corrected: w.corrected}
	senders, all := habits(w.lessons)
	bySender, usuallyAll := commonest(w.lessons)
	for _, s := range letters {
		if s.Week <= learnedWeeks {
			continue
		}
		if out.kinds[s.Kind] == nil {
			out.kinds[s.Kind] = map[sorting.Kind]int{}
		}
		out.kinds[s.Kind][s.verdict.Kind]++
		switch s.Kind {
		case sorting.Person:
			out.people.add(s.verdict.Out)
			if s.Hard {
				out.hardPeople.add(s.verdict.Out)
			}
		case junk:
		default:
			out.machines.add(s.verdict.Out)
			if s.Hard {
				out.hardMachines.add(s.verdict.Out)
			}
		}
		if !s.verdict.Out && s.Became.About().Deck && len(s.likely) > 0 {
			out.foretold.judge(s, cmp.Or(bySender[s.from], usuallyAll), usuallyAll)
		}
		matters, ok := learning.Outcome(s.Became).Matters()
		if !ok || s.verdict.Out {
			continue
		}
		out.learned.add(s.high, matters)
		out.bySender.add(usually(senders[s.from]), matters)
		out.commonest.add(usually(all), matters)
		out.best.add(s.Likely > 0.5, matters)
		b := &out.bins[min(int(s.chance*10), 9)]
		b.foretold += s.chance
		b.matters.add(matters)
	}
	return out
}

// habits counts what was done with the letters of each sender, and with all.
func habits(lessons []learning.Lesson) (map[string]share, share) {
	senders, all := map[string]share{}, share{}
	for _, l := range lessons {
		if matters, ok := l.Outcome.Matters(); ok {
			s := senders[l.Sender]
			s.add(matters)
			senders[l.Sender] = s
			all.add(matters)
		}
	}
	return senders, all
}

func usually(s share) bool { return 2*s.n > s.of }

// kindsIn are the kinds of what was judged, in the order in which they are shown.
func kindsIn(worlds []judged) []sorting.Kind {
	order := []sorting.Kind{sorting.Person, sorting.Receipts, sorting.Notices, sorting.Reading, sorting.Meetings, sorting.Copies, junk}
	return slices.DeleteFunc(order, func(k sorting.Kind) bool {
		return !slices.ContainsFunc(worlds, func(w judged) bool {
			for is, taken := range w.kinds {
				if is == k || taken[k] > 0 {
					return true
				}
			}
			return false
		})
	})
}
