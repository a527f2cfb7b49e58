package letter

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Words are the words of a text as people look for them: letters and digits,
// in lower case and without accents, as the full-text index has them.
func Words(text string) []string {
	if !isASCII(text) {
		text = strings.Map(func(r rune) rune {
			if unicode.Is(unicode.Mn, r) {
				return -1
			}
			return r
		}, norm.NFD.String(text))
	}
	return strings.FieldsFunc(strings.ToLower(text), notInWords)
}

func notInWords(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }
