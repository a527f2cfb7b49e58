package writing

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
)

// field is where a text is filled in when it is used: “{first name}”.
var field = regexp.MustCompile(`\{([\p{L}\p{N}][^{}\r\n]{0,59})\}`)

// MostFields is how many fields of a text are asked for; what goes beyond is text.
const MostFields = 40

// Fields are the names of the fields of a text, each once, in their order.
func Fields(text string) []string {
	var out []string
	for _, m := range field.FindAllStringSubmatch(text, -1) {
		if name := fieldName(m[1]); !slices.Contains(out, name) && len(out) < MostFields {
			out = append(out, name)
		}
	}
	return out
}

// fieldName is a field's name however it was spaced and cased.
func fieldName(typed string) string { return strings.ToLower(strings.Join(strings.Fields(typed), " ")) }

// Values are what the fields of a text are filled with; what is empty is not known.
type Values struct {
	// FirstName is what {first name} is, MyName what {my name} is. Of the letter that is written about,
	// Ask is what {ask} is, Letter what it is called ({letter}), Sender who wrote it ({sender}).
	FirstName, MyName, Ask, Letter, Sender string
	// Date says a phrase as a date, as {date: fri} has one; false for what is none.
	Date func(phrase string) (words string, ok bool)
}

// FillIn fills the fields of a text that it has values for; the others stay, by their names as
// Fields gives them.
func FillIn(text string, v Values) string {
	return field.ReplaceAllStringFunc(text, func(whole string) string {
		name := fieldName(whole[1 : len(whole)-1])
		return cmp.Or(v.of(name), "{"+name+"}")
	})
}

func (v Values) of(name string) string {
	switch name {
	case "first name":
		return oneLine(v.FirstName)
	case "my name":
		return oneLine(v.MyName)
	case "ask":
		return oneLine(v.Ask)
	case "letter":
		return oneLine(v.Letter)
	case "sender":
		return oneLine(v.Sender)
	}
	if phrase, is := strings.CutPrefix(name, "date:"); is && v.Date != nil {
		if words, ok := v.Date(strings.TrimSpace(phrase)); ok {
			return words
		}
	}
	return ""
}

// oneLine keeps a value from breaking the line that it is put into: a subject is one.
func oneLine(value string) string { return strings.Join(strings.Fields(value), " ") }

// Unfilled are those of a letter's fields that still stand in its subject or text. What is in
// braces and was never a field is text.
func Unfilled(subject, text string, fields []string) []string {
	there := Fields(subject + "\n" + text)
	return slices.DeleteFunc(slices.Clone(there), func(name string) bool {
		return !slices.ContainsFunc(fields, func(f string) bool { return fieldName(f) == name })
	})
}

// Greeted makes a text that was written to somebody one for anybody: their first name becomes
// a field. The quotation and the signature are left out.
func Greeted(text string, to letter.Address) string {
	written, _ := letter.CutSignature(letter.Unquoted(text))
	written = strings.TrimSpace(written)
	if name := to.FirstName(); len([]rune(name)) > 1 && !strings.Contains(name, "@") {
		written = swapWord(written, name, "{first name}")
	}
	return written
}

// swapWord puts something in the place of a word or words wherever they stand by themselves.
func swapWord(text, words, instead string) string {
	var out strings.Builder
	from := 0
	for words != "" {
		at := strings.Index(text[from:], words)
		if at < 0 {
			break
		}
		at += from
		end := at + len(words)
		before, _ := utf8.DecodeLastRuneInString(text[:at])
		after, _ := utf8.DecodeRuneInString(text[end:])
		out.WriteString(text[from:at])
		if inWord(before) || inWord(after) {
			out.WriteString(words)
		} else {
			out.WriteString(instead)
		}
		from = end
	}
	out.WriteString(text[from:])
	return out.String()
}

func inWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
