// Package backlog lays thousands of undecided letters into heaps, each of which is decided on at once:
// the way through them that takes the fewest keys.
package backlog

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/when"
)

const (
	// Many is from how many undecided letters on the way through a backlog is offered.
	Many = 200
	// least is how many letters a heap has at least; what is in none is decided on one by one.
	least = 3
	// mostHeaps bounds how many there are.
	mostHeaps = 60
	// oldMachine and oldPerson are after how many days letters are taken for settled.
	oldMachine, oldPerson = 90, 180
)

// Letter is an undecided conversation, by the letter that speaks for it.
type Letter struct {
	ID           int64
	Sender, Name string // address, in lower case
	List         string
	// Machine tells that no person wrote it.
	Machine bool
	At      time.Time
	Starred bool
	// Asks tells that something is asked in it by somebody to whom its owner has written.
	Asks bool
	// Ahead tells that it has a date that is still to come.
	Ahead bool
}

// Habit is what its owner does with letters of a list or sender.
type Habit struct {
	Kind  decide.Kind
	Label string
}

// Heap is a part of a backlog.
type Heap struct {
	// Key names it, as long as there are letters of that sort.
	Key string
	// Words say what is in it.
	Words string
	// Propose is what is proposed to be done with all of it, Label under what it is filed. Own tells that
	// its owner does so with such letters.
	Propose decide.Kind
	Label   string
	Own     bool
	Letters []int64
	// Oldest and Newest are when its letters came.
	Oldest, Newest time.Time
}

// Left are the letters that are left out: how many have what.
type Left struct{ Starred, Asks, Ahead int }

// N is how many they are.
func (l Left) N() int { return l.Starred + l.Asks + l.Ahead }

// InWords says why: “2 starred, 5 that ask you something, 2 with a date to come”.
func (l Left) InWords() string {
	var parts []string
	for _, p := range []struct {
		n    int
		what string
	}{{l.Starred, "starred"}, {l.Asks, "that ask you something"}, {l.Ahead, "with a date to come"}} {
		if p.n > 0 {
			parts = append(parts, fmt.Sprint(p.n, " ", p.what))
		}
	}
	return strings.Join(parts, ", ")
}

// sort is a sort of heap into which a letter may go; an empty key for none.
type sort func(l Letter, now time.Time) (key, words string)

// sorts are they, of two that are equally large the first.
var sorts = []sort{
	func(l Letter, _ time.Time) (string, string) {
		if l.List == "" {
			return "", ""
		}
		return "list:" + l.List, "from the list " + l.List
	},
	func(l Letter, _ time.Time) (string, string) {
		if l.Sender == "" {
			return "", ""
		}
		return "sender:" + l.Sender, "from " + cmp.Or(l.Name, l.Sender)
	},
	func(l Letter, now time.Time) (string, string) {
		if !l.Machine || now.Sub(l.At) < oldMachine*24*time.Hour {
			return "", ""
		}
		return "old:machines", fmt.Sprintf("older than %d days and not from a person", oldMachine)
	},
	func(l Letter, now time.Time) (string, string) {
		if l.Machine || now.Sub(l.At) < oldPerson*24*time.Hour {
			return "", ""
		}
		return "old:people", fmt.Sprintf("from people, older than %d days", oldPerson)
	},
}

// Lay lays letters into heaps, the one first that takes most off at one key: each letter is in one heap
// only, the largest that it can be in. What its owner will want to see is left out.
func Lay(all []Letter, habits map[string]Habit, now time.Time) (heaps []Heap, left Left) {
	var open []Letter
	for _, l := range all {
		switch {
		case l.Starred:
			left.Starred++
		case l.Asks:
			left.Asks++
		case l.Ahead:
			left.Ahead++
		default:
			open = append(open, l)
		}
	}
	for len(heaps) < mostHeaps {
		best := largest(open, now)
		if len(best.Letters) < least {
			break
		}
		if h, ok := habits[best.Key]; ok {
			best.Propose, best.Label, best.Own = h.Kind, h.Label, true
		}
		heaps = append(heaps, best)
		in := make(map[int64]bool, len(best.Letters))
		for _, id := range best.Letters {
			in[id] = true
		}
		open = slices.DeleteFunc(open, func(l Letter) bool { return in[l.ID] })
	}
	return heaps, left
}

// largest is the largest heap that can be made of letters.
func largest(open []Letter, now time.Time) (best Heap) {
	for _, s := range sorts {
		of := map[string]int{}
		for _, l := range open {
			if key, _ := s(l, now); key != "" {
				of[key]++
			}
		}
		most := ""
		for key, n := range of {
			if n > of[most] || n == of[most] && key < most {
				most = key
			}
		}
		if of[most] <= len(best.Letters) {
			continue
		}
		best = Heap{Key: most, Propose: decide.Done}
		for _, l := range open {
			key, words := s(l, now)
			if key != most {
				continue
			}
			best.Words, best.Letters = words, append(best.Letters, l.ID)
			if best.Oldest.IsZero() || l.At.Before(best.Oldest) {
				best.Oldest = l.At
			}
			if l.At.After(best.Newest) {
				best.Newest = l.At
			}
		}
	}
	return best
}

// Plan is a backlog that is gone through over days.
type Plan struct {
	Began time.Time `json:"began"`
	// N is how many letters it had then, Share how many are to go each working day.
	N     int `json:"n"`
	Share int `json:"share"`
}

// Cleared is the day on which a backlog is gone at the pace so far: of the working days from the one on
// which it began. Where nothing has gone yet, its share counts as the pace. ok is false where that can't
// be told.
func (p Plan) Cleared(left int, today when.Date, c when.Calendar) (d when.Date, ok bool) {
	days := 0
	for d := c.Today(p.Began); !today.Before(d) && days < 1000; d = d.Add(1) {
		if c.Works(d) {
			days++
		}
	}
	pace := float64(p.N-left) / float64(max(days, 1))
	if p.N-left <= 0 {
		pace = float64(p.Share)
	}
	if pace <= 0 {
		return d, false
	}
	need := int(float64(left)/pace + 0.999)
	if need > 2000 {
		return d, false
	}
	for d, days = today, 0; need > 0; days++ {
		if days > 5000 {
			return d, false // nobody works
		}
		if d = d.Add(1); c.Works(d) {
			need--
		}
	}
	return d, true
}
