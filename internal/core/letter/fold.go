package letter

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// Words are the words of a text as people look for them: letters and digits,
// in lower case and without accents, as the full-text index has them.
func Words(text string) []string {
	if !isASCII([]byte(text)) {
		text = strings.Map(func(r rune) rune {
			if unicode.Is(unicode.Mn, r) {
				return -1
			}
			return r
		}, norm.NFD.String(text))
	}
	return strings.FieldsFunc(strings.ToLower(text), notInWords)
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
