// Package sitting works out how a sitting stands: a timed session in which one letter after the
// other is decided on, out of a heap that was chosen when it began.
package sitting

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Ring is how long a letter may take that is answered at once; past it, it had better be put off or
// followed up.
const Ring = 2 * time.Minute

// Longest is how long a sitting may be.
const Longest = 8 * time.Hour

// Heap is what a sitting is made of.
type Heap struct {
	// Place is the inbox or the Shallows, Kind which kind there, "" for all.
	Place decide.Place `json:"place" enum:"inbox,shallows"`
	Kind  sorting.Kind `json:"kind,omitempty"`
	// Starred keeps to what is starred, Account to one account.
	Starred bool  `json:"starred,omitempty"`
	Account int64 `json:"account,omitempty"`
	// By and Key name a group of a list (see package group); Words say in which words it was shown.
	By    string `json:"by,omitempty"`
	Key   string `json:"key,omitempty" maxLength:"1000"`
	Words string `json:"words,omitempty" maxLength:"300"`
	// Oldest begins with what has waited longest.
	Oldest bool `json:"oldest,omitempty"`
}

// Sitting is one that was begun.
type Sitting struct {
	Began time.Time
	// Until is when its time is up; zero for one that goes on until zero.
	Until time.Time
	// Letters are the conversations that it began with, in their order; Skipped those that were passed
	// over, each as often as it was.
	Letters, Skipped []int64
}

// Laid is how a sitting stands.
type Laid struct {
	// Queue are the conversations that come next, in their order: those that it began with, then what
	// was skipped once, then what came since.
	Queue []int64
	// Left are how many of those that it began with are still to come, New how many came since,
	// Passed how many were skipped twice and do not come again.
	Left, New, Passed int
	// Again tells of which it is the second time.
	Again map[int64]bool
}

// Lay tells how a sitting stands, of which heap undecided are there now, in their order, and which
// were decided since it began: what has come back since counts as new.
func (s Sitting) Lay(there []int64, decided map[int64]bool) Laid {
	out := Laid{Again: map[int64]bool{}}
	here := make(map[int64]bool, len(there))
	for _, id := range there {
		here[id] = true
	}
	times := make(map[int64]int, len(s.Skipped))
	for _, id := range s.Skipped {
		times[id]++
	}
	begun := make(map[int64]bool, len(s.Letters))
	var skipped, fresh []int64
	for _, id := range s.Letters {
		if decided[id] {
			continue
		}
		begun[id] = true
		if here[id] && times[id] == 0 {
			out.Queue = append(out.Queue, id)
			out.Left++
		}
	}
	var seen []int64
	for _, id := range s.Skipped { // in the order in which they were skipped
		if !here[id] || slices.Contains(seen, id) {
			continue
		}
		seen = append(seen, id)
		switch {
		case times[id] > 1:
			out.Passed++
		case begun[id]:
			skipped = append(skipped, id)
			out.Again[id] = true
			out.Left++
		default:
			fresh = append(fresh, id)
			out.Again[id] = true
		}
	}
	var arrived []int64
	for _, id := range there {
		if !begun[id] && times[id] == 0 {
			arrived = append(arrived, id)
		}
	}
	out.New = len(arrived) + len(fresh)
	out.Queue = slices.Concat(out.Queue, skipped, arrived, fresh)
	return out
}
