// Package findings reads out of a letter what it wants of its reader. This
// first form finds one sentence: what the letter asks.
package findings

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

var (
	requests = regexp.MustCompile(`(?i)\b(please|kindly|could you|can you|would you|will you|would you mind|we need you|i need you|i need|let me know|let us know|asks? you|remind(er|ing) you|you (have|need) to|don't forget|do not forget|waiting for your|need your|by return|confirm|approve|reply by|answer by|sign and return|rsvp)\b`)
	greeting = regexp.MustCompile(`(?i)^(dear|hi|hello|hei|hallo|good (morning|afternoon|evening|day)|kjære|hey|thanks|thank you|many thanks)\b[^.?!]{0,40}[,.!]?$`)
	closing  = regexp.MustCompile(`(?i)^(kind|best|warm|many)?\s*(regards|wishes|greetings|cheers|yours|sincerely|hilsen|mvh|groet)\b`)
	// A name by itself, as below a letter.
	name = regexp.MustCompile(`^(\p{Lu}\.|\p{Lu}[\p{L}’'-]*( \p{Lu}[\p{L}’'-]*){0,2})$`)
	// Politeness that asks for nothing.
	courtesy = regexp.MustCompile(`(?i)(please find|if you have any (further )?questions|please do not (reply|hesitate)|please don't hesitate|feel free|let me know if you have any|thank you for)`)
)

// maxSentence is the length, in characters, at which a sentence is cut.
const maxSentence = 240

// Ask is the first sentence of a letter's own text that asks or requests
// something. asks is false when none does; then it is the first sentence.
func Ask(text string) (sentence string, asks bool) {
	first, polite, rest := "", "", ""
	for _, s := range sentences(text) {
		if isCall(s) || closing.MatchString(s) || !strings.ContainsFunc(s, unicode.IsLetter) {
			continue
		}
		if name.MatchString(s) {
			rest = cmp.Or(rest, s) // all that a letter says may be a name
			continue
		}
		if greeting.MatchString(s) {
			if polite == "" && strings.HasSuffix(s, ".") {
				polite = s // all that a letter says may be thanks
			}
			continue
		}
		if first == "" {
			first = s
		}
		if isAsk(s) {
			return cut(s), true
		}
	}
	return cut(cmp.Or(first, polite, rest)), false
}

// AskOf is the ask of a letter, in its own text or else in its subject. One to
// a list asks nobody in particular, and one that says only that its sender is
// away asks nothing that is to be done.
func AskOf(l letter.Letter) (sentence string, asks bool) {
	sentence, asks = Ask(letter.Unquoted(cmp.Or(l.Text, l.Subject)))
	switch l.Automatic {
	case letter.List, letter.Bulk, letter.AutoReply:
		return sentence, false
	}
	return sentence, asks
}

// isCall tells a greeting that is only a name: "Ines,".
func isCall(s string) bool { return len(s) < 30 && strings.HasSuffix(s, ",") }

func isAsk(s string) bool {
	return (strings.HasSuffix(s, "?") || isRequest(s)) && !courtesy.MatchString(s)
}

// requestStems are what every request has one of. It is looked for before the regular
// expression is asked, which every sentence of every letter would be.
var requestStems = []string{"you", "please", "kindly", "i need", "know", "forget", "by return", "confirm", "approve", "reply by", "answer by", "sign and return", "rsvp"}

func isRequest(s string) bool {
	lower := strings.ToLower(s)
	return slices.ContainsFunc(requestStems, func(stem string) bool { return strings.Contains(lower, stem) }) && requests.MatchString(s)
}

// sentences cuts a text at full stops, question and exclamation marks and
// blank lines, and joins lines that were only wrapped. It reads no further
// than a reader's first glance would.
func sentences(text string) []string {
	const glance = 6000
	if len(text) > glance {
		text = text[:glance]
	}
	var out []string
	for block := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n\n") {
		lines := strings.Split(block, "\n")
		var current strings.Builder
		flush := func() {
			if s := strings.TrimSpace(current.String()); s != "" {
				out = append(out, s)
			}
			current.Reset()
		}
		for _, line := range lines {
			line = strings.TrimSpace(line)
			// A short line on its own (a greeting, an item) ends what came before.
			if strings.HasPrefix(line, "- ") || strings.HasPrefix(line, "* ") || strings.HasPrefix(line, "•") {
				flush()
			}
			for _, word := range strings.Fields(line) {
				current.WriteByte(' ')
				current.WriteString(word)
				if endsSentence(word) {
					flush()
				}
			}
			if utf8.RuneCountInString(line) < 30 && strings.HasSuffix(line, ",") {
				flush()
			}
		}
		flush()
	}
	return out
}

func endsSentence(word string) bool {
	bare := strings.TrimRight(word, "\"'”’)]")
	if strings.HasSuffix(bare, "?") || strings.HasSuffix(bare, "!") {
		return true
	}
	return strings.HasSuffix(bare, ".") && !isAbbreviation(bare[:len(bare)-1])
}

// abbreviations end with a full stop that ends no sentence, as single letters do.
var abbreviations = map[string]bool{}

func init() {
	for a := range strings.FieldsSeq("dr mr mrs ms prof st no nr ca approx etc vs fig vol inc ltd jan feb mar apr jun jul aug sep sept oct nov dec") {
		abbreviations[a] = true
	}
}

// isAbbreviation tells whether what stands before a full stop ends with one.
func isAbbreviation(s string) bool {
	inWord := func(r rune) bool {
		return r == '_' || '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z'
	}
	last := s
	if i := strings.LastIndexFunc(s, func(r rune) bool { return !inWord(r) }); i >= 0 {
		_, size := utf8.DecodeRuneInString(s[i:])
		last = s[i+size:]
	}
	return len(last) == 1 && unicode.IsLetter(rune(last[0])) || abbreviations[strings.ToLower(last)]
}

func cut(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if utf8.RuneCountInString(s) <= maxSentence {
		return s
	}
	runes := []rune(s)[:maxSentence]
	if i := strings.LastIndexByte(string(runes), ' '); i > maxSentence/2 {
		return string(runes)[:i] + "…"
	}
	return string(runes) + "…"
}

var (
	leadIn = regexp.MustCompile(`(?i)^(so|and|but|also|now|then|therefore|if you (have time|can|could)|when you (have time|can)|for now),?\s+`)
	asking = regexp.MustCompile(`(?i)^(.*?\b)?(could you|can you|would you|will you|would you mind|i need you to|we need you to|you need to|you have to|please|kindly|don't forget to|do not forget to)\s+(please\s+|kindly\s+|also\s+)?`)
	toMe   = regexp.MustCompile(`(?i)^(tell|send|give|show|write|ring|bring|answer)\s+(me|us)\b`)
	tellMe = regexp.MustCompile(`(?i)^let (me|us) know\s+`)
)

// telling is a word that says what is to be done.
var telling = regexp.MustCompile(`[\p{L}\p{N}]{4,}`)

// Due is by when an ask wants it: the first time that it names; ok is false for
// none. written is when its letter was.
func Due(ask string, written, now time.Time, c when.Calendar) (due when.Reading, ok bool) {
	dates := Dates(ask, written, now, c)
	if len(dates) == 0 {
		return when.Reading{}, false
	}
	return dates[0].Reading, true
}

// Action phrases an ask as the title of a follow-up: "Can you confirm the
// four crate sizes?" becomes "Confirm the four crate sizes". Without an ask
// the subject serves.
func Action(ask string, asks bool, subject string) string {
	subject = strings.TrimSpace(subject)
	if !asks || ask == "" {
		if subject == "" {
			return "Answer this letter"
		}
		return "See to: " + subject
	}
	s := leadIn.ReplaceAllString(ask, "")
	if loc := asking.FindStringIndex(s); loc != nil && loc[1] < len(s) {
		s = s[loc[1]:]
	}
	s = toMe.ReplaceAllString(s, "$1 them")
	if loc := tellMe.FindStringIndex(s); loc != nil {
		s = "Tell them " + s[loc[1]:]
	} else if strings.HasSuffix(ask, "?") && s == ask {
		s = "Answer: " + s
	}
	s = strings.Trim(s, " .?!")
	if !telling.MatchString(s) {
		return "See to: " + cmp.Or(subject, "this letter") // "Please do." says nothing by itself
	}
	title := letter.Capital(s)
	if utf8.RuneCountInString(title) > 100 {
		title = string([]rune(title)[:99]) + "…"
	}
	return title
}
