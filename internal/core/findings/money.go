package findings

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Amount is a sum of money that a letter names.
type Amount struct {
	Cents    int64  // in hundredths of the currency
	Currency string // by ISO 4217; "" where the letter leaves it out
	Quote    string // as it stands in the letter
}

// String is the amount as it is told: "1,420.00 EUR".
func (a Amount) String() string {
	whole := strconv.FormatInt(a.Cents/100, 10)
	var grouped []byte
	for i := range len(whole) {
		if i > 0 && (len(whole)-i)%3 == 0 {
			grouped = append(grouped, ',')
		}
		grouped = append(grouped, whole[i])
	}
	return strings.TrimSpace(fmt.Sprintf("%s.%02d %s", grouped, a.Cents%100, a.Currency))
}

// currencies are the signs and words by which sums are named. “kr” is that of the country
// where this is used first.
var currencies = map[string]string{
	"eur": "EUR", "€": "EUR", "euro": "EUR", "euros": "EUR", "usd": "USD", "$": "USD", "gbp": "GBP", "£": "GBP",
	"nok": "NOK", "kr": "NOK", "kr.": "NOK", "kroner": "NOK", "sek": "SEK", "dkk": "DKK", "chf": "CHF", "isk": "ISK",
}

const currencyNames = `EUR|€|euros?|USD|\$|GBP|£|NOK|kr\.?|kroner|SEK|DKK|CHF|ISK`

var (
	// sums are digits with or without marks between thousands, and up to two decimals, with a
	// currency before or behind; "1e400" and numbers within words are none.
	sumAfter  = regexp.MustCompile(`(?i)(?:^|[\s(:=*|>])((?:\d{1,3}(?:[.,'  ]\d{3})+|\d{1,9})(?:[.,]\d{1,2}|,-)?) ?(` + currencyNames + `)(?:$|[^\p{L}\d])`)
	sumBefore = regexp.MustCompile(`(?i)(?:^|[\s(:=*|>])(` + currencyNames + `) ?((?:\d{1,3}(?:[.,'  ]\d{3})+|\d{1,9})(?:[.,]\d{1,2}|,-)?)(?:$|[^\p{L}\d])`)
	// inAll are words beside the sum that is to be paid or was.
	inAll = regexp.MustCompile(`(?i)\b(total|in all|amount due|to pay|payable|balance|paid|charged|sum|å betale|totalt|beløp|i alt|summa)\b`)
)

// mostSums bounds how many sums are found in a line.
const mostSums = 20

// sumsIn are the sums of money that a line names, in their order.
func sumsIn(line string) (out []Amount) {
	if !strings.ContainsAny(line, "0123456789") {
		return nil
	}
	type at struct {
		from int
		Amount
	}
	var found []at
	// What separates two sums belongs to both, so each is looked for from the end of the last.
	for _, way := range []struct {
		of            *regexp.Regexp
		number, named int
	}{{sumAfter, 1, 2}, {sumBefore, 2, 1}} {
		for from := 0; from < len(line) && len(found) < mostSums; {
			m := way.of.FindStringSubmatchIndex(line[from:])
			if m == nil {
				break
			}
			number, named := line[from+m[2*way.number]:from+m[2*way.number+1]], line[from+m[2*way.named]:from+m[2*way.named+1]]
			start, end := from+min(m[2], m[4]), from+max(m[3], m[5])
			overlaps := false
			for _, f := range found {
				overlaps = overlaps || start < f.from+len(f.Quote) && f.from < end
			}
			if cents, ok := cents(number); ok && !overlaps {
				found = append(found, at{start, Amount{cents, currencies[strings.ToLower(named)], line[start:end]}})
			}
			from = end
		}
	}
	slices.SortFunc(found, func(a, b at) int { return a.from - b.from })
	for _, f := range found {
		out = append(out, f.Amount)
	}
	return out
}

// cents reads a number as it is written in either half of the world: its last mark is the
// decimal one where no more than two digits follow it.
func cents(s string) (int64, bool) {
	s = strings.TrimSuffix(s, ",-")
	whole, part := s, ""
	if i := strings.LastIndexAny(s, ".,"); i > 0 && len(s)-i <= 3 {
		whole, part = s[:i], s[i+1:]
	}
	digits := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, whole)
	n, err := strconv.ParseInt(digits+(part + "00")[:2], 10, 64)
	return n, err == nil && len(digits) <= 12
}

var (
	// bareSum is a number with two decimals; inThousands is one with a mark between thousands.
	bareSum     = regexp.MustCompile(`(?:^|[\s(:=*|>])(\d{1,3}(?:[.,'  ]\d{3})+[.,]\d{2}|\d{1,9}[.,]\d{2})`)
	inThousands = regexp.MustCompile(`\d[.,'  ]\d{3}[.,]\d{2}$`)
	// unit is what makes something else of the number before it.
	unit = regexp.MustCompile(`(?i)^(?:[\d.,:/-]*\d|\p{L}|\s?[°%²]|\s?(?:[kcm]?m|[km]?g|[km]?wh?|m?l|h|min|s|[kmg]b|am|pm|ha|uhr)\b)`)
)

// bareSumsIn are the sums of a line that leave their currency out: in the cell of a table, beside
// a label about money, or with a mark between thousands; any other number may be a day or a time.
func bareSumsIn(line string) (out []Amount) {
	told := strings.Contains(line, "|") || aboutMoney.MatchString(line)
	for _, m := range bareSum.FindAllStringSubmatchIndex(line, mostSums) {
		number := line[m[2]:m[3]]
		if unit.MatchString(line[m[3]:]) || !told && !inThousands.MatchString(number) {
			continue
		}
		if c, ok := cents(number); ok {
			out = append(out, Amount{Cents: c, Quote: number})
		}
	}
	return out
}

// withoutSums is a line in which no sum can be taken for a time of day.
func withoutSums(line string) string {
	for _, a := range append(sumsIn(line), bareSumsIn(line)...) {
		line = strings.Replace(line, a.Quote, "", 1)
	}
	return line
}

// Total is the sum that a letter is about: one beside a word for a total, else the only one
// that it names. ok is false where it names none, or several and not which.
func Total(text string) (Amount, bool) {
	lines := rowsOf(text)
	if a, ok := totalOf(lines, sumsIn); ok {
		return a, true
	}
	return totalOf(lines, bareSumsIn)
}

// NamesSum tells whether a text names a sum of money with its currency.
func NamesSum(text string) bool {
	return besideCurrency(text) && slices.ContainsFunc(rowsOf(text), func(line string) bool { return len(sumsIn(line)) > 0 })
}

// besideCurrency is a quick sign that a sum may be named: digits with a currency before or behind.
func besideCurrency(text string) bool {
	digit := func(i int) bool { return text[i] >= '0' && text[i] <= '9' }
	const apart = " \t\r\n|*"
	for i := range len(text) {
		if !digit(i) {
			continue
		}
		if i == 0 || !digit(i-1) {
			before := strings.TrimRight(text[max(0, i-20):i], apart)
			for name := range currencies {
				if n := len(before) - len(name); n >= 0 && strings.EqualFold(before[n:], name) {
					return true
				}
			}
		}
		if i+1 == len(text) || !digit(i+1) {
			behind := strings.TrimLeft(text[i+1:min(len(text), i+20)], apart+",-")
			for name := range currencies {
				if len(behind) >= len(name) && strings.EqualFold(behind[:len(name)], name) {
					return true
				}
			}
		}
	}
	return false
}

func totalOf(lines []string, sums func(string) []Amount) (a Amount, ok bool) {
	var only []Amount
	for _, line := range lines {
		found := sums(line)
		if len(found) > 0 && inAll.MatchString(line) {
			a, ok = found[len(found)-1], true
		}
		for _, f := range found {
			if !slices.ContainsFunc(only, func(o Amount) bool { return o.Cents == f.Cents && o.Currency == f.Currency }) && len(only) < 2 {
				only = append(only, f)
			}
		}
	}
	if !ok && len(only) == 1 {
		return only[0], true
	}
	return a, ok
}

// rowsOf are the lines of a text, a label that stands alone together with what is below it,
// as the cells of a table come when it is read as text.
func rowsOf(text string) []string {
	var out []string
	label := ""
	for line := range strings.Lines(glance(text)) {
		line = strings.TrimSpace(line)
		switch {
		case line == "":
		case label == "" && len(line) < 40 && !strings.ContainsAny(line, "0123456789.!?") && aboutMoney.MatchString(line):
			label = line
		default:
			out = append(out, strings.TrimSpace(label+" "+line))
			label = ""
		}
	}
	if label != "" {
		out = append(out, label)
	}
	return out
}

// glanceAt is how much of a text is read for what is found in it, in bytes.
const glanceAt = 20_000

func glance(text string) string { return text[:min(len(text), glanceAt)] }
