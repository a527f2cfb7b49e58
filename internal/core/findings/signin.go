package findings

import (
	"regexp"
	"slices"
	"strings"
)

// SignIn is a code, or a link, with which somebody signs in. From and To are where it stands in the
// text, in bytes.
type SignIn struct {
	// Code is the code without blanks, "" for a link; Link is the address.
	Code, Link string
	From, To   int
}

const (
	// early is how much of a letter is looked at: what signs in stands at its beginning.
	early = 2000
	// near is how far a code may stand from the word that tells what it is, in bytes.
	near = 120
)

var (
	// What a code is called, and what it is for, in English and Norwegian.
	codeWord = regexp.MustCompile(`(?i)\b(?:pass)?codes?\b|\bone[- ]time (?:password|pin)\b|\b(?:engangs|bekreftelses|sikkerhets|påloggings)?koden?\b|\bengangspassord\b`)
	codeFor  = regexp.MustCompile(`(?i)\bsign(?:ing)?[- ]?in\b|\blog(?:ging)?[- ]?(?:in|on)\b|\blogin\b|\bverif|\bconfirm|\bauthenticat|\bsecurity\b|\bone[- ]time\b|\blogge? (?:inn|på)\b|\b(?:inn|på)logging|\bbekreft|\bengangs|\bsikkerhets`)
	theCode  = regexp.MustCompile(`\b(?:[A-Z]{1,3}-)?(\d{3}[ -]\d{3}|\d{4,8})\b`)
	// What the link is to do.
	linkFor = regexp.MustCompile(`(?i)\b(?:sign|log)[- ]?in (?:with|by|link|here|now|to)\b|\b(?:use|click|follow|open) (?:this|the) link to (?:sign|log)|\b(?:verify|confirm) your (?:e-?mail|address|account)|\breset your password\b|\bset a new password\b|\blogg (?:inn|på) (?:med|her)\b|\bbekreft (?:e-?post)?adressen\b|\bnytt passord\b`)
	theLink = regexp.MustCompile(`https?://[^\s<>"')\]]+`)
	// A sum or a year is no code.
	notCode = regexp.MustCompile(`(?i)^\s*(?:kr|nok|eur|usd|gbp|€|\$|£|%|kg|km)|^(?:[.,/:]\d)`)
)

// codeParts are parts of all that codeWord finds.
var codeParts = []string{"code", "kode", "one-time", "one time", "passord"}

// SignsIn finds the code or the link in a letter by which one signs in somewhere: a code of four to
// eight digits near a word for it, where the letter says what it is for; or an address after words that
// say so.
func SignsIn(subject, text string) (SignIn, bool) {
	whole := text
	if len(whole) > early {
		whole = strings.ToValidUTF8(whole[:early], "")
	}
	// Most letters have neither, which is told without an expression that reads them letter by letter.
	low := strings.ToLower(subject + "\n" + whole)
	contains := func(part string) bool { return strings.Contains(low, part) }
	if slices.ContainsFunc(codeParts, contains) && (codeFor.MatchString(subject) || codeFor.MatchString(whole)) {
		for _, word := range codeWord.FindAllStringIndex(whole, -1) {
			from, to := max(0, word[0]-near), min(len(whole), word[1]+near)
			if found, ok := codeIn(whole, word[1], to); ok {
				return found, true
			}
			if found, ok := codeIn(whole, from, word[0]); ok {
				return found, true
			}
		}
		if codeWord.MatchString(subject) {
			if found, ok := codeIn(whole, 0, min(len(whole), 2*near)); ok {
				return found, true
			}
		}
	}
	if !contains("http") {
		return SignIn{}, false
	}
	if at := linkFor.FindStringIndex(subject + "\n" + whole); at != nil {
		from := max(0, at[0]-len(subject)-1)
		if link := theLink.FindStringIndex(whole[from:min(len(whole), from+4*near)]); link != nil {
			return SignIn{Link: strings.TrimRight(whole[from+link[0]:from+link[1]], ".,;"), From: from + link[0], To: from + link[1]}, true
		}
	}
	return SignIn{}, false
}

// codeIn is the first code within a part of a text.
func codeIn(text string, from, to int) (SignIn, bool) {
	for _, m := range theCode.FindAllStringSubmatchIndex(text[from:to], -1) {
		at, end := from+m[2], from+m[3]
		digits := strings.NewReplacer(" ", "", "-", "").Replace(text[at:end])
		year := len(digits) == 4 && (strings.HasPrefix(digits, "19") || strings.HasPrefix(digits, "20"))
		before := at > 0 && strings.ContainsRune("/.,:+#", rune(text[at-1]))
		if year || before || notCode.MatchString(text[end:]) {
			continue
		}
		return SignIn{Code: digits, From: at, To: end}, true
	}
	return SignIn{}, false
}
