package sorting

import (
	"strconv"
	"strings"
)

// Tally says how many letters of which kinds were sorted out: in the order of the Shallows, what is
// not wanted last.
//
//	9 reading, 4 notices, 2 turned away, 1 junk
func Tally(of map[Kind]int) string {
	var parts []string
	add := func(k Kind, words string) {
		if n := of[k]; n > 0 {
			parts = append(parts, strconv.Itoa(n)+" "+words)
		}
	}
	for _, a := range Table {
		if of[a.Kind] == 1 {
			add(a.Kind, a.One)
		} else {
			add(a.Kind, string(a.Kind))
		}
	}
	add(TurnedAway, "turned away")
	add(Junk, "junk")
	return strings.Join(parts, ", ")
}
