package demo

import (
	"bytes"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// Lived is a letter of eight weeks that were lived through on paper, and what was done with it:
// what sorting and learning are judged by (docs/learning.md).
type Lived struct {
	Raw []byte
	At  time.Time
	// Week is the week in which it came, from 1.
	Week int
	// Kind is of what kind it is, as whoever wrote the world has said; "junk" of what nobody wants.
	Kind sorting.Kind
	// Hard tells that it is one of those that are hard to sort.
	Hard bool
	// Became is the decision on it.
	Became decide.Kind
	// Likely is how likely it was that it would be answered, followed up or handed on: nobody
	// can foretell better than that.
	Likely float64
}

// Weeks are how many are lived through.
const Weeks = 8

// Own are the addresses of whoever lived through them, and Name what they are called.
func Own() (own []string, name string) {
	for _, a := range accounts {
		own = append(own, a.Address)
	}
	return own, ines.Name
}

const (
	// exceptions are how many decisions in a hundred are not by any habit.
	exceptions = 15
	// changedFrom is the day from which the habits of one sender in three are others.
	changedFrom = 4 * 7
)

// LiveThrough gives the letters of eight weeks as another seed would have brought them, the hard
// ones among them, in the order in which they came.
func LiveThrough(seed uint64) ([]Lived, error) {
	var out []Lived
	for n := range Weeks * 7 {
		d := first.Add(n)
		hard := hardOf(seed, d)
		for i, a := range append(everyday(seed, d), hard...) {
			a.at = calendar().Instant(d, when.Minute(a.minute))
			raw, err := a.bytes(int64(seed)*1000 + int64(a.minute+i))
			if err != nil {
				return nil, err
			}
			r := dice(seed, d, fmt.Sprint("habit", i))
			turns := custom(seed, a, n)
			usual := []byte(a.fates)
			for i, f := range usual {
				usual[i] = turns(f)
			}
			out = append(out, Lived{Raw: raw, At: a.at, Week: n/7 + 1, Kind: a.kind, Hard: a.hard, Became: whatBecame(turns(a.fate.kind), r), Likely: likely(usual)})
		}
	}
	slices.SortStableFunc(out, func(a, b Lived) int { return a.At.Compare(b.At) })
	return out, nil
}

// hardOf are the hard letters of a day.
func hardOf(seed uint64, d when.Date) (out []arrival) {
	_, week := date(d).ISOWeek()
	n := first.DaysUntil(d)
	for i, s := range cast.hard {
		for _, c := range s.Every {
			if !c.on(d) || s.Alternate && week%2 == 1 || n < s.Since || s.Until > 0 && n > s.Until {
				continue
			}
			r := dice(seed, d, fmt.Sprint("hard", i))
			a := arrive(s, s.topic(r), r, fill(r, d))
			a.id, a.minute, a.hard = fmt.Sprintf("%s-hard-%d", d, i), c.minute+r.IntN(4), true
			out = append(out, a)
		}
	}
	return out
}

// became says what a fate comes to; see world.decide.
var became = map[byte]decide.Kind{
	'a': decide.Answer, 'd': decide.Done, 'l': decide.PutOff, 'u': decide.FollowUp, 'w': decide.HandOn, 'f': decide.File, 'b': decide.ToBin, 'j': decide.ToJunk,
}

// turned is what a habit becomes that changes.
var turned = map[byte]byte{'a': 'd', 'd': 'u', 'u': 'd', 'f': 'd', 'b': 'd', 'w': 'a', 'l': 'a', 'j': 'j'}

// exceptional are the decisions that are taken by no habit.
const exceptional = "adlufb"

// custom is what is usually done with such letters, of which some day others become a habit for
// some senders.
func custom(seed uint64, a arrival, day int) func(fate byte) byte {
	h := fnv.New32a()
	_, _ = fmt.Fprint(h, seed, a.from.Email)
	return func(fate byte) byte {
		if day >= changedFrom && h.Sum32()%3 == 0 {
			return turned[fate]
		}
		return fate
	}
}

// whatBecame is what was done with a letter: by habit, and at times not.
func whatBecame(fate byte, r *rand.Rand) decide.Kind {
	if r.IntN(100) < exceptions && fate != 'j' {
		fate = exceptional[r.IntN(len(exceptional))]
	}
	return became[fate]
}

// likely is how likely one of some fates is to be answered, followed up or handed on rather than let go;
// put off is neither.
func likely(fates []byte) float64 {
	of := func(fates []byte) (acted, let float64) {
		for _, f := range fates {
			switch f {
			case 'a', 'u', 'w':
				acted++
			case 'l':
			default:
				let++
			}
		}
		return acted / float64(len(fates)), let / float64(len(fates))
	}
	acted, let := of(fates)
	if !bytes.ContainsRune(fates, 'j') {
		byChance, letByChance := of([]byte(exceptional))
		acted += exceptions / 100.0 * (byChance - acted)
		let += exceptions / 100.0 * (letByChance - let)
	}
	if acted+let == 0 {
		return 0
	}
	return acted / (acted + let)
}
