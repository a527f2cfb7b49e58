package show

import (
	"fmt"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
)

// csvHead names the columns of an account of days.
var csvHead = []string{"from", "came", "decided", "undecided at night", "low waters", "put-offs", "put off more than twice", "my median seconds", "their median seconds", "interruptions kept out", "interruptions"}

// CSV are the rows of an account of days, a head first (RFC 4180, written by whoever sends them). What
// has not begun is left out.
func (d Days) CSV() [][]string {
	out := [][]string{csvHead}
	number := func(n *int64) string {
		if n == nil {
			return ""
		}
		return fmt.Sprint(*n)
	}
	for _, p := range d.Parts {
		if p.Future {
			continue
		}
		row := []string{p.From}
		for _, n := range []int{p.Came, p.Decided, p.Night, p.Zeros, p.PutOffs, p.Often} {
			row = append(row, fmt.Sprint(n))
		}
		out = append(out, append(row, number(p.Mine), number(p.Theirs), fmt.Sprint(p.Avoided), fmt.Sprint(p.Interrupted)))
	}
	return out
}

// Markdown is the sheet as text that reads well as it stands (CommonMark).
func (s DaySheet) Markdown() string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n", s.Label)
	if s.Head != "" {
		fmt.Fprintf(&b, "\n%s\n", letter.Capital(s.Head))
	}
	bar := func(name string, bar SheetBar) {
		fmt.Fprintf(&b, "\n## %s %d\n\n", name, bar.N)
		for _, p := range bar.Parts {
			fmt.Fprintf(&b, "- %s: %d\n", p.Says, p.N)
		}
	}
	bar("Came", s.Came)
	if s.Sorts != "" {
		fmt.Fprintf(&b, "\nSorted out: %s.\n", s.Sorts)
	}
	bar("Decided", s.Decided)
	lines := func(name string, list []SheetLine) {
		if len(list) == 0 {
			return
		}
		fmt.Fprintf(&b, "\n## %s\n\n", name)
		for _, l := range list {
			fmt.Fprintf(&b, "- %s: %s\n", plain(l.Says), plain(l.Value))
		}
	}
	lines("Answer times", s.Lines)
	var ran, waits []SheetLine
	for _, r := range s.Ran {
		ran = append(ran, SheetLine{r.Says, fmt.Sprint(r.N)})
	}
	lines("Ran by itself", ran)
	for _, w := range s.Waits {
		waits = append(waits, SheetLine{w.Who + ", " + w.Title, w.Long})
	}
	lines("Waits longest on you", waits)
	if t := s.Tomorrow; t != nil {
		lines(t.Label+", "+t.Free, t.Lines)
		fmt.Fprintf(&b, "\n%s\n", t.Fits)
	}
	return b.String()
}

// plain keeps what stands in letters from being taken for Markdown.
func plain(s string) string {
	return markdownMarks.Replace(strings.Join(strings.Fields(s), " "))
}

var markdownMarks = strings.NewReplacer(`\`, `\\`, "*", `\*`, "_", `\_`, "`", "\\`", "[", `\[`, "]", `\]`, "<", `\<`, "#", `\#`, "|", `\|`)
