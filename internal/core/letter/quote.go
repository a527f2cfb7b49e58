package letter

import (
	"fmt"
	"regexp"
	"strings"
)

// Fold is a stretch of a plain letter: what was written, or what was quoted.
type Fold struct {
	Text   string `json:"text"`
	Quoted bool   `json:"quoted"`
}

var (
	attribution = regexp.MustCompile(`(?i)^\s*(on|am|op|den|le|il|el)\b.{4,200}(wrote|schrieb|schreef|skrev|a écrit|ha scritto|escribió)\s*:\s*$`)
	original    = regexp.MustCompile(`(?i)^\s*(-{2,}|_{5,})\s*(original message|forwarded message|forwarded letter|opprinnelig melding)?\s*-*\s*$`)
	fieldLine   = regexp.MustCompile(`(?i)^\s*\*?(from|sent|to|subject|date|fra|sendt|til|emne)\*?:\s`)
)

// Folds cuts a plain letter into what was written and what was quoted, so
// that quotations can be folded. Joined with line ends it is the text again.
func Folds(text string) []Fold {
	var out []Fold
	lines := strings.Split(text, "\n")
	add := func(from, to int, quoted bool) {
		if from < to {
			out = append(out, Fold{strings.Join(lines[from:to], "\n"), quoted})
		}
	}
	start := 0
	for i := 0; i < len(lines); i++ {
		end := quoteAt(lines, i)
		if end == i {
			continue
		}
		add(start, i, false)
		add(i, end, true)
		start, i = end, end-1
	}
	add(start, len(lines), false)
	return out
}

// quoteAt tells where a quotation that begins at line i ends; i itself if
// none begins there.
func quoteAt(lines []string, i int) int {
	j := i
	if attribution.MatchString(lines[i]) || i+1 < len(lines) && attribution.MatchString(lines[i]+" "+lines[i+1]) {
		k := i + 1
		for k < len(lines) && k < i+4 && !strings.HasPrefix(lines[k], ">") {
			k++
		}
		if k < len(lines) && strings.HasPrefix(lines[k], ">") {
			j = k
		}
	}
	if original.MatchString(lines[i]) && i+2 < len(lines) && fieldLine.MatchString(firstFilled(lines[i+1:])) {
		return len(lines) // all below such a line is the old letter
	}
	for j < len(lines) && strings.HasPrefix(lines[j], ">") {
		j++
	}
	return j
}

func firstFilled(lines []string) string {
	for _, l := range lines {
		if strings.TrimSpace(l) != "" {
			return l
		}
	}
	return ""
}

// Unquoted is the text without its quotations and without what stands below
// a signature mark ("-- ").
func Unquoted(text string) string {
	var b strings.Builder
	for _, f := range Folds(text) {
		if !f.Quoted {
			b.WriteString(f.Text)
			b.WriteByte('\n')
		}
	}
	written := b.String()
	if i := strings.Index("\n"+written, "\n-- \n"); i >= 0 {
		written = written[:i]
	}
	return strings.TrimSpace(written)
}

// Quote is the letter's text as an answer quotes it, under a line that says
// who wrote it and when.
func Quote(l Letter, when string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "On %s %s wrote:\n", when, l.From.Display())
	for line := range strings.SplitSeq(strings.TrimSpace(l.Text), "\n") {
		b.WriteByte('>')
		if line != "" && line[0] != '>' {
			b.WriteByte(' ')
		}
		b.WriteString(line)
		b.WriteByte('\n')
	}
	return b.String()
}

// Forwarded is the letter's text as it is handed on, below its main fields.
func Forwarded(l Letter, when string) string {
	var to []string
	for _, a := range l.To {
		to = append(to, a.String())
	}
	return fmt.Sprintf("-- Forwarded letter --\nFrom: %s\nDate: %s\nTo: %s\nSubject: %s\n\n%s\n",
		l.From, when, strings.Join(to, ", "), l.Subject, strings.TrimSpace(l.Text))
}
