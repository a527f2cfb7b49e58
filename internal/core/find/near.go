package find

import (
	"slices"
	"strings"
)

// Near is the word of a list that is the nearest to one, where so few letters differ that it may have
// been meant: one of up to five, two of more; the first of several. "" for none.
func Near(word string, among []string) string {
	most := 1
	if len([]rune(word)) > 5 {
		most = 2
	}
	best, at := "", most+1
	for _, w := range among {
		if d := distance(word, w, at); d < at && d > 0 {
			best, at = w, d
		}
	}
	return best
}

// distance counts the letters that are other, missing, too many or in the wrong order (optimal string
// alignment: Damerau, 1964, without overlapping changes); at most so many.
func distance(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	if max(len(x), len(y))-min(len(x), len(y)) >= most {
		return most
	}
	rows := make([][]int, len(x)+1)
	for i := range rows {
		rows[i] = make([]int, len(y)+1)
		rows[i][0] = i
	}
	for j := range rows[0] {
		rows[0][j] = j
	}
	for i := 1; i <= len(x); i++ {
		for j := 1; j <= len(y); j++ {
			other := 1
			if x[i-1] == y[j-1] {
				other = 0
			}
			rows[i][j] = min(rows[i-1][j]+1, rows[i][j-1]+1, rows[i-1][j-1]+other)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				rows[i][j] = min(rows[i][j], rows[i-2][j-2]+1)
			}
		}
	}
	return min(rows[len(x)][len(y)], most)
}

// Instead are queries that may find something where one finds nothing: each without one of its parts, then
// each of them alone.
func (q Query) Instead() (out []Query) {
	if q.Op != All || len(q.Of) < 2 {
		return nil
	}
	for _, words := range []bool{false, true} { // fields are dropped before words
		for i, p := range q.Of {
			if (p.Op == Is && p.Term.Field == Words) == words {
				out = append(out, all(slices.Concat(q.Of[:i], q.Of[i+1:])))
			}
		}
	}
	if len(q.Of) > 2 {
		out = append(out, q.Of...)
	}
	return out
}

// Replaced is the query with other words in the place of some; the same one where there are none.
func (q Query) Replaced(by func(word string) string) Query {
	if q.Op == Is {
		if q.Term.Field == Words && !q.Term.Exact {
			if other := by(q.Term.Value); other != "" {
				q.Term.Value = other
			}
		}
		return q
	}
	parts := make([]Query, len(q.Of))
	for i, p := range q.Of {
		parts[i] = p.Replaced(by)
	}
	return Query{Op: q.Op, Of: parts}
}

// Relabelled is the query with other names of labels.
func (q Query) Relabelled(renamed func(string) string) Query {
	if q.Op == Is {
		if q.Term.Field == Label {
			q.Term.Value = renamed(q.Term.Value)
		}
		return q
	}
	parts := make([]Query, len(q.Of))
	for i, p := range q.Of {
		parts[i] = p.Relabelled(renamed)
	}
	return Query{Op: q.Op, Of: parts}
}

// Same tells whether two queries are the same as they are typed.
func (q Query) Same(other Query) bool { return strings.EqualFold(q.String(), other.String()) }
