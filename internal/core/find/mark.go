package find

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf16"

	"ebbe.example/ebbe/internal/core/letter"
)

// Hit is a part of a text, in UTF-16 code units, as browsers count: [From, To).
type Hit struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// Hits are the parts of a text that are what is looked for, in their order; texts of a letter's fields
// are marked by the terms that look at them.
func (q Query) Hits(text string, of Field) []Hit {
	var out []Hit
	words, spans := placed(text)
	if len(words) == 0 {
		return nil
	}
	for t, not := range q.Terms {
		if not || !t.InText() || t.Field != Words && t.Field != of {
			continue
		}
		list, open := t.Phrases()
		for i, phrase := range list {
			stands := letter.Holds
			if i == len(list)-1 && open || alone(phrase) {
				stands = letter.StartsWith
			}
			for at := 0; at+len(phrase) <= len(words); at++ {
				if stands(words[at:at+len(phrase)], phrase) {
					out = append(out, Hit{spans[at].From, spans[at+len(phrase)-1].To})
				}
			}
		}
	}
	slices.SortFunc(out, func(a, b Hit) int { return a.From - b.From })
	joined := out[:0]
	for _, s := range out {
		if n := len(joined); n > 0 && s.From <= joined[n-1].To {
			joined[n-1].To = max(joined[n-1].To, s.To)
		} else {
			joined = append(joined, s)
		}
	}
	return joined
}

// placed are the words of a text, each with where it stands.
func placed(text string) (words []string, spans []Hit) {
	at := 0
	var raw strings.Builder
	from := 0
	flush := func() {
		if raw.Len() == 0 {
			return
		}
		some := letter.Words(raw.String())
		for i, w := range some {
			s := Hit{from, at}
			if letter.Paired(w) { // signs stand one after the other
				s.From = min(from+i, at)
				s.To = min(s.From+len([]rune(w)), at)
			}
			words, spans = append(words, w), append(spans, s)
		}
		raw.Reset()
	}
	paired := false
	for _, r := range text {
		inside := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.M, r) || len(letter.Words(string(r))) > 0 && r >= 0x80
		if p := letter.Paired(string(r)); !inside || p != paired && !unicode.Is(unicode.M, r) {
			flush()
			from, paired = at, p
		}
		if inside {
			raw.WriteRune(r)
		}
		at += utf16.RuneLen(r)
		if !inside {
			from = at
		}
	}
	flush()
	return words, spans
}
