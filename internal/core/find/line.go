package find

import (
	"slices"
	"strings"
	"unicode/utf16"
)

const (
	// lead and tail are how much of a text is shown before and behind what was found in it.
	lead, tail = 24, 160
)

// Line is the part of a text in which something is found, as a row of a list shows it; "" for none.
func (q Query) Line(text string) (line string, spans []Hit) {
	all := q.Hits(text, "")
	if len(all) == 0 {
		return "", nil
	}
	units := utf16.Encode([]rune(text))
	blank := func(i int) bool { return units[i] == ' ' || units[i] == '\n' || units[i] == '\r' || units[i] == '\t' }
	from := max(0, all[0].From-lead)
	for from > 0 && from < all[0].From && !blank(from-1) {
		from++
	}
	to := min(len(units), all[0].To+tail)
	for to < len(units) && to > all[0].To && !blank(to) {
		to--
	}
	cut := units[from:to]
	for i, u := range cut {
		if u == '\n' || u == '\r' || u == '\t' {
			cut[i] = ' '
		}
	}
	for _, s := range all {
		if s.From >= from && s.To <= to {
			spans = append(spans, Hit{s.From - from, s.To - from})
		}
	}
	line = string(utf16.Decode(cut))
	start := ""
	if from > 0 {
		start = "… "
	}
	for i := range spans {
		spans[i].From += len([]rune(start))
		spans[i].To += len([]rune(start))
	}
	return start + strings.TrimRight(line, " "), spans
}

// Quotes are what is found in a text, as it stands there, each once, the longest first; at most so many.
func (q Query) Quotes(text string, most int) (out []string) {
	units := utf16.Encode([]rune(text))
	for _, h := range q.Hits(text, "") {
		if quote := string(utf16.Decode(units[h.From:h.To])); !slices.Contains(out, quote) && len(out) < most {
			out = append(out, quote)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return len(b) - len(a) })
	return out
}
