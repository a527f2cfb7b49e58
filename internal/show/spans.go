package show

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Stretch is how long a stretch of days is.
type Stretch string

// The stretches: a week and a month by days, a year by months.
const (
	AWeek  Stretch = "week"
	AMonth Stretch = "month"
	AYear  Stretch = "year"
)

// Days are the account of several days, beside that of as many before.
type Days struct {
	Of    Stretch `json:"of" enum:"week,month,year"`
	Label string  `json:"label" doc:"Week 48, 23 to 29 November"`
	From  string  `json:"from" doc:"2006-01-02"`
	// Before and After are days by which the one before and after is asked for; "" where there is none.
	Before string      `json:"before,omitempty"`
	After  string      `json:"after,omitempty"`
	Parts  []DaysPart  `json:"parts"`
	All    DaysPart    `json:"all"`
	Beside []SheetLine `json:"beside" doc:"What has changed against as many days before, in words"`
}

// DaysPart is the account of a day or a month of them.
type DaysPart struct {
	From    string `json:"from" doc:"2006-01-02"`
	Label   string `json:"label"`
	Came    int    `json:"came"`
	Decided int    `json:"decided"`
	Night   int    `json:"night" doc:"Left undecided at its end; of several days, the mean of their nights, rounded"`
	Zeros   int    `json:"zeros" doc:"Low waters"`
	PutOffs int    `json:"putOffs"`
	Often   int    `json:"often" doc:"Put off more than twice"`
	// Mine and Theirs are medians in seconds; left out where nobody answered.
	Mine   *int64 `json:"mine,omitempty"`
	Theirs *int64 `json:"theirs,omitempty"`
	// MineSays and TheirsSays are the same in words.
	MineSays    string `json:"mineSays"`
	TheirsSays  string `json:"theirsSays"`
	Avoided     int    `json:"avoided" doc:"Interruptions kept out"`
	Interrupted int    `json:"interrupted" doc:"Interruptions there were"`
	Future      bool   `json:"future,omitempty" doc:"It has not begun"`
}

// Days gives the account of the week, month or year that has a day; of the present one without.
func (a *Show) Days(ctx context.Context, who store.Who, of Stretch, date string) (Days, error) {
	seen := a.Pasts.Seen(who.Inbox)
	return read(ctx, a, who, func(tx *store.Tx) (Days, error) {
		l, err := a.lookBack(tx, seen)
		if err != nil {
			return Days{}, err
		}
		day, err := l.dayOf(date)
		if err != nil {
			return Days{}, err
		}
		return l.stretch(of, day)
	})
}

// bounds are the first days of the parts of a stretch that has a day, and the first day after it.
func (v Viewer) bounds(of Stretch, day when.Date) ([]when.Date, error) {
	var out []when.Date
	switch of {
	case AWeek:
		first := v.Cal.WeekEnd(day).Add(-6)
		for i := range 8 {
			out = append(out, first.Add(i))
		}
	case AMonth:
		end := v.Cal.MonthEnd(day)
		for d := (when.Date{Year: day.Year, Month: day.Month, Day: 1}); !d.After(end); d = d.Add(1) {
			out = append(out, d)
		}
		out = append(out, end.Add(1))
	case AYear:
		for m := range 12 {
			out = append(out, when.Date{Year: day.Year, Month: time.Month(m + 1), Day: 1})
		}
		out = append(out, when.Date{Year: day.Year + 1, Month: time.January, Day: 1})
	default:
		return nil, work.Invalid("of", "Days are looked at by week, month or year.")
	}
	return out, nil
}

func (l lookBack) stretch(of Stretch, day when.Date) (Days, error) {
	bounds, err := l.bounds(of, day)
	if err != nil {
		return Days{}, err
	}
	first, end := bounds[0], bounds[len(bounds)-1]
	out := Days{Of: of, From: first.String(), Label: l.daysLabel(of, first, end.Add(-1)), Before: first.Add(-1).String(), Parts: []DaysPart{}, Beside: []SheetLine{}}
	today := l.Cal.Today(l.Now)
	if !end.After(today) {
		out.After = end.String()
	}
	all, err := l.days(first, end)
	if err != nil {
		return out, err
	}
	upTo := func(d when.Date) int { return min(first.DaysUntil(d), len(all)) }
	for i, from := range bounds[:len(bounds)-1] {
		one := part(from, all[upTo(from):upTo(bounds[i+1])])
		one.Label, one.Future = l.partLabel(of, from), l.Cal.Begins(from).After(l.Now)
		out.Parts = append(out.Parts, one)
	}
	out.All = part(first, all)
	out.All.Label = "All"
	// What is put beside it is what has wholly passed of it, and as much before: like beside like.
	before, err := l.bounds(of, first.Add(-1))
	if err != nil {
		return out, err
	}
	whole := 0
	for whole < min(len(bounds), len(before))-1 && !bounds[whole+1].After(today) {
		whole++
	}
	if whole == 0 {
		return out, nil
	}
	past, err := l.days(before[0], before[whole])
	if err != nil {
		return out, err
	}
	if earlier := part(before[0], past); earlier.Came+earlier.Decided > 0 {
		out.Beside = beside(earlier, part(first, all[:upTo(bounds[whole])]))
	}
	return out, nil
}

// part is the account of days.
func part(from when.Date, days []review.Day) DaysPart {
	t := review.Over(days)
	return DaysPart{
		From: from.String(), Came: t.Came, Decided: t.Decided, Night: t.Night, Zeros: t.Zeros, PutOffs: t.PutOffs, Often: t.Often, Mine: seconds(t.Mine), Theirs: seconds(t.Theirs),
		MineSays: medianInWords(t.Mine), TheirsSays: medianInWords(t.Theirs), Avoided: t.Avoided, Interrupted: t.Interrupted,
	}
}

func seconds(m review.Median) *int64 {
	if m.N == 0 {
		return nil
	}
	s := int64(m.Time.Seconds())
	return &s
}

func (v Viewer) daysLabel(of Stretch, first, last when.Date) string {
	name := func(d when.Date, layout string) string { return v.Cal.Instant(d, when.At(12, 0)).Format(layout) }
	switch of {
	case AMonth:
		return name(first, "January 2006")
	case AYear:
		return fmt.Sprint(first.Year)
	}
	if first.Month == last.Month {
		return fmt.Sprintf("%d to %s", first.Day, name(last, "2 January 2006"))
	}
	return name(first, "2 January") + " to " + name(last, "2 January 2006")
}

func (v Viewer) partLabel(of Stretch, d when.Date) string {
	layout := map[Stretch]string{AWeek: "Mon 2", AMonth: "2", AYear: "Jan"}[of]
	return v.Cal.Instant(d, when.At(12, 0)).Format(layout)
}

// beside says what has changed between two stretches that are alike; nothing of what stayed as it was.
func beside(was, now DaysPart) []SheetLine {
	out := []SheetLine{}
	add := func(says, before, after string) {
		if before != after {
			out = append(out, SheetLine{says, before + " → " + after})
		}
	}
	add("came", fmt.Sprint(was.Came), fmt.Sprint(now.Came))
	add("decided", fmt.Sprint(was.Decided), fmt.Sprint(now.Decided))
	add("undecided at night", fmt.Sprint(was.Night), fmt.Sprint(now.Night))
	add("low waters", fmt.Sprint(was.Zeros), fmt.Sprint(now.Zeros))
	add("put-offs", fmt.Sprint(was.PutOffs), fmt.Sprint(now.PutOffs))
	add("interruptions", fmt.Sprint(was.Interrupted), fmt.Sprint(now.Interrupted))
	add("you answered in", was.MineSays, now.MineSays)
	add("they answered in", was.TheirsSays, now.TheirsSays)
	return out
}

// Since is what has changed since somebody began: the first full week against the last one.
type Since struct {
	First string      `json:"first" doc:"Which week, in words; empty while there were no two full ones"`
	Last  string      `json:"last"`
	Lines []SheetLine `json:"lines"`
	Says  string      `json:"says" doc:"The same in a sentence"`
}

// Since compares the first full week with the last.
func (a *Show) Since(ctx context.Context, who store.Who) (Since, error) {
	seen := a.Pasts.Seen(who.Inbox)
	return read(ctx, a, who, func(tx *store.Tx) (Since, error) {
		out := Since{Lines: []SheetLine{}}
		v, err := a.lookBack(tx, seen)
		if err != nil {
			return out, err
		}
		began, err := tx.Began()
		if err != nil || began.IsZero() {
			return out, err
		}
		first := v.Cal.WeekEnd(v.Cal.Today(began)).Add(1) // the first week of which all is known
		last := v.Cal.WeekEnd(v.Cal.Today(v.Now)).Add(-13)
		if !first.Before(last) {
			return out, nil
		}
		week := func(from when.Date) (DaysPart, error) {
			days, err := v.days(from, from.Add(7))
			return part(from, days), err
		}
		was, err := week(first)
		if err != nil {
			return out, err
		}
		now, err := week(last)
		if err != nil {
			return out, err
		}
		out.First, out.Last = v.daysLabel(AWeek, first, first.Add(6)), v.daysLabel(AWeek, last, last.Add(6))
		out.Lines = beside(was, now)
		out.Says = sinceInWords(was, now)
		return out, nil
	})
}

func sinceInWords(was, now DaysPart) string {
	var parts []string
	add := func(before, after int, what string) {
		switch {
		case after < before:
			parts = append(parts, fmt.Sprintf("%d fewer %s", before-after, what))
		case after > before:
			parts = append(parts, fmt.Sprintf("%d more %s", after-before, what))
		}
	}
	add(was.Night, now.Night, "undecided at night")
	add(was.PutOffs, now.PutOffs, "put-offs")
	add(was.Interrupted, now.Interrupted, "interruptions")
	if len(parts) == 0 {
		return "As many undecided at night, put-offs and interruptions as in your first week."
	}
	return "Against your first full week: " + strings.Join(parts, ", ") + "."
}
