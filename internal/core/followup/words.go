package followup

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

var places = map[int]string{1: "first", 2: "second", 3: "third", 4: "fourth", 5: "fifth", -1: "last"}

// ruleInWords says what a rule of RFC 5545 means, in words that ReadRecurrence
// reads where it can; a rule with more to it is said roughly, and given.
func ruleInWords(o *rrule.ROption, rule string) string {
	unit := map[rrule.Frequency]string{rrule.DAILY: "day", rrule.WEEKLY: "week", rrule.MONTHLY: "month", rrule.YEARLY: "year"}[o.Freq]
	if unit == "" {
		return rule
	}
	words := "every " + unit
	if o.Interval > 1 {
		words = fmt.Sprintf("every %d %ss", o.Interval, unit)
	}
	on, ok := onInWords(o)
	switch {
	case !ok:
		return words + " (" + rule + ")"
	case on == "":
	case o.Interval > 1 || o.Freq == rrule.YEARLY || strings.HasPrefix(on, "the "):
		words += " on " + on
	default:
		words = "every " + on
	}
	switch {
	case o.Count > 0:
		words += fmt.Sprintf(", %d times", o.Count)
	case !o.Until.IsZero():
		words += " until " + o.Until.Format("2 Jan 2006")
	}
	return words
}

// onInWords says on which days of its weeks, months or years a rule falls; ""
// where it doesn't choose any, not ok where it is more than words can say.
func onInWords(o *rrule.ROption) (on string, ok bool) {
	if len(o.Byweekno)+len(o.Byyearday)+len(o.Byeaster)+len(o.Byhour)+len(o.Byminute)+len(o.Bysecond) > 0 || len(o.Bysetpos) > 1 {
		return "", false
	}
	months := o.Freq == rrule.YEARLY && len(o.Bymonth) == 1
	switch {
	case len(o.Bymonth) > 0 && !months:
		return "", false
	case months && len(o.Bymonthday) == 1 && len(o.Byweekday) == 0 && o.Bymonthday[0] > 0:
		return fmt.Sprintf("%d %s", o.Bymonthday[0], strings.ToLower(time.Month(o.Bymonth[0]).String())), true
	case len(o.Bymonth) > 0 || len(o.Bymonthday) > 1 || len(o.Bymonthday) > 0 && (o.Freq != rrule.MONTHLY || len(o.Byweekday) > 0):
		return "", false
	case len(o.Bymonthday) == 1:
		if o.Bymonthday[0] == -1 {
			return "the last day", true
		}
		return fmt.Sprintf("the %s", ordinal(o.Bymonthday[0])), o.Bymonthday[0] > 0
	case len(o.Byweekday) == 0:
		return "", len(o.Bysetpos) == 0
	}
	return weekdaysInWords(o)
}

func weekdaysInWords(o *rrule.ROption) (on string, ok bool) {
	var names []string
	var days []int
	for _, d := range o.Byweekday {
		place, known := places[d.N()]
		if d.N() == 0 && len(o.Bysetpos) == 1 && len(o.Byweekday) == 1 {
			place, known = places[o.Bysetpos[0]]
		}
		if d.N() == 0 && len(o.Bysetpos) == 0 {
			place, known = "", o.Freq != rrule.MONTHLY && o.Freq != rrule.YEARLY
		}
		if !known || place != "" && (o.Freq != rrule.MONTHLY || o.Interval > 1) {
			return "", false
		}
		names = append(names, strings.TrimSpace(place+" "+weekdayNames[(d.Day()+1)%7][0]))
		days = append(days, d.Day())
	}
	slices.Sort(days)
	if slices.Equal(days, []int{0, 1, 2, 3, 4}) && len(o.Bysetpos) == 0 && o.Freq == rrule.WEEKLY && o.Interval <= 1 {
		return "workday", true
	}
	if len(names) == 1 {
		return names[0], true
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1], true
}

func ordinal(n int) string {
	switch {
	case n%10 == 1 && n != 11:
		return fmt.Sprintf("%dst", n)
	case n%10 == 2 && n != 12:
		return fmt.Sprintf("%dnd", n)
	case n%10 == 3 && n != 13:
		return fmt.Sprintf("%drd", n)
	}
	return fmt.Sprintf("%dth", n)
}
