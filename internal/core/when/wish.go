package when

import (
	"slices"
	"strings"
	"time"
)

// Condition is what besides a time brings a letter back.
type Condition string

// The conditions.
const (
	Always     Condition = ""          // at the time, whatever happens; an answer comes sooner by itself
	IfAnswered Condition = "answer"    // without a time: when somebody answers
	IfSilent   Condition = "no-answer" // at the time, if nobody has answered by then
	AtSpot     Condition = "spot"      // when the person is at a place, or at the time if there is one
)

// Awaits tells whether what it brings back depends on somebody's answer.
func (c Condition) Awaits() bool { return c == IfAnswered || c == IfSilent }

// Wish is when a letter is to come back: at a time, on a condition, or both.
type Wish struct {
	Reading
	If Condition
	// Who is the name of whose answer is meant, as typed; "" for whoever wrote.
	Who string
	// Spot is the name of the place where the person must be.
	Spot string
}

// Timed tells whether the wish names a time.
func (w Wish) Timed() bool { return w.Precision != Open }

// ReadWish understands a phrase with conditions: "when she answers", "when I
// am at the orangery", "fri if nobody has answered". spots are the names of
// the places that the person has named.
func ReadWish(phrase string, now time.Time, c Calendar, spots []string) (Wish, error) {
	words := split(phrase)
	var w Wish
	var rest []string
	for i := 0; i < len(words); {
		found, n, err := condition(words[i:], spots)
		if err != nil {
			return Wish{}, err
		}
		if n == 0 {
			rest = append(rest, words[i])
			i++
			continue
		}
		if w.If != Always && w.If != found.If {
			return Wish{}, refuse("Two conditions are named. Name one.")
		}
		w.If, w.Who, w.Spot = found.If, found.Who, found.Spot
		i += n
	}
	if w.If == Always {
		r, err := Read(phrase, now, c)
		return Wish{Reading: r}, err
	}
	rest = trimJoints(rest)
	w.Reading = Reading{Moment: Moment{Precision: Open}}
	if len(rest) > 0 {
		r, err := Read(strings.Join(rest, " "), now, c)
		if err != nil {
			return Wish{}, err
		}
		w.Reading = r
	}
	if w.If == IfSilent && !w.Timed() {
		return Wish{}, refuse("By when? Try “fri if nobody has answered”.")
	}
	if w.If == IfAnswered && w.Timed() {
		w.If, w.Who = Always, ""
		w.Notes = append(slices.Clone(w.Notes), "an answer brings it back sooner by itself")
	}
	w.Phrase = strings.TrimSpace(phrase)
	w.Canonical = w.print()
	return w, nil
}

// print writes the wish in full, so that it reads to the same again.
func (w Wish) print() string {
	var parts []string
	if w.Timed() {
		parts = append(parts, w.Canonical)
	}
	who := w.Who
	switch w.If {
	case IfAnswered:
		if who == "" {
			who = "they"
			parts = append(parts, "when they answer")
			break
		}
		parts = append(parts, "when "+who+" answers")
	case IfSilent:
		if who == "" {
			who = "nobody"
			parts = append(parts, "if nobody has answered")
			break
		}
		parts = append(parts, "if "+who+" has not answered")
	case AtSpot:
		parts = append(parts, "when I am at "+w.Spot)
	case Always:
	}
	if w.Precision == Open && w.If == Always {
		return w.Canonical
	}
	return strings.Join(parts, " ")
}

var joints = map[string]bool{"or": true, "and": true, "but": true, "only": true, "then": true, "by": true, "latest": true}

func trimJoints(words []string) []string {
	for len(words) > 0 && joints[words[0]] {
		words = words[1:]
	}
	for len(words) > 0 && (joints[words[len(words)-1]] && words[len(words)-1] != "by" || words[len(words)-1] == "at") {
		words = words[:len(words)-1]
	}
	return words
}

var (
	answering = map[string]bool{"answers": true, "answer": true, "answered": true, "replies": true, "reply": true, "replied": true, "responds": true, "respond": true, "responded": true, "writes": true, "write": true, "wrote": true}
	negations = map[string]bool{"not": true, "hasn't": true, "hasnt": true, "haven't": true, "havent": true, "doesn't": true, "doesnt": true, "don't": true, "dont": true, "didn't": true, "didnt": true, "no": true, "never": true}
	nobodies  = map[string]bool{"nobody": true, "none": true, "noone": true}
	passing   = map[string]bool{"has": true, "have": true, "had": true, "is": true, "there": true, "there's": true, "an": true, "a": true, "the": true, "any": true, "been": true, "back": true, "does": true, "do": true, "did": true, "by": true, "then": true, "yet": true, "until": true}
	pronouns  = map[string]bool{"she": true, "he": true, "they": true, "it": true, "somebody": true, "someone": true, "anybody": true, "anyone": true, "one": true, "her": true, "his": true, "their": true}
	openers   = map[string]Condition{"when": IfAnswered, "once": IfAnswered, "whenever": IfAnswered, "if": IfAnswered, "unless": IfSilent, "without": IfSilent, "on": IfAnswered, "after": IfAnswered, "upon": IfAnswered}
)

// longestClause bounds how many words a condition can have.
const longestClause = 9

// condition reads a condition that the words begin with; n is 0 for none.
func condition(words []string, spots []string) (w Wish, n int, err error) {
	if w, n, err = atSpot(words, spots); n > 0 || err != nil {
		return w, n, err
	}
	c := cursor{words}
	i := 0
	if k, ok := c.starts("as soon as"); ok {
		w.If, i = IfAnswered, k
	} else if kind, ok := openers[c.peek(0)]; ok {
		w.If, i = kind, 1
	} else {
		return Wish{}, 0, nil
	}
	silent := w.If == IfSilent
	var who []string
	for ; i < len(words) && i < longestClause; i++ {
		word := words[i]
		switch {
		case answering[word]:
			n = i + 1
			for n < len(words) && (words[n] == "back" || words[n] == "me" || words[n] == "to" || words[n] == "yet" || words[n] == "by" && c.peek(n+1) == "then" || words[n] == "then") {
				n++
			}
			if silent {
				w.If = IfSilent
			}
			if c.peek(0) == "after" || c.peek(0) == "on" || c.peek(0) == "upon" {
				// "after her answer", never "after fri reply".
				if len(who) > 0 && weekdayOf(who[0]) != nil {
					return Wish{}, 0, nil
				}
			}
			w.Who = strings.Join(who, " ")
			return w, n, nil
		case nobodies[word]:
			silent = true
		case negations[word]:
			if word == "no" && c.peek(i+1) == "one" {
				i++
			}
			silent = true
		case passing[word] || pronouns[word]:
		default:
			who = append(who, word)
		}
	}
	return Wish{}, 0, nil
}

// atSpot reads "when I am at the orangery", and "at the orangery" where that
// is a place of the person's.
func atSpot(words []string, spots []string) (Wish, int, error) {
	c := cursor{words}
	said := beingThere(c)
	explicit := said > 1 // "when" alone may begin another condition
	i := said
	for c.peek(i) == "back" || c.peek(i) == "next" {
		i++
	}
	if w := c.peek(i); w != "at" && w != "in" && w != "to" {
		if explicit {
			return Wish{}, 0, nil
		}
		return Wish{}, 0, nil
	}
	i = c.past(i+1, "the")
	best := Wish{}
	n := 0
	for _, spot := range spots {
		if used, ok := (&cursor{words[min(i, len(words)):]}).starts(bareName(spot)); ok && used > 0 && i+used > n {
			best, n = Wish{If: AtSpot, Spot: spot}, i+used
		}
	}
	if n == 0 && explicit {
		name := placeNamed(words[min(i, len(words)):])
		if name == "" {
			return Wish{}, 0, refuse("At which place? Name one, as in “when I am at the orangery”.")
		}
		return Wish{}, 0, &Error{Reason: "Ebbe knows no place “" + name + "”. Name it among your places first.", Spot: name}
	}
	return best, n, nil
}

// placeNamed is the name that a condition gives to a place: all up to what may
// be a time.
func placeNamed(words []string) string {
	if i := slices.IndexFunc(words, func(w string) bool { return joints[w] }); i >= 0 {
		words = words[:i]
	}
	return strings.Join(words, " ")
}

// beingThere counts the words that say that somebody is somewhere, as "when I am".
func beingThere(c cursor) int {
	for _, text := range []string{
		"next time i am", "next time i'm", "the next time i am", "when i am", "when i'm", "when im", "once i am", "once i'm", "when i get", "when next", "when", "once",
	} {
		if n, ok := c.starts(text); ok {
			return n
		}
	}
	return 0
}

// AsksSpot tells whether a phrase waits for the person to be somewhere, also
// where the place is still to be named.
func AsksSpot(phrase string) bool {
	words := split(phrase)
	for i := range words {
		if beingThere(cursor{words[i:]}) > 1 {
			return true
		}
	}
	return false
}

// bareName is a place's name as it is compared: without its article.
func bareName(spot string) string {
	words := split(spot)
	if len(words) > 1 && words[0] == "the" {
		words = words[1:]
	}
	return strings.Join(words, " ")
}
