// Package delivery decides when letters may reach the person: by a week's plan
// of rounds, quiet hours and closed blocks, by holds and openings of the
// moment, and by what is let through at any time. It is pure: the state of the
// gate follows from the plan, what was done by hand, the calendar and the
// moment.
package delivery

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// Span is a stretch of a day, [From, To) in minutes after midnight; To may be
// 1440, which is the day's end.
type Span struct {
	From when.Minute `json:"from" minimum:"0" maximum:"1440"`
	To   when.Minute `json:"to" minimum:"0" maximum:"1440"`
}

// String prints the span as 9:00-11:30.
func (s Span) String() string { return clockText(s.From) + "-" + clockText(s.To) }

// DayPlan is what a plan says of one day.
type DayPlan struct {
	// Rounds are the times at which mail is let in.
	Rounds []when.Minute `json:"rounds" maxItems:"500" nullable:"false"`
	// Quiet hours and Closed blocks hold mail back, and rounds with it.
	Quiet  []Span `json:"quiet" maxItems:"500" nullable:"false"`
	Closed []Span `json:"closed" maxItems:"500" nullable:"false"`
}

// Exception is a day that is not as its weekday: a holiday, a day off.
type Exception struct {
	Date string `json:"date" doc:"2006-01-02"`
	Name string `json:"name,omitempty" maxLength:"100"`
	DayPlan
}

// Plan is a week. The zero Plan lets mail flow.
type Plan struct {
	// Days is indexed by time.Weekday.
	Days       [7]DayPlan  `json:"days"`
	Exceptions []Exception `json:"exceptions" maxItems:"1000" nullable:"false"`
	// Kinds are the times at which kinds of the Shallows come up. They hold nothing.
	Kinds []KindRound `json:"kinds,omitempty" maxItems:"500" nullable:"false"`
}

const (
	day = when.Minute(24 * 60)
	// WithinDays is how soon a plan must yield a delivery, from any moment
	// outside dated exceptions; ExceptionDays from within them.
	WithinDays    = 8
	ExceptionDays = 60
	// most bounds how many entries a plan has.
	most = 5000
)

// HasRounds tells whether the plan has rounds at all: then mail is let in only
// by them.
func (p Plan) HasRounds() bool {
	has := func(d DayPlan) bool { return len(d.Rounds) > 0 }
	return slices.ContainsFunc(p.Days[:], has) || slices.ContainsFunc(p.Exceptions, func(e Exception) bool { return has(e.DayPlan) })
}

// Flows tells whether the plan never holds anything.
func (p Plan) Flows() bool {
	empty := func(d DayPlan) bool { return len(d.Rounds)+len(d.Quiet)+len(d.Closed) == 0 }
	return !slices.ContainsFunc(p.Days[:], func(d DayPlan) bool { return !empty(d) }) &&
		!slices.ContainsFunc(p.Exceptions, func(e Exception) bool { return !empty(e.DayPlan) })
}

// Empty tells whether it says nothing at all.
func (p Plan) Empty() bool { return p.Flows() && len(p.Kinds) == 0 }

// Tidy sorts all that a plan names, and makes rounds of one minute one.
func (p Plan) Tidy() Plan {
	tidy := func(d DayPlan) DayPlan {
		spans := func(list []Span) []Span {
			out := append([]Span{}, list...)
			slices.SortFunc(out, func(a, b Span) int { return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.To, b.To)) })
			return out
		}
		rounds := append([]when.Minute{}, d.Rounds...)
		slices.Sort(rounds)
		return DayPlan{Rounds: slices.Compact(rounds), Quiet: spans(d.Quiet), Closed: spans(d.Closed)}
	}
	for i, d := range p.Days {
		p.Days[i] = tidy(d)
	}
	p.Exceptions = append([]Exception{}, p.Exceptions...)
	for i, e := range p.Exceptions {
		p.Exceptions[i].DayPlan = tidy(e.DayPlan)
	}
	p.Kinds = tidyKinds(p.Kinds)
	slices.SortStableFunc(p.Exceptions, func(a, b Exception) int { return cmp.Compare(a.Date, b.Date) })
	return p
}

// Check tells what is wrong with a plan, for the person; nil if it can be put
// in force in this calendar.
func (p Plan) Check(c when.Calendar) error {
	p = p.Tidy()
	entries := 0
	check := func(name string, d DayPlan) error {
		entries += len(d.Rounds) + len(d.Quiet) + len(d.Closed)
		for _, r := range d.Rounds {
			if r < 0 || r >= day {
				return fmt.Errorf("%s has a round outside the day", name)
			}
		}
		return errors.Join(checkSpans(name, "closed block", d.Closed), checkSpans(name, "quiet time", d.Quiet))
	}
	for i, d := range p.Days {
		if err := check(time.Weekday(i).String(), d); err != nil {
			return err
		}
	}
	for i, e := range p.Exceptions {
		date, ok := when.ReadDate(e.Date)
		if !ok {
			return fmt.Errorf("“%s” is no date", e.Date)
		}
		if i > 0 && p.Exceptions[i-1].Date == e.Date {
			return fmt.Errorf("%s is there twice", e.Date)
		}
		if err := check(date.Weekday().String()+" "+e.Date, e.DayPlan); err != nil {
			return err
		}
	}
	if err := checkKinds(p.Kinds); err != nil {
		return err
	}
	if entries += len(p.Kinds); entries > most {
		return fmt.Errorf("a plan has at most %d rounds, quiet times and closed blocks", most)
	}
	return p.checkOpens(c)
}

func checkSpans(name, what string, list []Span) error {
	for i, s := range list {
		if s.From < 0 || s.To > day || s.From >= s.To {
			return fmt.Errorf("%s: the %s %s is empty", name, what, s)
		}
		if i > 0 && list[i-1].To > s.From {
			return fmt.Errorf("%s: the %ss %s and %s overlap; make them one", name, what, list[i-1], s)
		}
	}
	return nil
}

// checkOpens tells whether every letter would be let in soon enough. The week
// repeats itself, so a delivery within two weeks from a moment far from any
// exception means one in every eight days.
func (p Plan) checkOpens(c when.Calendar) error {
	weekly := Plan{Days: p.Days}
	// Mail that only rounds let in has none in a week whose rounds stand in
	// exceptions alone.
	monday := when.Date{Year: 2001, Month: time.January, Day: 1}
	utc := when.Standard(time.UTC)
	if p.HasRounds() && !weekly.HasRounds() {
		return errors.New("only exceptions have rounds, so that no other day lets anything in; give the week a round")
	}
	gate := NewGate(weekly, utc)
	start := utc.Boundary(monday, 0)
	if held := gate.State(start, OneOff{}); !held.Open && (held.Next.IsZero() || held.Next.After(start.AddDate(0, 0, WithinDays))) {
		return fmt.Errorf("this plan would never let anything in: every hour of the week is held, its rounds too. Leave some time open")
	}
	full := NewGate(p, c)
	for _, e := range p.Exceptions {
		date, _ := when.ReadDate(e.Date)
		at := c.Boundary(date, 0)
		s := full.State(at, OneOff{})
		if !s.Open && (s.Next.IsZero() || s.Next.After(at.AddDate(0, 0, ExceptionDays))) {
			return fmt.Errorf("from %s on nothing would be let in for more than %d days", e.Date, ExceptionDays)
		}
	}
	return nil
}

// Moved is a round that comes later than it stands in the plan, since it lies
// in held time.
type Moved struct {
	Day   string      `json:"day" doc:"A weekday or a date"`
	Round when.Minute `json:"round"`
	To    string      `json:"to" doc:"When it comes instead, in words"`
	// Kind is the kind of the Shallows that comes up by it; "" for letters.
	Kind sorting.Kind `json:"kind,omitempty"`
}

// MovedRounds lists the rounds inside held time and what happens instead.
func (p Plan) MovedRounds() []Moved {
	utc := when.Standard(time.UTC)
	gate := NewGate(Plan{Days: p.Days}, utc)
	monday := when.Date{Year: 2001, Month: time.January, Day: 1}
	var out []Moved
	for i := range 7 {
		d := monday.Add(i)
		for _, r := range p.Days[d.Weekday()].Rounds {
			at := utc.Boundary(d, r)
			to, ok := gate.heldUntil(at, OneOff{})
			if !ok || to.IsZero() {
				continue
			}
			out = append(out, Moved{Day: d.Weekday().String(), Round: r, To: wordsOf(to, d)})
		}
		for _, r := range p.Kinds {
			if r.Day != d.Weekday() {
				continue
			}
			if to, ok := gate.heldUntil(utc.Boundary(d, r.At), OneOff{}); ok && !to.IsZero() {
				out = append(out, Moved{Day: d.Weekday().String(), Kind: r.Kind, Round: r.At, To: wordsOf(to, d)})
			}
		}
	}
	return out
}

// wordsOf is a time of a day; with its weekday where that is another day.
func wordsOf(to time.Time, d when.Date) string {
	if when.DateOf(to) != d {
		return to.Format("Monday 15:04")
	}
	return to.Format("15:04")
}
