package findings

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
)

// FoundKind is what was found in a letter beside what it asks, its days and its sums.
type FoundKind string

// The kinds.
const (
	Phone  FoundKind = "phone"  // a number to call
	Code   FoundKind = "code"   // one signs in with it
	Link   FoundKind = "link"   // one signs in by it
	NoFile FoundKind = "nofile" // a file is spoken of, and none came
)

// Found is something in a letter, with how it stands there.
type Found struct {
	Kind FoundKind
	// Quote is how it stands in the text, from From to To in bytes.
	Quote    string
	From, To int
	// Value is a number to dial, a code or an address; "" of a missing file.
	Value string
	// Until is how long it holds, as the letter says it: "for ten minutes"; "" where it doesn't.
	Until string
}

// mostPhones bounds how many numbers of a letter are told.
const mostPhones = 4

var (
	// A number is international (E.164), or stands behind a word for it.
	abroad  = regexp.MustCompile(`\+\d{1,3}(?:[ .\-/]?\(?\d{1,5}\)?){2,6}`)
	atHome  = regexp.MustCompile(`(?i)\b(?:tel|phone|telephone|mobile|cell|call|ring|telefon|tlf|mobil)\b\.?(?: (?:number|nummer|nr|no))?\.?:?[ \t]*(?:(?:me|us|on|at|meg|oss|på)[ \t]+){0,2}(\(?\d[\d ().\-/]{5,18}\d)`)
	holding = regexp.MustCompile(`(?i)\b(?:holds?|valid|expires?|works?|good|gjelder|gyldig|utløper|varer)\b(?: (?:only|kun|bare))? ((?:for|in|within|until|til|i|om) (?:\d{1,2}[:.]\d{2}|\d+|[\p{L}]+)(?: [\p{L}\d:]+){0,2})`)
	// announced are words that speak of a file that goes along.
	announced = regexp.MustCompile(`(?i)\b(attached|attachments?|enclosed|i attach|vedlagt|vedlegg|vedhæftet|bifogad|bifogat|bilaga|bijgevoegd|bijlage|im anhang|anbei|beigefügt|ci-joint|en pièce jointe|adjunto|allegat[oi])\b`)
)

// Announces is the word with which a text speaks of a file that goes along; "" for none.
func Announces(text string) string { return announced.FindString(text) }

// Finds are what one signs in with, numbers to call, and a file that is spoken of where none of so many came,
// in the order of the text.
func Finds(subject, text string, files int) []Found {
	var out []Found
	if s, ok := SignsIn(subject, text); ok {
		f := Found{Kind: Code, Quote: text[s.From:s.To], From: s.From, To: s.To, Value: s.Code}
		if s.Link != "" {
			f.Kind, f.Value = Link, s.Link
		}
		if m := holding.FindStringSubmatch(text); m != nil {
			f.Until = m[1]
		}
		out = append(out, f)
	}
	out = append(out, phones(text)...)
	if at := announced.FindStringIndex(text); at != nil && files == 0 {
		out = append(out, Found{Kind: NoFile, Quote: text[at[0]:at[1]], From: at[0], To: at[1]})
	}
	slices.SortStableFunc(out, func(a, b Found) int { return cmp.Compare(a.From, b.From) })
	return out
}

// phones are the first numbers to call, each once.
func phones(text string) (out []Found) {
	known := map[string]bool{}
	add := func(from, to int) {
		quote := strings.TrimRight(text[from:to], " .-/(")
		number := digitsOf(quote)
		if n := len(strings.TrimPrefix(number, "+")); n < 7 || n > 15 || known[number] || len(out) == mostPhones {
			return
		}
		known[number] = true
		out = append(out, Found{Kind: Phone, Quote: quote, From: from, To: from + len(quote), Value: number})
	}
	for _, at := range abroad.FindAllStringIndex(text, 3*mostPhones) {
		add(at[0], at[1])
	}
	for _, at := range atHome.FindAllStringSubmatchIndex(text, 3*mostPhones) {
		add(at[2], at[3])
	}
	return out
}

// digitsOf are the digits of a number as it is dialled, with the plus before it.
func digitsOf(quote string) string {
	var b strings.Builder
	for i, r := range quote {
		if r >= '0' && r <= '9' || r == '+' && i == 0 {
			b.WriteRune(r)
		}
	}
	return b.String()
}
