// Package thread decides which letters make a conversation. Letters belong
// together by what they refer to (RFC 5322, 3.6.4), and where an answer refers
// to nothing, by its subject. The outcome does not depend on the order in
// which letters come.
package thread

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Facts are what decides where a letter belongs.
type Facts struct {
	// Key names the letter; it orders letters of the same moment.
	Key string
	// IDs are the letter's own Message-ID and all that it refers to.
	IDs         []string
	BareSubject string
	// BySubject tells that it may join by its subject.
	BySubject bool
	// Persons are the keys of sender and recipients, without the own addresses.
	Persons []string
	// At is when it was written: its Date, or when it came where it has none.
	At time.Time
}

// FactsOf collects the facts of a letter. own are the keys of the owner's
// addresses; received is when it came.
func FactsOf(l letter.Letter, own []string, received time.Time) Facts {
	f := Facts{Key: l.Identity(), BareSubject: letter.BareSubject(l.Subject), BySubject: l.JoinsBySubject(), At: l.Date}
	if f.At.IsZero() {
		f.At = received
	}
	ids := slices.Concat([]string{l.MessageID}, l.References, l.InReplyTo)
	if l.Report != nil {
		ids = append(ids, l.Report.Original)
	}
	for _, id := range ids {
		if id != "" && !slices.Contains(f.IDs, id) {
			f.IDs = append(f.IDs, id)
		}
	}
	f.Persons = Persons(append([]letter.Address{l.From}, l.Recipients()...), own)
	return f
}

// Persons are the keys of people, each once, without the own addresses.
func Persons(people []letter.Address, own []string) []string {
	var out []string
	for _, a := range people {
		if k := a.Key(); k != "" && !slices.Contains(own, k) && !slices.Contains(out, k) {
			out = append(out, k)
		}
	}
	return out
}

// SubjectWindow is how much older the letter may be that is joined by subject.
const SubjectWindow = 30 * 24 * time.Hour

// before orders letters by when they were written.
func before(a, b Facts) bool {
	if !a.At.Equal(b.At) {
		return a.At.Before(b.At)
	}
	return a.Key < b.Key
}

// follows tells whether f may join p by its subject.
func (f Facts) follows(p Facts) bool {
	return f.BySubject && f.BareSubject == p.BareSubject && before(p, f) && f.At.Sub(p.At) <= SubjectWindow &&
		slices.ContainsFunc(f.Persons, func(person string) bool { return slices.Contains(p.Persons, person) })
}

// Predecessor is the letter that f joins by its subject: the latest of those
// that it may join; -1 for none.
func Predecessor(f Facts, letters []Facts) int {
	best := -1
	for i, p := range letters {
		if f.follows(p) && (best < 0 || before(letters[best], p)) {
			best = i
		}
	}
	return best
}

// Group sorts letters into conversations: indexes into letters, each group and
// the groups in order.
func Group(letters []Facts) [][]int {
	root := make([]int, len(letters))
	for i := range root {
		root[i] = i
	}
	find := func(i int) int {
		for root[i] != i {
			root[i] = root[root[i]]
			i = root[i]
		}
		return i
	}
	join := func(i, j int) {
		a, b := find(i), find(j)
		root[max(a, b)] = min(a, b)
	}
	byID, bySubject := map[string]int{}, map[string][]int{}
	for i, f := range letters {
		for _, id := range f.IDs {
			if j, ok := byID[id]; ok {
				join(i, j)
			} else {
				byID[id] = i
			}
		}
		bySubject[f.BareSubject] = append(bySubject[f.BareSubject], i)
	}
	for i, f := range letters {
		if !f.BySubject {
			continue
		}
		same := bySubject[f.BareSubject]
		candidates := make([]Facts, len(same))
		for k, j := range same {
			candidates[k] = letters[j]
		}
		if k := Predecessor(f, candidates); k >= 0 {
			join(i, same[k])
		}
	}
	at := map[int]int{}
	var out [][]int
	for i := range letters {
		r := find(i)
		if _, ok := at[r]; !ok {
			at[r] = len(out)
			out = append(out, nil)
		}
		out[at[r]] = append(out[at[r]], i)
	}
	return out
}
