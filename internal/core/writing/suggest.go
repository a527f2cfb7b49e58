package writing

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ebbe.example/ebbe/internal/core/letter"
)

// Past is a letter that was answered, and one's own answer to it; or a template, which stands
// for both.
type Past struct {
	Asked, Text string
	// To is who was answered.
	To letter.Address
	At time.Time
	// Letter is one's own answer, Template the template; the other is 0.
	Letter, Template int64
	// Name is the subject of the answer, or the name of the template.
	Name string
}

// Suggestion is a short answer that is proposed.
type Suggestion struct {
	Kind SuggestionKind `json:"kind" enum:"date,past,template,yes,no"`
	Text string         `json:"text"`
	// Fields stop sending until they are filled.
	Fields []string `json:"fields,omitempty" doc:"What has to be filled in before it goes"`
	// From says where it comes from, in words.
	From string `json:"from"`
	// Letter is the own answer, and Template the template, that it comes from.
	Letter   int64 `json:"letter,omitempty"`
	Template int64 `json:"template,omitempty"`
}

// SuggestionKind is where a suggestion comes from.
type SuggestionKind string

// The kinds of suggestions.
const (
	SuggestDate     SuggestionKind = "date"     // an offered date against the calendar
	SuggestPast     SuggestionKind = "past"     // an own answer to a letter like this one
	SuggestTemplate SuggestionKind = "template" // a template that is like this letter
	SuggestYes      SuggestionKind = "yes"      // a question that is answered by yes or no
	SuggestNo       SuggestionKind = "no"
)

const (
	// mostSuggested is how many answers are proposed.
	mostSuggested = 3
	// likeEnough is the least likeness, from 0 to 1, of a letter with one that was answered.
	likeEnough = 0.4
	// leastCommon is how many content words two letters share at least: short letters are soon
	// alike.
	leastCommon = 3
	// longestSuggested is the longest text that is proposed, in characters.
	longestSuggested = 600
	// mostOpen is how many fields an answer may need: with more of them it saves nothing.
	mostOpen = 4
	// comparedText is how much of a letter is compared, in bytes.
	comparedText = 4000
)

// Offered is a date that a letter offers.
type Offered struct {
	Words string // as it is said: “Friday 27 November, 10:00”
	// Busy tells that the calendar has something then.
	Busy bool
}

// Asking is a letter that is answered, as far as suggestions go.
type Asking struct {
	Text  string // what its writer wrote, without what they quote
	From  letter.Address
	Asks  []string
	Dates []Offered // that it asks about, in their order
	// Mine is the name of whoever answers.
	Mine letter.Address
}

// Suggest proposes up to three short answers to a letter: what an offered date is against the
// calendar, what was answered to letters like it (the cosine of tf-idf is at least 0.4), what a
// template has, and yes or no. What an earlier answer told of its own letter (names, addresses,
// numbers, dates, links) is a field, unless this letter has it too.
func Suggest(l Asking, past []Past) []Suggestion {
	var out []Suggestion
	add := func(s Suggestion) {
		said := func(o Suggestion) bool { return plain(o.Text) == plain(s.Text) }
		if len(out) < mostSuggested && s.Text != "" && !slices.ContainsFunc(out, said) {
			out = append(out, s)
		}
	}
	if len(l.Dates) > 0 {
		d := l.Dates[0]
		if d.Busy {
			add(Suggestion{Kind: SuggestDate, Text: d.Words + " does not suit me, I am taken then. Would {date} do?", Fields: []string{"date"}, From: "Your calendar has something then."})
		} else {
			add(Suggestion{Kind: SuggestDate, Text: d.Words + " suits me.", From: "Your calendar is free then."})
		}
	}
	for _, p := range likest(l, past) {
		add(p)
	}
	for _, ask := range l.Asks {
		if yes, no := yesOrNo(ask); yes != "" {
			add(Suggestion{Kind: SuggestYes, Text: yes, From: "They ask: " + ask})
			add(Suggestion{Kind: SuggestNo, Text: no, From: "They ask: " + ask})
			break
		}
	}
	return out
}

// likest are the answers to the letters that are like one, the likest first; at most two, so
// that there is room for another thought.
func likest(l Asking, past []Past) []Suggestion {
	const most = 2
	weigh := weights(l.Text, past)
	ordinary := ordinaryWords(past)
	mine := weigh(l.Text)
	type scored struct {
		Suggestion
		like float64
		at   time.Time
	}
	var all []scored
	for _, p := range past {
		theirs := weigh(p.Asked)
		like := cosine(mine, theirs)
		if like < likeEnough || inCommon(mine, theirs) < leastCommon {
			continue
		}
		if s, ok := suggestion(l, p, ordinary); ok {
			all = append(all, scored{s, like, p.At})
		}
	}
	slices.SortStableFunc(all, func(a, b scored) int {
		return cmp.Or(cmp.Compare(b.like, a.like), b.at.Compare(a.at))
	})
	var out []Suggestion
	for _, s := range all {
		same := func(o Suggestion) bool { return plain(o.Text) == plain(s.Text) }
		if len(out) < most && !slices.ContainsFunc(out, same) {
			out = append(out, s.Suggestion)
		}
	}
	return out
}

// suggestion is an earlier answer as one to this letter.
func suggestion(l Asking, p Past, ordinary map[string]bool) (Suggestion, bool) {
	s := Suggestion{Kind: SuggestPast, Letter: p.Letter, Template: p.Template, From: fmt.Sprintf("Your answer to %s of %s", p.To.Display(), p.At.Format("2 January 2006"))}
	written := FillIn(Greeted(p.Text, p.To), Values{FirstName: l.From.FirstName()})
	if p.Template != 0 {
		s.Kind, s.From, s.Text, s.Fields = SuggestTemplate, "Your template “"+p.Name+"”", p.Text, Fields(p.Text)
		return s, len([]rune(s.Text)) <= longestSuggested
	}
	s.Text, s.Fields = opened(written, l, ordinary)
	return s, s.Text != "" && len([]rune(s.Text)) <= longestSuggested && len(s.Fields) <= mostOpen
}

const months = `january|february|march|april|may|june|july|august|september|october|november|december|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec`

// telling are the parts of a text that tell of one letter alone, and what the field for each
// is called; what is found first is the longest that begins there.
var telling = regexp.MustCompile(`(?i)(?P<link>\b(?:https?://|www\.)[^\s<>]+[^\s<>.,;:!?)\]])|(?P<address>[\w.+-]+@[\w-]+(?:\.[\w-]+)+)|` +
	`(?P<date>\b(?:(?:mon|tues|wednes|thurs|fri|satur|sun)day\b(?:,?\s+(?:the\s+)?\d{1,2}(?:st|nd|rd|th)?\b(?:\s+(?:of\s+)?(?:` + months + `)\b)?)?|\d{4}-\d\d-\d\d\b|\d{1,2}(?:st|nd|rd|th)?\s+(?:of\s+)?(?:` + months + `)\b(?:\s+\d{4}\b)?|(?:` + months + `)\s+\d{1,2}(?:st|nd|rd|th)?\b|\d{1,2}[./]\d{1,2}[./]\d{2,4}\b|today\b|tonight\b|tomorrow\b))|` +
	`(?P<time>\b\d{1,2}[:.]\d\d\b|\b\d{1,2}\s?[ap]m\b)|(?P<number>[#+]?\d[\d.,/ -]*\d\b|\b\d+\b)`)

// aField is a field that stands in a text already.
var aField = regexp.MustCompile(`^\{[^{}]*\}`)

// opened makes fields of what an earlier answer tells of its own letter and this letter does
// not have.
func opened(text string, l Asking, ordinary map[string]bool) (string, []string) {
	known := strings.ToLower(l.Text)
	names := map[string]string{} // the field of what was found, by what it was
	used := map[string]int{}
	put := func(kind, found string) string {
		if f := names[found]; f != "" {
			return f
		}
		used[kind]++
		name := kind
		if n := used[kind]; n > 1 {
			name = fmt.Sprintf("%s %d", kind, n)
		}
		names[found] = "{" + name + "}"
		return names[found]
	}
	text = telling.ReplaceAllStringFunc(text, func(found string) string {
		if strings.Contains(known, strings.ToLower(found)) {
			return found
		}
		m := telling.FindStringSubmatch(found)
		for i, kind := range telling.SubexpNames() {
			if kind != "" && i < len(m) && m[i] != "" {
				return put(kind, found)
			}
		}
		return put("number", found)
	})
	text = openNames(text, l, ordinary, put)
	return strings.TrimSpace(text), Fields(text)
}

// openNames makes fields of names that neither this letter nor its people have: capitalised
// words within a sentence, and those at its start that nobody writes small.
func openNames(text string, l Asking, ordinary map[string]bool, put func(kind, found string) string) string {
	known := map[string]bool{"i": true}
	for _, some := range []string{l.Text, l.From.Name, l.Mine.Name} {
		for _, w := range letter.Words(some) {
			known[w] = true
		}
	}
	named := func(word string, begins bool) bool {
		return unicode.IsUpper([]rune(word)[0]) && slices.ContainsFunc(letter.Words(word), func(w string) bool {
			return len(w) > 1 && !known[w] && !(begins && (ordinary[w] || slices.Contains(empty, w) || slices.Contains(starters, w)))
		})
	}
	var out strings.Builder
	begins := true // a sentence
	for i := 0; i < len(text); {
		if f := aField.FindString(text[i:]); f != "" {
			out.WriteString(f)
			i, begins = i+len(f), false
			continue
		}
		word := text[i:]
		if end := strings.IndexFunc(word, func(r rune) bool { return !inWord(r) && r != '’' && r != '\'' && r != '-' }); end >= 0 {
			word = word[:end]
		}
		if word == "" {
			r, size := utf8.DecodeRuneInString(text[i:])
			begins = begins && !inWord(r) || strings.ContainsRune(".!?\n:", r)
			out.WriteString(text[i : i+size])
			i += size
			continue
		}
		if named(word, begins) {
			out.WriteString(put("name", word))
		} else {
			out.WriteString(word)
		}
		i, begins = i+len(word), false
	}
	return out.String()
}

// starters are words that begin a sentence with a capital and are no names, beside those that
// say little anywhere.
var starters = strings.Fields(`afraid all always an and any apologies are as ask at attached best both but by can certainly cheers come course could did do does
	each every everything feel find first for glad gladly good great greetings had happy has have he hello her hi his how however if in is it its
	kind last let many may mine most my never next nice no nobody not nothing of ok okay on once one or our perfect see shall she sincerely so sorry
	sure thank thanks the three to tomorrow today two unfortunately us we welcome who why with wonderful yes yesterday you`)

// ordinaryWords are those that are written small somewhere: they are no names.
func ordinaryWords(past []Past) map[string]bool {
	out := map[string]bool{}
	for _, p := range past {
		for _, text := range []string{p.Asked, p.Text} {
			for _, w := range strings.FieldsFunc(text[:min(len(text), comparedText)], func(r rune) bool { return !inWord(r) }) {
				if lower := strings.ToLower(w); w == lower {
					out[lower] = true
				}
			}
		}
	}
	return out
}

// weights gives the tf-idf of a text's content words, weighed by how many of the letters that
// are compared have them: ln((1+n)/(1+df)) + 1, of a length of 1.
func weights(one string, past []Past) func(text string) map[string]float64 {
	stems := func(text string) []string { return contents(text[:min(len(text), comparedText)]).words }
	df := map[string]int{}
	count := func(text string) {
		seen := map[string]bool{}
		for _, w := range stems(text) {
			if !seen[w] {
				seen[w] = true
				df[w]++
			}
		}
	}
	count(one)
	for _, p := range past {
		count(p.Asked)
	}
	n := float64(len(past) + 1)
	return func(text string) map[string]float64 {
		out := map[string]float64{}
		for _, w := range stems(text) {
			out[w]++
		}
		length := 0.0
		for w, tf := range out {
			out[w] = tf * (math.Log((1+n)/(1+float64(df[w]))) + 1)
			length += out[w] * out[w]
		}
		for w := range out {
			out[w] /= math.Sqrt(length)
		}
		return out
	}
}

// Telling are the content words of a text, as the full text has them, each once, the longest
// first, which are the rarest: the words by which letters like it are looked for.
func Telling(text string, most int) []string {
	var out []string
	for _, w := range letter.Words(text[:min(len(text), comparedText)]) {
		if len(w) >= 4 && len(w) < 40 && !slices.Contains(empty, w) && !slices.Contains(out, w) && !strings.ContainsFunc(w, unicode.IsDigit) {
			out = append(out, w)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return cmp.Compare(len(b), len(a)) })
	return out[:min(len(out), most)]
}

func inCommon(a, b map[string]float64) (n int) {
	for w := range a {
		if b[w] > 0 {
			n++
		}
	}
	return n
}

func cosine(a, b map[string]float64) (sum float64) {
	for w, x := range a {
		sum += x * b[w]
	}
	return sum
}

// deadline is what makes a date one by which something is to be done, or no day at all.
var deadline = regexp.MustCompile(`(?i)\b(by|before|until|till|latest|no later than|due|deadline|since|from|week of|month of)\b`)

// aDay is a day by its name or date; a clock time alone is one of a day that stands elsewhere.
var aDay = regexp.MustCompile(`(?i)\b(?:mon|tues|wednes|thurs|fri|satur|sun)day\b|\b(?:today|tonight|tomorrow)\b|\b\d{1,2}(?:st|nd|rd|th)?\s+(?:of\s+)?(?:` + months + `)\b|\b(?:` + months + `)\s+\d{1,2}\b|\d{4}-\d\d-\d\d|\b\d{1,2}[./]\d{1,2}\b`)

// Offers tells whether a sentence that names a date offers it as a day, rather than setting it.
func Offers(ask string) bool {
	return strings.Contains(ask, "?") && aDay.MatchString(ask) && !deadline.MatchString(ask)
}

var (
	// feeling are verbs that are no doing: “would you like to” is not answered by “I will like to”.
	feeling  = regexp.MustCompile(`(?i)^(like|love|care|mind|have|be|prefer|say|think|know|need|want|remember|imagine)\b`)
	canYou   = regexp.MustCompile(`(?i)^(?:and |so |also,? )?(?:can|could|will|would) you (?:please |kindly |possibly )?([\p{Ll}][^?.!;:\n]{2,100})\?$`)
	yesOrNot = regexp.MustCompile(`(?i)^(?:and |so |but |also,? )?(is|are|was|were|do|does|did|can|could|will|would|shall|should|may|might|has|have|had)(?:n['’]t)? \S[^\n]*\?$`)
	either   = regexp.MustCompile(`(?i)\bor\b`)
	persons  = regexp.MustCompile(`(?i)\b(yours?|my|mine|me|us|our|ours|you|i|we)\b`)
)

// asTold are the words for people as the other one says them.
var asTold = map[string]string{"your": "my", "yours": "mine", "my": "your", "mine": "yours", "me": "you", "us": "you", "our": "your", "ours": "yours", "you": "me", "i": "you", "we": "you"}

// yesOrNo are the two answers to a question that is answered so; nothing for another one.
func yesOrNo(ask string) (yes, no string) {
	ask = strings.TrimSpace(ask)
	if !yesOrNot.MatchString(ask) || either.MatchString(ask) {
		return "", ""
	}
	if m := canYou.FindStringSubmatch(ask); m != nil && !feeling.MatchString(m[1]) {
		what := persons.ReplaceAllStringFunc(m[1], func(w string) string { return asTold[strings.ToLower(w)] })
		return "Yes, I will " + what + ".", "I’m afraid I can’t " + what + "."
	}
	return "Yes.", "No, I’m afraid not."
}
