package when

import (
	"regexp"
	"slices"
	"strings"
	"time"
)

// Span is from when to when something is to be done. Start is nil where only
// its end was named.
type Span struct {
	Start *Reading
	Due   Reading
}

// ReadSpan understands a due time, or a range from a start to one: "fri",
// "tomorrow to fri", "mon - wed 12:00", "1 to 5 dec", "thu 10-12".
func ReadSpan(phrase string, now time.Time, c Calendar) (Span, error) {
	words := split(phrase)
	between := len(words) > 0 && words[0] == "between"
	if between || len(words) > 0 && words[0] == "from" {
		words = words[1:]
	}
	for i, w := range words {
		if i == 0 || i == len(words)-1 || !rangeWords[w] && (!between || w != "and") || w == "to" && isSpoken(words, i) {
			continue
		}
		return readRange(words[:i], words[i+1:], phrase, now, c)
	}
	if len(words) > 0 {
		// "mon-wed", "tomorrow-fri 12:00"
		if from, to, ok := strings.Cut(words[0], "-"); ok && from != "" && to != "" {
			if _, err := readWords([]string{from}, now, c); err == nil {
				return readRange([]string{from}, append([]string{to}, words[1:]...), phrase, now, c)
			}
		}
	}
	if day, from, to, ok := hours(words); ok {
		if _, err := readWords(day, now, c); err == nil {
			return readRange(append(slices.Clone(day), "at", from), []string{to}, phrase, now, c)
		}
	}
	r, err := Read(phrase, now, c)
	return Span{Due: r}, err
}

// hours splits "thu 10-12", "tomorrow 9:30-11": hours of a day that is named before
// them. By themselves such numbers are a date.
func hours(words []string) (day []string, from, to string, ok bool) {
	if len(words) < 2 {
		return nil, "", "", false
	}
	last := len(words) - 1
	from, to, ok = strings.Cut(words[last], "-")
	return words[:last], from, to, ok && hour.MatchString(from) && hour.MatchString(to)
}

var hour = regexp.MustCompile(`^\d{1,2}([:.]\d\d)?$`)

var rangeWords = map[string]bool{"to": true, "until": true, "till": true, "through": true, "-": true}

// isSpoken tells whether the "to" at i is that of "quarter to five", "ten to
// six" or "at 10 to 6", rather than that of a range.
func isSpoken(words []string, i int) bool {
	before := &parser{cursor: cursor{words[i-1:]}}
	if _, _, ok := before.spokenClock(); !ok {
		return false
	}
	return !digits.MatchString(words[i-1]) || i > 1 && words[i-2] == "at"
}

func readRange(from, to []string, phrase string, now time.Time, c Calendar) (Span, error) {
	start, err := readWords(from, now, c)
	if err != nil {
		// "1 to 5 dec": the month stands with the end only.
		if start, err = readWords(append(append([]string{}, from...), tail(to)...), now, c); err != nil {
			return Span{}, err
		}
	}
	if start.Precision == Open {
		return Span{}, refuse("Someday is no start. Name a day.")
	}
	due, err := readWords(to, start.UTC, c)
	if err != nil {
		// "fri 10 to 12": the end is a time of the same day.
		sameDay := append(split(start.Day(c).String()), append([]string{"at"}, to...)...)
		again, anew := readWords(sameDay, start.UTC, c)
		if anew != nil {
			if _, alone := readWords(to, now, c); alone == nil {
				return Span{}, refuse("That ends before it starts. Name a due time after the start.")
			}
			return Span{}, err
		}
		due = again
	}
	if due.Precision == Open {
		return Span{}, refuse("Someday is no due time. Name a day, or none.")
	}
	start.Phrase, due.Phrase = strings.Join(from, " "), strings.Join(to, " ")
	return Span{Start: &start, Due: due}, nil
}

// tail is what follows a day's number: its month, and perhaps its year.
func tail(words []string) []string {
	if len(words) < 2 {
		return nil
	}
	return words[1:]
}

// Canonical is the span in full.
func (s Span) Canonical() string {
	if s.Start == nil {
		return s.Due.Canonical
	}
	return s.Start.Canonical + " to " + s.Due.Canonical
}
