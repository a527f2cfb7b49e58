package letter

import (
	"regexp"
	"strconv"
	"strings"
	"time"
)

// A date as RFC 5322 writes it (3.3, and 4.3 for its obsolete forms), and as
// the world does: without blanks, with full names, dots for colons, seconds of
// 60, parts of a second.
var (
	dayFirst   = regexp.MustCompile(`(?i)^(?:[a-z]+\.?,?[ ]?)?(\d{1,2})[ .-]*([a-z]{3,9})\.?[ ,-]*(\d{2,4})[ ,T]+` + clockForm)
	monthFirst = regexp.MustCompile(`(?i)^(?:[a-z]+\.?,?[ ]?)?([a-z]{3,9})\.? (\d{1,2}),? (?:(\d{4})[ ,]+)?` + clockForm)
	yearFirst  = regexp.MustCompile(`(?i)^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})[ T,]*` + clockForm)
)

const clockForm = `(\d{1,2})[:.](\d{2})(?:[:.](\d{2})(?:[.,]\d+)?)?[ ]?([ap]m\b)?[ ]?(.*)$`

var months = []string{"jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"}

// namedZones are the zones that have names in RFC 5322 (4.3), in hours, and a
// few that the world writes. All others are UTC, as that page says, whatever
// they mean on the machine that reads them.
var namedZones = map[string]float64{
	"UT": 0, "UTC": 0, "GMT": 0, "Z": 0, "EST": -5, "EDT": -4, "CST": -6, "CDT": -5, "MST": -7, "MDT": -6, "PST": -8, "PDT": -7,
	"CET": 1, "MET": 1, "CEST": 2, "MEST": 2, "BST": 1, "WET": 0, "WEST": 1, "EET": 2, "EEST": 3, "MSK": 3, "JST": 9, "KST": 9, "IST": 5.5, "HKT": 8, "SGT": 8,
	"AEST": 10, "AEDT": 11, "NZST": 12, "NZDT": 13,
}

// parseDate reads a date; zero if it names no time between 1970 and 9000. What
// zone the machine is in has no say.
func parseDate(text string) time.Time {
	text = strings.Join(strings.Fields(withoutComments(text)), " ")
	var year, month, day, clock string
	var rest []string
	switch {
	case dayFirst.MatchString(text):
		m := dayFirst.FindStringSubmatch(text)
		day, month, year, rest = m[1], m[2], m[3], m[4:]
	case yearFirst.MatchString(text):
		m := yearFirst.FindStringSubmatch(text)
		year, month, day, rest = m[1], m[2], m[3], m[4:]
	case monthFirst.MatchString(text):
		m := monthFirst.FindStringSubmatch(text)
		month, day, year, rest = m[1], m[2], m[3], m[4:]
	default:
		return time.Time{}
	}
	hour, minute, second := number(rest[0]), number(rest[1]), number(rest[2])
	clock = strings.ToLower(rest[3])
	zone := rest[4]
	if year == "" { // "Mon Jan 2 15:04:05 MST 2006"
		words := strings.Fields(zone)
		if n := len(words); n > 0 && len(words[n-1]) == 4 {
			year, zone = words[n-1], strings.Join(words[:n-1], " ")
		}
		if n := len(words); n > 1 && len(words[0]) == 4 && number(words[0]) > 1900 {
			year, zone = words[0], strings.Join(words[1:], " ")
		}
	}
	if clock != "" {
		hour = hour%12 + map[string]int{"am": 0, "pm": 12}[clock]
	}
	m := monthOf(month)
	y := fullYear(year)
	if m == 0 || y < 1970 || y > 9000 || number(day) < 1 || number(day) > 31 || hour > 24 || minute > 59 || second > 60 {
		return time.Time{}
	}
	t := time.Date(y, time.Month(m), number(day), 0, 0, 0, 0, time.UTC)
	if t.Day() != number(day) { // there is no 31 February
		return time.Time{}
	}
	t = t.Add(time.Duration(hour*3600+minute*60+second) * time.Second)
	return t.Add(-offsetOf(zone))
}

func number(text string) int {
	n, _ := strconv.Atoi(text) // "" is nought
	return n
}

func monthOf(text string) int {
	if n := number(text); n >= 1 && n <= 12 {
		return n
	}
	text = strings.ToLower(text)
	for i, m := range months {
		if strings.HasPrefix(text, m) {
			return i + 1
		}
	}
	return 0
}

// fullYear is a year of two or three digits as RFC 5322 (4.3) reads it.
func fullYear(text string) int {
	y := number(text)
	switch {
	case len(text) == 2 && y < 50:
		return y + 2000
	case len(text) < 4 && text != "":
		return y + 1900
	}
	return y
}

var numericZone = regexp.MustCompile(`^(?:UTC|GMT|UT)?[ ]?([+-])(\d{1,2}):?(\d{2})?\b`)

// offsetOf is how far a zone is ahead of UTC.
func offsetOf(zone string) time.Duration {
	zone = strings.ToUpper(strings.TrimSpace(zone))
	if m := numericZone.FindStringSubmatch(zone); m != nil {
		d := time.Duration(number(m[2]))*time.Hour + time.Duration(number(m[3]))*time.Minute
		if d > 24*time.Hour { // no place on earth
			return 0
		}
		if m[1] == "-" {
			return -d
		}
		return d
	}
	name, _, _ := strings.Cut(zone, " ")
	return time.Duration(namedZones[strings.Trim(name, `"'.,;`)] * float64(time.Hour))
}

// withoutComments takes out comments (RFC 5322, 3.2.2), which may hold others.
func withoutComments(text string) string {
	if !strings.Contains(text, "(") {
		return text
	}
	var out strings.Builder
	depth := 0
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '\\' && depth > 0:
			i++
		case c == '(':
			depth++
			out.WriteByte(' ')
		case c == ')' && depth > 0:
			depth--
		case depth == 0:
			out.WriteByte(c)
		}
	}
	return out.String()
}
