package letter

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// Words are the words of a text as people look for them, and as the full-text index has them: letters
// and digits, folded. Chinese and Japanese signs, between which nothing shows where a word ends, are
// taken in pairs, and the last of a row by itself, so that each is the beginning of one.
func Words(text string) []string {
	var out []string
	for _, w := range folded(text) {
		if signs := []rune(w); paired(signs[0]) {
			for i := range len(signs) - 1 {
				out = append(out, string(signs[i:i+2]))
			}
			w = string(signs[len(signs)-1])
		}
		out = append(out, w)
	}
	return out
}

// Folded is a text as the full-text index has it: its words with blanks between them.
func Folded(text string) string { return strings.Join(Words(text), " ") }

// Sought are the words of a text as it is looked for: each list stands next to each other in what has
// it. They are those of Words without the last sign of a row, which there ends it.
func Sought(text string) [][]string {
	var out [][]string
	joined := false // to the last list
	for _, w := range folded(text) {
		signs := []rune(w)
		switch {
		case paired(signs[0]):
			list := []string{w}
			if len(signs) > 2 {
				list = nil
				for i := range len(signs) - 1 {
					list = append(list, string(signs[i:i+2]))
				}
			}
			out, joined = append(out, list), false
		case joined:
			out[len(out)-1] = append(out[len(out)-1], w)
		default:
			out, joined = append(out, []string{w}), true
		}
	}
	return out
}

// WholeWords are the words of a text, folded, with nothing taken in pairs: those of a name.
func WholeWords(text string) []string { return folded(text) }

// folded cuts a text into words of folded letters and digits, and rows of signs that are paired.
func folded(text string) []string {
	if !isASCII([]byte(text)) {
		var b strings.Builder
		last := ' '
		for _, r := range norm.NFKD.String(text) {
			if unicode.Is(unicode.Mn, r) {
				continue
			}
			r = unicode.ToLower(r)
			if paired(r) != paired(last) {
				b.WriteByte(' ')
			}
			if other, ok := alike[r]; ok {
				b.WriteString(other)
			} else {
				b.WriteRune(r)
			}
			last = r
		}
		return strings.FieldsFunc(b.String(), notInWords)
	}
	return strings.FieldsFunc(strings.ToLower(text), notInWords)
}

// alike are letters that no table of Unicode takes apart, by those with which they are typed.
var alike = map[rune]string{
	'ß': "ss", 'ø': "o", 'æ': "ae", 'œ': "oe", 'ł': "l", 'đ': "d", 'ð': "d", 'þ': "th", 'ı': "i", 'ħ': "h", 'ŋ': "n", 'ŧ': "t", 'ς': "σ",
}

// Paired tells whether a word is of signs that are taken in pairs.
func Paired(word string) bool {
	first, _ := utf8.DecodeRuneInString(word)
	return paired(first)
}

func paired(r rune) bool {
	return r >= 0x2e80 && unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana)
}

// StartsWith tells whether words stand in a text's, in their order and next to each other; the last one
// may go on.
func StartsWith(text, words []string) bool { return stands(text, words, strings.HasPrefix) }

// Holds tells whether words stand in a text's, in their order and next to each other.
func Holds(text, words []string) bool {
	return stands(text, words, func(a, b string) bool { return a == b })
}

func stands(text, words []string, last func(string, string) bool) bool {
	if len(words) == 0 {
		return false
	}
	before, end := words[:len(words)-1], words[len(words)-1]
	for i := 0; i+len(words) <= len(text); i++ {
		if last(text[i+len(before)], end) && slices.Equal(text[i:i+len(before)], before) {
			return true
		}
	}
	return false
}

// Capital gives a text with a capital at its start.
func Capital(text string) string {
	first, size := utf8.DecodeRuneInString(text)
	if size == 0 || first == utf8.RuneError {
		return text
	}
	return string(unicode.ToUpper(first)) + text[size:]
}

func notInWords(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }
