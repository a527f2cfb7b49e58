package findings

import (
	"math"
	"regexp"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// Date is a time that a letter names.
type Date struct {
	when.Reading
	// Quote is the sentence that names it.
	Quote string
}

// mostDates bounds how many dates, and asks, are found in a letter.
const mostDates = 4

// Links tells whether a letter's text, or its HTML, links to somewhere in the web.
func Links(text, html string) bool {
	return theLink.MatchString(text) || linked.MatchString(html)
}

var linked = regexp.MustCompile(`(?i)<a\s[^>]*href\s*=\s*["']?\s*https?://`)

var (
	// before is what leads up to a date that a letter means for its reader.
	before = regexp.MustCompile(`(?i)\b(by|before|until|till|no later than|latest|on|at|this|next|coming|due|for)\s+$`)
	// looksDated is a cheap sign that a date may follow: one anchor before all of it, else the rest of
	// the text is searched for each word.
	looksDated = regexp.MustCompile(`(?i)^(?:(mon|tue|wed|thu|fri|sat|sun)[a-z]*\b|(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\b|\d{1,2}(st|nd|rd|th)?\b|(today|tonight|tomorrow|noon|end|the \d|next|this|\d{4}-))`)
	wordStart  = regexp.MustCompile(`\S+`)
	yearly     = regexp.MustCompile(`\b20\d\d\b|\b(month|year)s?\b`)
	unsure     = regexp.MustCompile(`^\d{1,4}\.?$`)
)

// Dates finds the future times that a letter names, each once, in their order;
// what can't be told from a mere number is left alone. now is when the letter
// was written: its "tomorrow" is the day after.
func Dates(text string, written, now time.Time, c when.Calendar) []Date {
	var out []Date
	for _, s := range sentences(text) {
		out = append(out, datesIn(s, math.MaxInt, written, now, c)...)
		if len(out) >= mostDates {
			break
		}
	}
	seen := map[int64]bool{}
	unique := out[:0]
	for _, d := range out {
		if !seen[d.UTC.Unix()] && len(unique) < mostDates {
			seen[d.UTC.Unix()] = true
			unique = append(unique, d)
		}
	}
	return unique
}

// NamesDate tells whether a letter names a time after it was written.
func NamesDate(text string, written time.Time, c when.Calendar) bool {
	for _, s := range sentences(text) {
		if len(datesIn(s, 1, written, written, c)) > 0 {
			return true
		}
	}
	return false
}

// datesIn finds the dates of a sentence, at most so many.
func datesIn(s string, most int, written, now time.Time, c when.Calendar) (out []Date) {
	words := wordStart.FindAllStringIndex(s, -1)
	for i := 0; i < len(words) && len(out) < most; i++ {
		rest := s[words[i][0]:]
		if !startsDate(rest) || !looksDated.MatchString(rest) {
			continue
		}
		for n := min(maxDateWords, len(words)-i); n > 0; n-- {
			end := words[i+n-1][1]
			phrase := strings.TrimRight(s[words[i][0]:end], ".,;:!?)")
			if n == 1 && unsure.MatchString(phrase) || strings.Contains(phrase, "\n") {
				continue
			}
			bare := strings.ReplaceAll(strings.ReplaceAll(phrase, ",", " "), " of ", " ")
			r, err := when.Read(bare, written, c)
			if err != nil || r.Precision == when.Open || !r.UTC.After(now) || n > 1 && onlyNumbers(bare) {
				continue
			}
			// A day long past is meant, not the same day next year.
			if r.UTC.Sub(written) > 180*24*time.Hour && !yearly.MatchString(bare) {
				break
			}
			// "may" and the like are dates only after a word that leads up to one.
			if n == 1 && len(bare) < 4 && !before.MatchString(s[:words[i][0]]) {
				continue
			}
			out = append(out, Date{r, cut(s)})
			i += n - 1
			break
		}
	}
	return out
}

// startsDate is a quicker sign still, of a word and what follows it.
func startsDate(rest string) bool {
	if rest[0] >= '0' && rest[0] <= '9' {
		return true
	}
	n := 0
	for n < len(rest) && (rest[n]|0x20 >= 'a' && rest[n]|0x20 <= 'z') {
		n++
	}
	if n < 3 {
		return false
	}
	word := strings.ToLower(rest[:n])
	if word == "the" {
		return len(rest) > n+1 && rest[n+1] >= '0' && rest[n+1] <= '9'
	}
	whole := dateWords[word[:3]]
	return whole != "" && (strings.HasPrefix(whole, word) || strings.HasPrefix(word, whole))
}

// dateWords are the words with which dates start, by their first three letters; "sept" is one, too,
// and "month" is none.
var dateWords = func() map[string]string {
	out := map[string]string{}
	for _, w := range strings.Fields("monday tuesday wednesday thursday friday saturday sunday january february march april may june july august september october november december today tonight tomorrow noon end next this") {
		out[w[:3]] = w
	}
	return out
}()

func onlyNumbers(s string) bool {
	return !strings.ContainsFunc(s, func(r rune) bool {
		return r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r == ':' || r == '/' || r == '-'
	})
}

// Asks are all sentences of a letter's own text that ask or request something.
func Asks(text string) []string {
	var out []string
	for _, s := range sentences(text) {
		if len(out) < 2*mostDates && !isCall(s) && !closing.MatchString(s) && !greeting.MatchString(s) && isAsk(s) {
			out = append(out, cut(s))
		}
	}
	return out
}

var urgency = []struct {
	words    *regexp.Regexp
	priority followup.Priority
}{
	{regexp.MustCompile(`(?i)\b(urgent(ly)?|asap|as soon as possible|immediately|at once|right away|emergency)\b`), followup.Urgent},
	{regexp.MustCompile(`(?i)\b(important|deadline|final reminder|no later than|by return|today)\b`), followup.High},
	{regexp.MustCompile(`(?i)\b(no (hurry|rush)|whenever you|at your leisure|when you have time|some time)\b`), followup.Low},
}

// Urgency reads a priority out of a letter's words; why is the word it is read
// from, "" for none.
func Urgency(text string) (p followup.Priority, why string) {
	for _, u := range urgency {
		if w := u.words.FindString(text); w != "" {
			return u.priority, strings.ToLower(w)
		}
	}
	return followup.Normal, ""
}
