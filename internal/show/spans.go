package show

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
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

// nights are when days end.
type nights []time.Time

// Days gives the account of the week, month or year that has a day; of the present one without.
func (a *Show) Days(ctx context.Context, who store.Who, of Stretch, date string) (Days, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Days, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return Days{}, err
		}
		day, err := v.dayOf(date)
		if err != nil {
			return Days{}, err
		}
		return v.days(tx, of, day)
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

func (v Viewer) days(tx *store.Tx, of Stretch, day when.Date) (Days, error) {
	bounds, err := v.bounds(of, day)
	if err != nil {
		return Days{}, err
	}
	first, end := bounds[0], bounds[len(bounds)-1]
	out := Days{Of: of, From: first.String(), Label: v.daysLabel(of, first, end.Add(-1)), Before: first.Add(-1).String(), Parts: []DaysPart{}, Beside: []SheetLine{}}
	today := v.Cal.Today(v.Now)
	if !end.After(today) {
		out.After = end.String()
	}
	// What is put beside it is what has wholly passed of it, and as much before: like beside like.
	before, err := v.bounds(of, first.Add(-1))
	if err != nil {
		return out, err
	}
	since := v.Cal.Begins(before[0])
	passed, err := tx.Passed(since, v.until(end))
	if err != nil {
		return out, err
	}
	inbox, err := tx.Undecided(decide.Inbox)
	if err != nil {
		return out, err
	}
	tide, err := v.tideOf(tx, inbox, since, v.Cal.Begins(end))
	if err != nil {
		return out, err
	}
	account := func(from, to when.Date) DaysPart { return v.part(passed, tide, from, to) }
	for i, from := range bounds[:len(bounds)-1] {
		one := account(from, bounds[i+1])
		one.Label = v.partLabel(of, from)
		out.Parts = append(out.Parts, one)
	}
	out.All = account(first, end)
	out.All.Label = "All"
	whole := 0
	for whole < min(len(bounds), len(before))-1 && !bounds[whole+1].After(today) {
		whole++
	}
	if whole == 0 {
		return out, nil
	}
	if earlier := account(before[0], before[whole]); earlier.Came+earlier.Decided > 0 {
		out.Beside = beside(earlier, account(first, bounds[whole]))
	}
	return out, nil
}

// until is the end of a day that is looked back on: now, where it has not passed.
func (v Viewer) until(day when.Date) time.Time {
	if end := v.Cal.Begins(day); !end.After(v.Now) {
		return end
	}
	return v.Now.Add(time.Millisecond)
}

// part is the account of days.
func (v Viewer) part(passed review.Passed, tide review.Tide, from, to when.Date) DaysPart {
	begins, ends := v.Cal.Begins(from), v.Cal.Begins(to)
	out := DaysPart{From: from.String(), Future: begins.After(v.Now)}
	sum := passed.Within(begins, ends).Sum()
	for _, p := range sum.Came {
		out.Came += p.N
	}
	for _, t := range sum.Decided {
		out.Decided += t.N
	}
	for _, z := range tide.Zeros {
		if !z.Before(begins) && z.Before(ends) {
			out.Zeros++
		}
	}
	var at nights
	for d := from; d.Before(to); d = d.Add(1) {
		if v.Cal.Begins(d).After(v.Now) {
			break
		}
		at = append(at, v.Cal.Begins(d.Add(1)))
	}
	out.Night = at.mean(tide.Curve)
	out.PutOffs, out.Often = sum.PutOffs, sum.Often
	out.Mine, out.Theirs = seconds(sum.Mine), seconds(sum.Theirs)
	out.MineSays, out.TheirsSays = medianInWords(sum.Mine), medianInWords(sum.Theirs)
	out.Avoided, out.Interrupted = sum.Avoided, sum.Interrupted
	return out
}

// mean is how many there were at these times, by a curve.
func (n nights) mean(curve []review.Point) int {
	if len(n) == 0 || len(curve) == 0 {
		return 0
	}
	sum, i, count := 0, 0, curve[0].Count
	for _, t := range n {
		for i < len(curve) && curve[i].At.Before(t) {
			count = curve[i].Count
			i++
		}
		sum += count
	}
	return (sum + len(n)/2) / len(n)
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
	return read(ctx, a, who, func(tx *store.Tx) (Since, error) {
		out := Since{Lines: []SheetLine{}}
		v, err := a.Viewer(tx)
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
			d, err := v.days(tx, AWeek, from)
			return d.All, err
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
