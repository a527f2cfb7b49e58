package followup

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Known are the names that a person uses already.
type Known struct {
	Projects, Contexts, People, Stages []string
}

// ChipKind is what a part of a captured line was taken for.
type ChipKind string

// The kinds of chips.
const (
	ChipDue      ChipKind = "due"
	ChipRemind   ChipKind = "remind"
	ChipPriority ChipKind = "priority"
	ChipProject  ChipKind = "project"
	ChipContext  ChipKind = "context"
	ChipEstimate ChipKind = "estimate"
	ChipRecurs   ChipKind = "recurs"
	ChipOwner    ChipKind = "owner"
	ChipStage    ChipKind = "stage"
	ChipNote     ChipKind = "note"
)

// Chip is a part of a captured line as it was understood.
type Chip struct {
	Kind ChipKind `json:"kind"`
	// Text is the part as typed, From where it begins in the line, in bytes.
	Text string `json:"text"`
	From int    `json:"from"`
	// Words say what it means; Trouble what is wrong with it.
	Words   string `json:"words"`
	Trouble string `json:"trouble,omitempty"`
}

// Captured is a line of plain words, read as a whole.
type Captured struct {
	Title    string
	Notes    string
	Span     *when.Span
	Remind   []Reminding
	Priority Priority
	Project  string
	Context  string
	Owner    string
	Stage    string
	Estimate time.Duration
	Recurs   *Recurrence
	Chips    []Chip
}

// Reminding is when to be reminded: at a moment, or so long before another.
type Reminding struct {
	Moment   *when.Moment   `json:"moment,omitempty"`
	Relative *when.Relative `json:"relative,omitempty"`
}

// MaxEstimate bounds an estimate.
const MaxEstimate = 10_000 * time.Minute

var (
	estimateIn = regexp.MustCompile(`^(?:about |ca\.? |~ ?|takes )?(\d{1,4}(?:[.,]\d)?|half an|an|a)\s*(minutes?|mins?|min|m|hours?|hrs?|h)$`)
	hoursAndIn = regexp.MustCompile(`^(\d{1,2})\s*(?:h|hours?)\s*(\d{1,2})\s*(?:m|min|minutes?)?$`)
	quoted     = regexp.MustCompile(`"[^"]*"|“[^”]*”`)
)

// Capture reads a line of plain words: `send lift height to Bram fri 10, high,
// for loan, by phone, 15 min`. What it can't place stays in the title; what
// stands in quotation marks does so always. With a known name a project may be
// written without "for", and a context without "by".
func Capture(line string, now time.Time, c when.Calendar, known Known) Captured {
	out := Captured{Priority: Normal}
	hidden := quoted.ReplaceAllStringFunc(line, func(s string) string {
		return strings.Repeat("\x01", len(s)) // as many bytes, so that places in the line stay
	})
	type part struct {
		from int
		text string
	}
	var parts []part
	from := 0
	for i := 0; i <= len(hidden); i++ {
		if i == len(hidden) || hidden[i] == ',' && !(i+1 < len(hidden) && hidden[i+1] >= '0' && hidden[i+1] <= '9' && i > 0 && hidden[i-1] >= '0' && hidden[i-1] <= '9') || hidden[i] == ';' {
			parts = append(parts, part{from, hidden[from:i]})
			from = i + 1
		}
	}
	var title []string
	for i, p := range parts {
		lead := len(p.text) - len(strings.TrimLeft(p.text, " \t"))
		text := strings.TrimSpace(p.text)
		if text == "" {
			continue
		}
		at := p.from + lead
		if i > 0 && out.take(text, at, now, c, known) {
			continue
		}
		// The time that ends a part: "send it to Bram fri 10".
		head, tail := out.trailing(text, now, c)
		if tail != "" {
			out.takeTime(tail, at+len(text)-len(tail), now, c)
		}
		if head != "" {
			title = append(title, restore(line, at, head))
		}
	}
	out.Title = strings.Join(title, ", ")
	for i := range out.Chips {
		out.Chips[i].Text = restore(line, out.Chips[i].From, out.Chips[i].Text)
	}
	return out
}

// restore gives the text of the line that was hidden, without its quotation
// marks.
func restore(line string, at int, text string) string {
	return strings.NewReplacer(`"`, "", "“", "", "”", "").Replace(line[at : at+len(text)])
}

func (out *Captured) chip(kind ChipKind, text string, from int, words string, err error) {
	chip := Chip{Kind: kind, Text: text, From: from, Words: words}
	if err != nil {
		chip.Trouble = err.Error()
	}
	out.Chips = append(out.Chips, chip)
}

// takers read one part of a line each; the first that can takes it.
func (out *Captured) take(text string, at int, now time.Time, c when.Calendar, known Known) bool {
	low := strings.ToLower(text)
	if p, ok := priorityOf(low); ok {
		out.Priority = p
		out.chip(ChipPriority, text, at, string(p), nil)
		return true
	}
	if d, ok := EstimateOf(low); ok {
		out.Estimate = d
		out.chip(ChipEstimate, text, at, short(d), nil)
		return true
	}
	if IsRecurrence(low) {
		r, err := ReadRecurrence(text, now, c)
		if err == nil {
			out.Recurs = &r
		}
		out.chip(ChipRecurs, text, at, r.String(), err)
		return true
	}
	if rest, ok := cutWord(text, "remind me", "remind", "reminder"); ok {
		out.remind(text, rest, at, now, c)
		return true
	}
	if rest, ok := cutWord(text, "note:", "notes:", "note"); ok {
		out.Notes = strings.TrimSpace(out.Notes + "\n" + rest)
		out.chip(ChipNote, text, at, rest, nil)
		return true
	}
	if rest, ok := cutWord(text, "owner", "owned by", "whose", "done by"); ok && rest != "" {
		out.Owner = completed(rest, known.People)
		out.chip(ChipOwner, text, at, out.Owner, nil)
		return true
	}
	if rest, ok := cutWord(text, "stage", "in stage"); ok && rest != "" {
		if s := exact(rest, known.Stages); s != "" {
			out.Stage = s
			out.chip(ChipStage, text, at, s, nil)
			return true
		}
	}
	if s := exact(text, known.Stages); s != "" {
		out.Stage = s
		out.chip(ChipStage, text, at, s, nil)
		return true
	}
	if out.Span == nil {
		if s, err := when.ReadSpan(text, now, c); err == nil {
			out.span(text, at, s, now, c)
			return true
		}
	}
	if rest, ok := cutWord(text, "for", "project"); ok && rest != "" && !strings.Contains(rest, "\x01") {
		out.Project = completed(rest, known.Projects)
		out.chip(ChipProject, text, at, out.Project, nil)
		return true
	}
	if s := exact(text, known.Projects); s != "" {
		out.Project = s
		out.chip(ChipProject, text, at, s, nil)
		return true
	}
	if rest, ok := cutWord(text, "by", "at", "on", "in", "with", "context"); ok && rest != "" && len(strings.Fields(rest)) <= 3 && !strings.Contains(rest, "\x01") {
		out.Context = completed(rest, known.Contexts)
		out.chip(ChipContext, text, at, strings.ToLower(text[:len(text)-len(rest)])+out.Context, nil)
		return true
	}
	if s := exact(text, known.Contexts); s != "" {
		out.Context = s
		out.chip(ChipContext, text, at, s, nil)
		return true
	}
	return false
}

func (out *Captured) remind(text, rest string, at int, now time.Time, c when.Calendar) {
	r, words, err := ReadReminding(rest, now, c)
	if err == nil {
		out.Remind = append(out.Remind, r)
	}
	out.chip(ChipRemind, text, at, words, err)
}

// ReadReminding understands when to be reminded: "thu 10", "1 day before at
// 10", "when due".
func ReadReminding(phrase string, now time.Time, c when.Calendar) (Reminding, string, error) {
	if rel, ok, err := when.ReadRelative(phrase, c); ok {
		return Reminding{Relative: &rel}, rel.String(), err
	}
	r, err := when.Read(phrase, now, c)
	if err != nil {
		return Reminding{}, "", err
	}
	if r.Precision == when.Open {
		return Reminding{}, "", errors.New("a reminder needs a time")
	}
	return Reminding{Moment: &r.Moment}, when.Speak(r.Moment, now, c), nil
}

func (out *Captured) span(text string, at int, s when.Span, now time.Time, c when.Calendar) {
	out.Span = &s
	out.chip(ChipDue, text, at, SpeakSpan(s, now, c), nil)
}

// SpeakSpan puts a span into words.
func SpeakSpan(s when.Span, now time.Time, c when.Calendar) string {
	due := when.Speak(s.Due.Moment, now, c)
	if s.Start == nil {
		return due
	}
	return when.Speak(s.Start.Moment, now, c) + " to " + due
}

func (out *Captured) takeTime(text string, at int, now time.Time, c when.Calendar) {
	if IsRecurrence(strings.ToLower(text)) {
		r, err := ReadRecurrence(text, now, c)
		if err == nil {
			out.Recurs = &r
		}
		out.chip(ChipRecurs, text, at, r.String(), err)
		return
	}
	if s, err := when.ReadSpan(text, now, c); err == nil {
		out.span(text, at, s, now, c)
	}
}

// longestTime bounds how many words at the end of a part are tried as a time.
const longestTime = 7

// trailing parts what is to be done from the time that ends it. A lone number
// is no time, for it counts something; neither is a word that only looks like
// one ("second", "may" as a verb stay where a sentence has them).
func (out *Captured) trailing(text string, now time.Time, c when.Calendar) (head, tail string) {
	words := strings.Fields(text)
	for n := min(longestTime, len(words)-1); n > 0; n-- {
		first := words[len(words)-n]
		i := strings.LastIndex(text, first)
		for n > 1 && i >= 0 && len(strings.Fields(text[i:])) != n {
			i = strings.LastIndex(text[:i], first)
		}
		if i <= 0 {
			continue
		}
		tail := text[i:]
		if IsRecurrence(strings.ToLower(tail)) && out.Recurs == nil {
			if _, err := ReadRecurrence(tail, now, c); err == nil {
				return strings.TrimSpace(text[:i]), tail
			}
		}
		if out.Span != nil || !timely(words[len(words)-n:]) {
			continue
		}
		if _, err := when.ReadSpan(tail, now, c); err == nil {
			return strings.TrimSpace(text[:i]), tail
		}
	}
	return text, ""
}

var looseNumber = regexp.MustCompile(`^\d+$`)

// timely tells whether words may be meant as a time by somebody who wrote them
// at the end of a sentence.
func timely(words []string) bool {
	first := strings.ToLower(words[0])
	switch {
	case len(words) == 1 && (looseNumber.MatchString(first) || first == "second" || first == "may" || first == "march" || first == "then" || first == "now" || first == "one"):
		return false
	case looseNumber.MatchString(first) && len(words) == 2 && (words[1] == "h" || words[1] == "min" || words[1] == "m"):
		return false // a length, which is an estimate
	case first == "and" || first == "or" || first == "the" && len(words) == 1 || first == "a":
		return false
	}
	return true
}

func priorityOf(text string) (Priority, bool) {
	text = strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(text, "priority "), " priority"))
	switch text {
	case "urgent", "asap":
		return Urgent, true
	case "high", "important":
		return High, true
	case "normal", "medium":
		return Normal, true
	case "low":
		return Low, true
	}
	return "", false
}

// EstimateOf reads a length of work: "15 min", "1.5 h", "1h30".
func EstimateOf(text string) (time.Duration, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if m := hoursAndIn.FindStringSubmatch(text); m != nil {
		h, _ := strconv.Atoi(m[1])
		min, _ := strconv.Atoi(m[2])
		return time.Duration(h)*time.Hour + time.Duration(min)*time.Minute, true
	}
	m := estimateIn.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	unit := time.Minute
	if strings.HasPrefix(m[2], "h") {
		unit = time.Hour
	}
	n := map[string]float64{"an": 1, "a": 1, "half an": 0.5}[m[1]]
	if n == 0 {
		n, _ = strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
	}
	d := time.Duration(n * float64(unit))
	return d, d > 0 && d <= MaxEstimate
}

// cutWord takes one of several openers off a text.
func cutWord(text string, openers ...string) (rest string, ok bool) {
	low := strings.ToLower(text)
	for _, o := range openers {
		if strings.HasPrefix(low, o+" ") || strings.HasSuffix(o, ":") && strings.HasPrefix(low, o) {
			return strings.TrimSpace(text[len(o):]), true
		}
	}
	return "", false
}

// exact is the known name that a text is, whatever its case.
func exact(text string, known []string) string {
	for _, k := range known {
		if strings.EqualFold(strings.TrimSpace(text), k) {
			return k
		}
	}
	return ""
}

// completed is the known name that a text is or that alone begins with it; the
// text itself where that is new.
func completed(text string, known []string) string {
	text = strings.Join(strings.Fields(text), " ")
	if k := exact(text, known); k != "" {
		return k
	}
	low := strings.ToLower(text)
	i := slices.IndexFunc(known, func(k string) bool { return strings.HasPrefix(strings.ToLower(k), low) })
	if i < 0 || len(low) < 3 || slices.ContainsFunc(known[i+1:], func(k string) bool { return strings.HasPrefix(strings.ToLower(k), low) }) {
		return text
	}
	return known[i]
}

// Times are what a flag can be given in one phrase.
type Times struct {
	Span   *when.Span
	Remind []Reminding
	// Words say what they mean, Phrase is them in full.
	Words, Phrase string
}

// ReadTimes understands a due, or a range from start to due, with reminders:
// "tomorrow to fri, remind thu 10". The error is meant for the person.
func ReadTimes(phrase string, now time.Time, c when.Calendar) (Times, error) {
	var t Times
	var words, full []string
	for part := range strings.SplitSeq(phrase, ",") {
		part = strings.TrimSpace(part)
		if part == "" {
			continue
		}
		if rest, ok := cutWord(part, "remind me", "remind", "reminder"); ok {
			r, said, err := ReadReminding(rest, now, c)
			if err != nil {
				return t, err
			}
			t.Remind = append(t.Remind, r)
			words, full = append(words, "reminder "+said), append(full, "remind "+r.Phrase(c))
			continue
		}
		if t.Span != nil {
			return t, fmt.Errorf("“%s” would be a second due time", part)
		}
		s, err := when.ReadSpan(part, now, c)
		if err != nil {
			return t, err
		}
		t.Span = &s
		words, full = append(words, SpeakSpan(s, now, c)), append(full, s.Canonical())
	}
	if t.Span == nil && len(t.Remind) == 0 {
		return t, errors.New("type a time, such as “fri 2pm” or “tomorrow to fri, remind thu 10”")
	}
	t.Words, t.Phrase = strings.Join(words, ", "), strings.Join(full, ", ")
	return t, nil
}

// Phrase is the reminder in full; it reads to the same again.
func (r Reminding) Phrase(c when.Calendar) string {
	if r.Relative != nil {
		return r.Relative.String()
	}
	return r.Moment.Canonical(c)
}
