package when

import (
	"regexp"
	"strconv"
	"strings"
)

func apart(r rune) bool { return strings.ContainsRune(" \t\n\f\r,;", r) }

// split cuts a phrase into lower-case words without the marks around them.
func split(phrase string) []string {
	phrase = strings.ToLower(strings.Map(func(r rune) rune {
		switch r {
		case '–', '−', '—':
			return '-'
		case '’', '‘', '`':
			return '\''
		}
		return r
	}, phrase))
	var words []string
	for _, w := range strings.FieldsFunc(phrase, apart) {
		w = strings.Trim(w, "?!“”\"'()")
		if strings.Contains(w, ".") && !dottedDate.MatchString(w) { // in "3.12." the last dot belongs to the day
			w = strings.Trim(w, ".")
		}
		if w != "" {
			words = append(words, w)
		}
	}
	return words
}

// cursor walks the words of a phrase.
type cursor struct{ words []string }

// peek returns the i-th word ahead, or "".
func (c *cursor) peek(i int) string {
	if i < len(c.words) {
		return c.words[i]
	}
	return ""
}

// starts tells whether the words ahead begin with those of text.
func (c *cursor) starts(text string) (n int, ok bool) {
	for word := range strings.FieldsSeq(text) {
		if c.peek(n) != word {
			return 0, false
		}
		n++
	}
	return n, true
}

// startsAny finds the longest of the phrases that the words ahead begin with.
func (c *cursor) startsAny(phrases map[string]string) (found string, n int) {
	for phrase, meaning := range phrases {
		if used, ok := c.starts(phrase); ok && used > n {
			found, n = meaning, used
		}
	}
	return found, n
}

var (
	digits  = regexp.MustCompile(`^\d{1,5}$`)
	ordinal = regexp.MustCompile(`^(\d{1,2})(st|nd|rd|th)$`)

	ones = map[string]int{
		"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12,
		"thirteen": 13, "fourteen": 14, "fifteen": 15, "sixteen": 16, "seventeen": 17, "eighteen": 18, "nineteen": 19,
	}
	tens         = map[string]int{"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90}
	ordinalWords = map[string]int{
		"first": 1, "second": 2, "third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "seventh": 7, "eighth": 8, "ninth": 9, "tenth": 10, "eleventh": 11,
		"twelfth": 12, "thirteenth": 13, "fourteenth": 14, "fifteenth": 15, "sixteenth": 16, "seventeenth": 17, "eighteenth": 18, "nineteenth": 19,
		"twentieth": 20, "thirtieth": 30,
	}
)

// number reads a count at word i: "3", "three", "twenty-one", "a couple of".
func (c *cursor) number(i int) (count, n int) {
	w := c.peek(i)
	switch {
	case digits.MatchString(w):
		count, _ = strconv.Atoi(w) // at most five digits
		return count, 1
	case w == "a" || w == "an":
		switch c.peek(i + 1) {
		case "couple":
			return 2, c.past(i+2, "of") - i
		case "few":
			return 3, 2
		}
		return 1, 1
	case w == "few":
		return 3, 1
	}
	return spelt(c, i, ones)
}

// ordinalAt reads a day's number at word i: "13th", "thirteenth",
// "twenty-first". A bare number is none.
func (c *cursor) ordinalAt(i int) (day, n int) {
	if m := ordinal.FindStringSubmatch(c.peek(i)); m != nil {
		day, _ = strconv.Atoi(m[1])
		return day, 1
	}
	return spelt(c, i, ordinalWords)
}

// spelt reads a spelt-out number below a hundred whose last word is one of
// last; "twenty" alone needs last to have it, or to be the ones.
func spelt(c *cursor, i int, last map[string]int) (count, n int) {
	w := c.peek(i)
	if v, ok := last[w]; ok {
		return v, 1
	}
	if high, low, ok := strings.Cut(w, "-"); ok && tens[high] > 0 && last[low] > 0 && last[low] < 10 {
		return tens[high] + last[low], 1
	}
	if tens[w] == 0 {
		return 0, 0
	}
	if v := last[c.peek(i+1)]; v > 0 && v < 10 {
		return tens[w] + v, 2
	}
	if last["one"] == 1 {
		return tens[w], 1
	}
	return 0, 0
}

// past skips a word at i if it is there.
func (c *cursor) past(i int, word string) int {
	if c.peek(i) == word {
		i++
	}
	return i
}
