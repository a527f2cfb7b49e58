package findings

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
)

// Mentions tells whether a text names a person: "@Ines" anywhere, or, where the
// letter was addressed to others first of all, the first name or the whole one.
// A letter to the person alone would name them in its greeting, which says
// nothing. names are the person's, as they sign; text is without quotations.
func Mentions(text string, names []string, addressed bool) bool {
	for _, name := range names {
		words := letter.WholeWords(name)
		if len(words) == 0 || utf8.RuneCountInString(words[0]) < 2 {
			continue
		}
		if called(text, words[0]) || !addressed && named(text, words[0]) {
			return true
		}
	}
	return false
}

// called tells whether "@" and the name stand in a text; an address does not
// call anybody.
func called(text, name string) bool {
	for i := range text {
		if text[i] != '@' {
			continue
		}
		before, _ := utf8.DecodeLastRuneInString(text[:i])
		if unicode.IsLetter(before) || unicode.IsDigit(before) || strings.ContainsRune("._-+", before) && i > 0 {
			continue
		}
		rest := text[i+1:]
		end := strings.IndexFunc(rest, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) })
		if end < 0 {
			end = len(rest)
		}
		if slices.Equal(letter.WholeWords(rest[:end]), []string{name}) {
			return true
		}
	}
	return false
}

// named tells whether a name stands in a text as one: with a capital.
func named(text, name string) bool {
	return slices.ContainsFunc(strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) }), func(word string) bool {
		first, _ := utf8.DecodeRuneInString(word)
		return (unicode.IsUpper(first) || !unicode.IsLower(first)) && slices.Equal(letter.WholeWords(word), []string{name})
	})
}
