package findings

import (
	"regexp"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// untilWord comes before the date at which somebody is back.
var untilWord = regexp.MustCompile(`(?i)\b(until|till|through|back (?:on|again on|from|in the office on)|return(?:ing)? (?:on|to the office on)|available again (?:on|from)|til og med|til|bis|tot)\b:?\s+`)

// maxDateWords is how many words a date has at most ("Thursday, the 26th of November 2026").
const maxDateWords = 7

// Away reads out of an out-of-office note when its sender is back: the first
// future day that it names after a word such as "until". ok is false if it
// names none.
func Away(text string, now time.Time, c when.Calendar) (when.Reading, bool) {
	for _, at := range untilWord.FindAllStringIndex(text, 20) {
		rest, _, _ := strings.Cut(text[at[1]:], "\n\n")
		words := strings.Fields(strings.NewReplacer(",", " ", " the ", " ", " of ", " ").Replace(rest))
		for n := min(maxDateWords, len(words)); n > 0; n-- {
			phrase := strings.TrimRight(strings.Join(words[:n], " "), ".;!)")
			if r, err := when.Read(phrase, now, c); err == nil && r.Precision == when.ToDay && r.UTC.After(now) {
				return r, true
			}
		}
	}
	return when.Reading{}, false
}
