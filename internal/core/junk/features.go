// Package junk learns from what somebody puts into Junk, and takes out of it, which letters are like
// that: naive Bayes over the words of a letter and facts of its header, made honest on the very
// letters that it learned from. It is a pure function of these.
package junk

import (
	"slices"
	"strings"
	"unicode"

	"ebbe.example/ebbe/internal/core/letter"
)

// mostWords bounds how many words of a letter are looked at: what it is shows early.
const mostWords = 150

// Facts of a header; no word begins so.
const (
	noName    = "#no name"
	elsewhere = "#answers go elsewhere"
	byList    = "#by a list"
	loud      = "#a loud subject"
	domain    = "#from "
)

// Features are the words of a letter and facts of its header, each once.
func Features(l letter.Letter) []string {
	var out []string
	if l.From.Name == "" {
		out = append(out, noName)
	}
	if d := domainOf(l.From); d != "" {
		out = append(out, domain+d)
		if len(l.ReplyTo) > 0 && domainOf(l.ReplyTo[0]) != d {
			out = append(out, elsewhere)
		}
	}
	if l.ListID != "" {
		out = append(out, byList)
	}
	if isLoud(l.Subject) {
		out = append(out, loud)
	}
	words := 0
	for _, text := range []string{l.Subject, l.From.Name, letter.Unquoted(l.Text)} {
		for w := range strings.FieldsFuncSeq(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
			if words == mostWords {
				break
			}
			if n := len(w); n < 3 || n > 30 {
				continue
			}
			out = append(out, strings.ToLower(w))
			words++
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// isLoud tells of a subject in capitals.
func isLoud(subject string) bool {
	upper, all := 0, 0
	for _, r := range subject {
		if unicode.IsLetter(r) {
			all++
			if unicode.IsUpper(r) {
				upper++
			}
		}
	}
	return all >= 8 && 10*upper >= 7*all
}

func domainOf(a letter.Address) string {
	_, d, _ := strings.Cut(a.Key(), "@")
	return d
}

// words are how a feature is told.
func words(feature string) string {
	if fact, ok := strings.CutPrefix(feature, "#"); ok {
		return fact
	}
	return "“" + feature + "”"
}
