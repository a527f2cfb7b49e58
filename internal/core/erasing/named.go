package erasing

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
)

// escaped are the signs that JSON has in other words; an address may follow each of them.
var escaped = strings.NewReplacer(`\u003c`, "<", `\u003e`, ">", `\u0026`, "&", `\n`, " ", `\r`, " ", `\t`, " ", `\"`, `"`)

// Names tells whether a text, or what is kept as JSON, names somebody: by an address of theirs as a whole, or by a name
// of more than one word. A name of one word ("An", "Info") stands in too much that has nothing to do with them.
func Names(text string, addresses, names []string) bool {
	text = escaped.Replace(text)
	low := strings.ToLower(text)
	for _, a := range addresses {
		if holdsAddress(low, a) {
			return true
		}
	}
	words := letter.Words(text)
	for _, n := range names {
		if name := letter.Words(n); len(name) > 1 && letter.Holds(words, name) {
			return true
		}
	}
	return false
}

// holdsAddress finds an address where it is not a part of a longer one.
func holdsAddress(text, address string) bool {
	for from := 0; ; {
		i := strings.Index(text[from:], address)
		if i < 0 || address == "" {
			return false
		}
		from += i
		before, _ := utf8.DecodeLastRuneInString(text[:from])
		after := text[from+len(address):]
		// A dot ends a sentence; one before more of a domain does not.
		next, size := utf8.DecodeRuneInString(after)
		if next == '.' {
			if next, _ = utf8.DecodeRuneInString(after[size:]); !goesOn(next) {
				next = ' '
			}
		}
		if !goesOn(before) && !strings.ContainsRune(".+%_-", before) && !goesOn(next) && next != '-' {
			return true
		}
		from++
	}
}

func goesOn(r rune) bool { return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r)) }
