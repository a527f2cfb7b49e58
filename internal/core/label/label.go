// Package label has the rules of labels: how their names are written, how they nest, and what becomes of
// all of them when one is renamed.
package label

import (
	"fmt"
	"slices"
	"strings"
)

// Max bounds a label's name, in bytes.
const Max = 60

// Between stands between a label and what is nested in it: loans/2025.
const Between = "/"

// Clean is a name as it is kept: blanks single, none at its ends nor about what nests, nothing nested in
// nothing. It is "" where nothing is left.
func Clean(name string) string {
	var parts []string
	for part := range strings.SplitSeq(name, Between) {
		if part = strings.Join(strings.Fields(part), " "); part != "" {
			parts = append(parts, part)
		}
	}
	return strings.Join(parts, Between)
}

// Under tells whether a label is another, or nested in it.
func Under(name, in string) bool { return name == in || strings.HasPrefix(name, in+Between) }

// Depth is in how many others a label is nested.
func Depth(name string) int { return strings.Count(name, Between) }

// Move is a label that gets another name.
type Move struct{ From, To string }

// Rename gives the labels, of all that there are, that get another name where one is renamed: itself and
// what is nested in it. What gets the name of another is one with it. The error says, in words, which name
// would be too long.
func Rename(all []string, from, to string) ([]Move, error) {
	var out []Move
	for _, name := range all {
		if !Under(name, from) {
			continue
		}
		m := Move{name, to + strings.TrimPrefix(name, from)}
		if len(m.To) > Max {
			return nil, fmt.Errorf("the label “%s” would be too long", m.To)
		}
		if m.From != m.To {
			out = append(out, m)
		}
	}
	return out, nil
}

// Renamed is the name that a label has after moves.
func Renamed(moves []Move, name string) string {
	if i := slices.IndexFunc(moves, func(m Move) bool { return m.From == name }); i >= 0 {
		return moves[i].To
	}
	return name
}

// Meant is the same for a name as somebody has typed it who asks for a label: in any case. A name that one label has
// exactly is that one.
func Meant(moves []Move, name string) string {
	if to := Renamed(moves, name); to != name {
		return to
	}
	if i := slices.IndexFunc(moves, func(m Move) bool { return strings.EqualFold(m.From, strings.TrimSpace(name)) }); i >= 0 {
		return moves[i].To
	}
	return name
}
