package writing

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
)

// Ask is something that the answered letter asks, and whether the answer covers it.
type Ask struct {
	Text    string `json:"text"`
	Covered bool   `json:"covered"`
	// Line is the line of the text that covers it, from 1; 0 where none in particular does.
	Line int `json:"line,omitempty" doc:"The line of the text that covers it, from 1; 0 where none in particular does"`
}

// Covers tells which asks of a letter an answer covers: one whose content words the answer
// takes up, at least half of them, or a number or date; one below whose quotation something
// stands; and a single one by any sentence at all.
func Covers(asks []string, text string) []Ask {
	out := make([]Ask, len(asks))
	own := ownLines(text)
	below := answeredBelow(text)
	said, _ := findings.Ask(letter.Unquoted(text))
	for i, ask := range asks {
		out[i].Text = ask
		want := contents(ask)
		half := (len(want.words) + 1) / 2
		for n, line := range own {
			if line == "" {
				continue
			}
			have := contents(line)
			if want.words != nil && shared(want.words, have.words) >= half || shared(want.numbers, have.numbers) > 0 {
				out[i].Covered, out[i].Line = true, n+1
				break
			}
		}
		if at, ok := below(ask); ok && !out[i].Covered {
			out[i].Covered, out[i].Line = true, at
		}
		if len(asks) == 1 && said != "" {
			out[i].Covered = true
		}
	}
	return out
}

// ownLines are the lines of a text; those that are quoted, or of the signature, are empty.
func ownLines(text string) []string {
	written, _ := letter.CutSignature(text)
	lines := strings.Split(written, "\n")
	for i, line := range lines {
		if strings.HasPrefix(line, ">") {
			lines[i] = ""
		}
	}
	return lines
}

// answeredBelow tells of a sentence whether it is quoted and something of one's own stands
// right below, and in which line that begins.
func answeredBelow(text string) func(sentence string) (line int, ok bool) {
	type stretch struct {
		quoted string
		line   int
	}
	var all []stretch
	quoted, open := "", false
	written, _ := letter.CutSignature(text)
	for i, line := range strings.Split(written, "\n") {
		switch rest, is := strings.CutPrefix(line, ">"); {
		case is && open:
			quoted += " " + strings.TrimSpace(rest)
		case is:
			quoted, open = strings.TrimSpace(rest), true
		case strings.TrimSpace(line) != "":
			if quoted != "" {
				all = append(all, stretch{plain(quoted), i + 1})
			}
			quoted, open = "", false
		}
	}
	return func(sentence string) (int, bool) {
		for _, s := range all {
			// Only the end of what is quoted is what is answered.
			if p := plain(sentence); p != "" && strings.HasSuffix(s.quoted, p) {
				return s.line, true
			}
		}
		return 0, false
	}
}

// plain is text by its letters and digits alone, so that line breaks make no difference.
func plain(text string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}

// content is what a sentence is about: its content words by their stems, and its numbers
// and dates.
type content struct{ words, numbers []string }

// calendarName are the names by which dates are told.
var calendarName = regexp.MustCompile(`^(mon|tues|wednes|thurs|fri|satur|sun)day$|^(january|february|march|april|june|july|august|september|october|november|december)$|^(today|tomorrow)$`)

// empty are words that say nothing of what a sentence is about.
var empty = strings.Fields(`about after again also anything around asap because been before being best both could dear does doing done from give
	going have hello here into just kindly know like look made make many maybe much need only other over please really regards reply said
	same send should some something soon still sure take tell than thank thanks that their them then there these they thing think this
	those through time until upon very want well were what when where whether which while will with would your yours`)

// stemLength is how many letters of a word count: “crate” is “crates”, and “confirm”
// “confirmed”.
const stemLength = 5

func contents(sentence string) (c content) {
	for _, w := range strings.Fields(plain(sentence)) {
		switch {
		case calendarName.MatchString(w), strings.ContainsFunc(w, unicode.IsDigit):
			c.numbers = append(c.numbers, w)
		case len([]rune(w)) >= 4 && !slices.Contains(empty, w):
			stem := []rune(w)
			c.words = append(c.words, strings.TrimSuffix(string(stem[:min(len(stem), stemLength)]), "s"))
		}
	}
	return c
}

// shared counts what two lists have in common, each once.
func shared(a, b []string) (n int) {
	for i, w := range a {
		if slices.Contains(b, w) && !slices.Contains(a[:i], w) {
			n++
		}
	}
	return n
}
