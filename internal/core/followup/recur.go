package followup

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/teambition/rrule-go"

	"ebbe.example/ebbe/internal/core/when"
)

// Recurrence is how a follow-up comes again.
type Recurrence struct {
	// Rule is an RRULE (RFC 5545, 3.3.10) without its name.
	Rule string `json:"rule"`
	// AfterDone reckons from the day on which it was done, not from its due.
	AfterDone bool `json:"afterDone,omitempty"`
	// Phrase is what was typed; "" where the rule itself was.
	Phrase string `json:"phrase,omitempty"`
	// From is the day on which the series began, 2006-01-02: "every 2 weeks" is
	// reckoned from it.
	From string `json:"from,omitempty"`
}

// ErrNever is returned for a rule that yields no day at all.
var ErrNever = errors.New("it never comes: there is no such day")

// horizon is how far ahead the next one is looked for.
const horizon = 100

var weekdayCodes = [7]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// ParseRule checks an RRULE. Rules without an end are fine: only the next one
// is ever made. A part finer than a day is refused, for a follow-up is done
// once a day at most.
func ParseRule(text string, from when.Date) (Recurrence, error) {
	text = strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(text)), "RRULE:")
	r := Recurrence{Rule: text}
	o, err := r.option(from)
	if err != nil {
		return r, fmt.Errorf("“%s” is no rule of recurrence", text)
	}
	if err := nothingOfNought(text); err != nil {
		return r, err
	}
	if o.Freq > rrule.DAILY || len(o.Byhour)+len(o.Byminute)+len(o.Bysecond) > 0 {
		return r, errors.New("a follow-up comes again once a day at most")
	}
	if _, ok, err := r.Next(from.Add(-1), from.Add(-1), from); err != nil {
		return r, err
	} else if !ok {
		return r, ErrNever
	}
	return r, nil
}

// nothingOfNought refuses what comes every 0th time, or 0 times (RFC 5545,
// 3.3.10: both are at least 1).
func nothingOfNought(rule string) error {
	for part := range strings.SplitSeq(rule, ";") {
		name, value, _ := strings.Cut(part, "=")
		if n, err := strconv.Atoi(value); (name == "INTERVAL" || name == "COUNT") && (err != nil || n < 1) {
			return fmt.Errorf("%s=%s can't be: it is 1 or more", name, value)
		}
	}
	return nil
}

func (r Recurrence) option(start when.Date) (*rrule.ROption, error) {
	o, err := rrule.StrToROption(r.Rule)
	if err != nil {
		return nil, err
	}
	o.Dtstart = noon(start)
	return o, nil
}

// noon keeps days apart whatever the zone: rules are reckoned in days.
func noon(d when.Date) time.Time { return time.Date(d.Year, d.Month, d.Day, 12, 0, 0, 0, time.UTC) }

// Next is the day on which it comes again after the one due on due (or done on
// done); first is the day on which the series began. ok is false when the
// series has ended.
func (r Recurrence) Next(due, done, first when.Date) (next when.Date, ok bool, err error) {
	after := due
	start := first
	if r.AfterDone {
		after, start = done, done
	}
	o, err := r.option(start)
	if err != nil {
		return next, false, err
	}
	if !o.Until.IsZero() { // the last day itself counts, whatever its hour
		o.Until = time.Date(o.Until.Year(), o.Until.Month(), o.Until.Day(), 23, 59, 59, 0, time.UTC)
	} else {
		o.Until = noon(after).AddDate(horizon, 0, 0)
	}
	rule, err := rrule.NewRRule(*o)
	if err != nil {
		return next, false, err
	}
	at := rule.After(noon(after), false)
	if at.IsZero() {
		return next, false, nil
	}
	return when.Date{Year: at.Year(), Month: at.Month(), Day: at.Day()}, true, nil
}

// String says the rule in words where it came from a phrase.
func (r Recurrence) String() string {
	if r.Phrase != "" {
		return r.Phrase
	}
	o, err := rrule.StrToROption(r.Rule)
	if err != nil {
		return r.Rule
	}
	words := ruleInWords(o, r.Rule)
	if r.AfterDone {
		words = strings.TrimPrefix(words, "every ") + " after done"
	}
	return words
}

var (
	everyUnit  = regexp.MustCompile(`^(?:(\d+|other|second|two|three|four|five|six)\s+)?(workday|weekday|day|week|fortnight|month|quarter|year)s?$`)
	afterDone  = regexp.MustCompile(`^(?:every\s+)?(\d+|a|an|one|two|three|four|five|six)\s+(day|week|month|year)s?\s+after\s+(?:it is |it's )?(?:done|completion|finishing)$`)
	nthWeekday = regexp.MustCompile(`^(first|second|third|fourth|fifth|last|1st|2nd|3rd|4th|5th)\s+(\w+?)(?:\s+(?:of|in)\s+(?:the|each|every)\s+month)?$`)
	onTheDay   = regexp.MustCompile(`^(?:month on )?(?:the )?(\d{1,2})(?:st|nd|rd|th)?(?: of (?:the|each|every) month)?$`)
	onTheDate  = regexp.MustCompile(`^(?:year on )?(?:the )?(\d{1,2})(?:st|nd|rd|th)?\s+(?:of )?([a-z]{3,9})$`)
	monthDay   = regexp.MustCompile(`^(?:year on )?([a-z]{3,9})\s+(\d{1,2})(?:st|nd|rd|th)?$`)
	times      = regexp.MustCompile(`^(.*?)(?:,)?\s+(?:for )?(\d{1,3}) times$`)
	until      = regexp.MustCompile(`^(.*?)\s+(?:until|till)\s+(.+)$`)
)

var numbers = map[string]int{"": 1, "a": 1, "an": 1, "one": 1, "other": 2, "second": 2, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6}

func number(s string) int {
	if n, ok := numbers[s]; ok {
		return n
	}
	n, _ := strconv.Atoi(s)
	return n
}

// IsRecurrence tells whether a phrase speaks of recurring, so that what is
// wrong with it is said rather than passed over.
func IsRecurrence(phrase string) bool {
	p := strings.ToLower(strings.Join(strings.Fields(phrase), " "))
	return strings.HasPrefix(p, "every ") || afterDone.MatchString(p) || slices.Contains([]string{"daily", "weekly", "monthly", "yearly", "quarterly"}, p) ||
		strings.HasPrefix(p, "freq=") || strings.HasPrefix(p, "rrule:")
}

// ReadRecurrence understands "every monday", "every 2 weeks", "every first
// monday", "every month on the 31st", "3 days after done", with "until 31 dec"
// or "10 times", and RRULEs themselves. The error is meant for the person.
func ReadRecurrence(phrase string, now time.Time, c when.Calendar) (Recurrence, error) {
	text := strings.ToLower(strings.Join(strings.Fields(phrase), " "))
	today := c.Today(now)
	if strings.HasPrefix(text, "freq=") || strings.HasPrefix(text, "rrule:") {
		return ParseRule(text, today)
	}
	end := ""
	if m := times.FindStringSubmatch(text); m != nil {
		text, end = m[1], ";COUNT="+m[2]
	} else if m := until.FindStringSubmatch(text); m != nil {
		r, err := when.Read(m[2], now, c)
		if err != nil {
			return Recurrence{}, err
		}
		if r.Precision == when.Open {
			return Recurrence{}, errors.New("until which day?")
		}
		text, end = m[1], ";UNTIL="+noon(r.Day(c)).Format("20060102T150405Z")
	}
	r, err := readEvery(text, c)
	if err != nil {
		return Recurrence{}, err
	}
	checked, err := ParseRule(r.Rule+end, today)
	checked.AfterDone, checked.Phrase = r.AfterDone, strings.Join(strings.Fields(phrase), " ")
	return checked, err
}

func readEvery(text string, c when.Calendar) (Recurrence, error) {
	if m := afterDone.FindStringSubmatch(text); m != nil {
		return Recurrence{Rule: fmt.Sprintf("FREQ=%s;INTERVAL=%d", freqOf[m[2]], max(1, number(m[1]))), AfterDone: true}, nil
	}
	if f := map[string]string{"daily": "DAILY", "weekly": "WEEKLY", "monthly": "MONTHLY", "yearly": "YEARLY", "quarterly": "MONTHLY;INTERVAL=3"}[text]; f != "" {
		return Recurrence{Rule: "FREQ=" + f}, nil
	}
	rest, ok := strings.CutPrefix(text, "every ")
	if !ok {
		return Recurrence{}, errors.New("try “every monday”, “every 2 weeks”, “every first monday” or “3 days after done”")
	}
	if m := everyUnit.FindStringSubmatch(rest); m != nil {
		n := number(m[1])
		switch {
		case n < 1 || n > 999:
			return Recurrence{}, errors.New("the interval goes from 1 to 999")
		case m[2] == "workday" || m[2] == "weekday":
			if n > 1 {
				return Recurrence{}, errors.New("every how many days, or weeks?")
			}
			return Recurrence{Rule: "FREQ=WEEKLY;BYDAY=" + strings.Join(workdays(c), ",")}, nil
		case m[2] == "fortnight":
			return Recurrence{Rule: fmt.Sprintf("FREQ=WEEKLY;INTERVAL=%d", 2*n)}, nil
		case m[2] == "quarter":
			return Recurrence{Rule: fmt.Sprintf("FREQ=MONTHLY;INTERVAL=%d", 3*n)}, nil
		}
		return Recurrence{Rule: fmt.Sprintf("FREQ=%s;INTERVAL=%d", freqOf[m[2]], n)}, nil
	}
	return readDays(rest, c)
}

var freqOf = map[string]string{"day": "DAILY", "week": "WEEKLY", "month": "MONTHLY", "year": "YEARLY"}

func workdays(c when.Calendar) (out []string) {
	for d := range 7 {
		day := (int(c.WeekStart) + d) % 7
		if c.Workdays[day] {
			out = append(out, weekdayCodes[day])
		}
	}
	if len(out) == 0 {
		return weekdayCodes[:]
	}
	return out
}

// readDays reads which days: weekdays, the nth weekday of the month, a day of
// the month or of the year, "last day of the month".
func readDays(rest string, c when.Calendar) (Recurrence, error) {
	interval := ""
	for prefix, n := range map[string]int{"other ": 2, "second week on ": 2, "2 weeks on ": 2, "week on ": 1} {
		if cut, ok := strings.CutPrefix(rest, prefix); ok {
			rest, interval = cut, fmt.Sprintf(";INTERVAL=%d", n)
		}
	}
	if codes := weekdays(rest); codes != nil {
		return Recurrence{Rule: "FREQ=WEEKLY" + interval + ";BYDAY=" + strings.Join(codes, ",")}, nil
	}
	bare := strings.TrimPrefix(strings.TrimPrefix(rest, "month on "), "the ")
	if strings.HasPrefix(bare, "last day") || strings.HasPrefix(bare, "month's end") || bare == "end of month" {
		return Recurrence{Rule: "FREQ=MONTHLY;BYMONTHDAY=-1"}, nil
	}
	if m := nthWeekday.FindStringSubmatch(bare); m != nil {
		n := map[string]int{"first": 1, "1st": 1, "second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4, "fifth": 5, "5th": 5, "last": -1}[m[1]]
		if codes := weekdays(m[2]); len(codes) == 1 {
			return Recurrence{Rule: fmt.Sprintf("FREQ=MONTHLY;BYDAY=%d%s", n, codes[0])}, nil
		}
		if m[2] == "workday" || m[2] == "weekday" {
			return Recurrence{Rule: fmt.Sprintf("FREQ=MONTHLY;BYDAY=%s;BYSETPOS=%d", strings.Join(workdays(c), ","), n)}, nil
		}
	}
	if m := onTheDay.FindStringSubmatch(rest); m != nil {
		return onDayOfMonth(number(m[1]))
	}
	day, month := "", ""
	if m := onTheDate.FindStringSubmatch(rest); m != nil {
		day, month = m[1], m[2]
	} else if m := monthDay.FindStringSubmatch(rest); m != nil {
		day, month = m[2], m[1]
	}
	if i := monthOf(month); i > 0 {
		return Recurrence{Rule: fmt.Sprintf("FREQ=YEARLY;BYMONTH=%d;BYMONTHDAY=%d", i, number(day))}, nil
	}
	return Recurrence{}, fmt.Errorf("every what? “%s” is not understood; try “every monday” or “every first monday”", rest)
}

// onDayOfMonth is a day of every month; in a month that is shorter, its last.
func onDayOfMonth(n int) (Recurrence, error) {
	if n < 1 || n > 31 {
		return Recurrence{}, errors.New("a month has 31 days at most")
	}
	if n <= 28 {
		return Recurrence{Rule: fmt.Sprintf("FREQ=MONTHLY;BYMONTHDAY=%d", n)}, nil
	}
	var list []string
	for d := 28; d <= n; d++ {
		list = append(list, strconv.Itoa(d))
	}
	return Recurrence{Rule: "FREQ=MONTHLY;BYMONTHDAY=" + strings.Join(list, ",") + ";BYSETPOS=-1"}, nil
}

var weekdayNames = [7][]string{{"sunday", "sun"}, {"monday", "mon"}, {"tuesday", "tue", "tues"}, {"wednesday", "wed"}, {"thursday", "thu", "thur", "thurs"}, {"friday", "fri"}, {"saturday", "sat"}}

// weekdays reads "mon", "mondays and thursdays", "mon, wed and fri", "weekend".
func weekdays(text string) []string {
	var out []string
	for _, w := range strings.FieldsFunc(strings.NewReplacer(" and ", " ", ",", " ", "&", " ").Replace(text), func(r rune) bool { return r == ' ' }) {
		found := -1
		for i, names := range weekdayNames {
			if slices.Contains(names, w) || slices.Contains(names, strings.TrimSuffix(w, "s")) {
				found = i
			}
		}
		switch {
		case w == "weekend":
			out = append(out, "SA", "SU")
		case found < 0:
			return nil
		default:
			out = append(out, weekdayCodes[found])
		}
	}
	return out
}

func monthOf(name string) int {
	if len(name) < 3 {
		return 0
	}
	for m := time.January; m <= time.December; m++ {
		if full := strings.ToLower(m.String()); full == name || full[:3] == name {
			return int(m)
		}
	}
	return 0
}
