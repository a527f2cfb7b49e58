package show

import (
	"context"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/store"
)

// Band is a stretch of the day line during which delivery was or will be held.
type Band struct {
	From  time.Time      `json:"from"`
	To    time.Time      `json:"to"`
	Cause delivery.Cause `json:"cause" enum:"hold,closed,quiet"`
}

// Day is what the day line shows.
type Day struct {
	Date  string    `json:"date" doc:"2006-01-02"`
	Label string    `json:"label"`
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
	Now   time.Time `json:"now"`
	// Curve is the inbox as it was, Expected as it is expected to become.
	Curve    []review.Point    `json:"curve"`
	Expected []review.Expected `json:"expected"`
	High     int               `json:"high"`
	Held     []Band            `json:"held"`
	Rounds   []time.Time       `json:"rounds" doc:"When mail is let in"`
	Marks    []Entry           `json:"marks"`
	Up       []DayUp           `json:"up" doc:"When kinds of the Shallows come up"`
	Sorted   string            `json:"sorted,omitempty" doc:"What was sorted out of it that day, in words: 9 reading, 4 notices"`
	Ruled    string            `json:"ruled,omitempty" doc:"On what rules acted that day, in words: 12 letters by 2 rules"`
	Recent   []DecisionView    `json:"decisions" doc:"The day's decisions, newest first"`
}

// DayUp is when kinds of the Shallows come up.
type DayUp struct {
	At   time.Time `json:"at"`
	What string    `json:"what" doc:"Reading, Notices"`
}

// up are the times within [from, to) at which kinds come up by the plan.
func up(g gate.Gates, from, to time.Time) []DayUp {
	out := []DayUp{}
	for t := from.Add(-time.Nanosecond); ; {
		at, kinds := g.Common.NextKinds(t)
		if at.IsZero() || !at.Before(to) {
			return out
		}
		names := make([]string, len(kinds))
		for i, k := range kinds {
			about, _ := k.About()
			names[i] = about.Name
		}
		out, t = append(out, DayUp{at, strings.Join(names, ", ")}), at
	}
}

// DecisionView is a decision of a day.
type DecisionView struct {
	Entry int64     `json:"entry"`
	Kind  string    `json:"kind"`
	Title string    `json:"title"`
	At    time.Time `json:"at"`
}

func decisionView(e store.Entry) DecisionView {
	return DecisionView{Entry: e.ID, Kind: strings.TrimPrefix(e.Kind, "decide:"), Title: e.Title, At: e.At}
}

// farDays is how far the day line can be paged.
const farDays = 366

// maxMarks keeps a crowded day line readable and quick.
const maxMarks = 200

// Day gives the day line of the day that is away days from today: from the
// working day's start to its end, widened to hold what happened and is due.
func (a *Show) Day(ctx context.Context, who store.Who, away int) (Day, error) {
	away = min(max(away, -farDays), farDays)
	return read(ctx, a, who, func(tx *store.Tx) (out Day, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		day := v.Cal.Today(v.Now).Add(away)
		begins, ends := v.Cal.Begins(day), v.Cal.Begins(day.Add(1))
		out = Day{
			Date: day.String(), Label: v.Cal.Instant(day, when.At(12, 0)).Format("Monday 2 January"),
			Start: v.Cal.Instant(day, max(0, v.Cal.DayStart-90)), End: v.Cal.Instant(day, min(v.Cal.DayEnd+180, when.At(23, 59))), Now: v.Now,
			Curve: []review.Point{}, Expected: []review.Expected{}, Held: []Band{}, Marks: []Entry{}, Recent: []DecisionView{},
		}
		if out.Marks, err = coming(tx, v, begins, ends, maxMarks); err != nil {
			return out, err
		}
		out.Marks = slices.DeleteFunc(out.Marks, func(e Entry) bool { return e.At == nil }) // can't be read
		inbox, err := tx.Undecided(decide.Inbox)
		if err != nil {
			return out, err
		}
		if !begins.After(v.Now) {
			tide, err := v.tideOf(tx, inbox, begins, ends)
			if err != nil {
				return out, err
			}
			out.Curve, out.High = tide.Curve, tide.High
		}
		out.widen(begins, ends)
		g, err := gate.Of(tx)
		if err != nil {
			return out, err
		}
		if out.Held, err = bands(tx, g, out.Start, out.End); err != nil {
			return out, err
		}
		if out.Rounds, err = g.Rounds(tx, out.Start, v.Now, out.End); err != nil {
			return out, err
		}
		out.Up = up(g, out.Start, out.End)
		if err := out.future(tx, v, g, inbox); err != nil {
			return out, err
		}
		sorted, err := tx.SortedOf(begins, ends)
		if err != nil {
			return out, err
		}
		out.Sorted = sorting.Tally(sorted)
		ruled, err := tx.RuleTallies(begins, ends)
		if err != nil {
			return out, err
		}
		out.Ruled = ruledInWords(ruled)
		decisions, err := tx.Decisions(begins, ends, 500)
		for _, e := range decisions {
			out.Recent = append(out.Recent, decisionView(e))
		}
		return out, err
	})
}

// future fills in the curve that is expected.
func (d *Day) future(tx *store.Tx, v Viewer, g gate.Gates, inbox int) error {
	if !d.End.After(v.Now) {
		return nil
	}
	in, out, err := v.flows(tx)
	if err != nil {
		return err
	}
	today := v.Cal.Today(v.Now)
	o := review.Prospect{
		Now: v.Now, Count: inbox,
		In:  func(day when.Date) review.Hours { return in.Expect(day, today) },
		Out: func(day when.Date) review.Hours { return out.Expect(day, today) },
	}
	if o.Held, err = tx.CountHeld(nil); err != nil {
		return err
	}
	o.Gate = func(t time.Time) (bool, time.Time) {
		s := g.State(0, t)
		return s.Open, s.Next
	}
	returns, err := tx.ReturnTimes(v.Now, d.End)
	if err != nil {
		return err
	}
	o.Returns = returns
	for _, p := range review.Foresee(o, d.End, v.Cal) {
		if !p.At.Before(d.Start) {
			d.Expected = append(d.Expected, p)
			d.High = max(d.High, int(p.Count+0.5))
		}
	}
	return nil
}

// flows are the history of what came into the inbox and of what was decided.
// What comes is counted when the letters came, not when a hold let them in.
func (v Viewer) flows(tx *store.Tx) (in, out review.History, err error) {
	today := v.Cal.Today(v.Now)
	from, to := v.Cal.Begins(today.Add(-7*review.Weeks)), v.Cal.Begins(today)
	tallies, err := tx.Tallies(from, to)
	in, out = review.History{}, review.History{}
	letters, conversations := 0, 0
	for _, q := range tallies {
		letters += q.Came
		conversations += q.Entered
	}
	for _, q := range tallies {
		if q.Came > 0 {
			// Some letters come to conversations that are in the inbox already.
			in.Add(q.At, float64(q.Came)*float64(conversations)/float64(letters), v.Cal.Zone)
		}
		if q.Gone > 0 {
			out.Add(q.At, float64(q.Gone), v.Cal.Zone)
		}
	}
	return in, out, err
}

// widen makes room for now and for every mark within the day.
func (d *Day) widen(begins, ends time.Time) {
	at := []time.Time{d.Now}
	for _, m := range d.Marks {
		at = append(at, *m.At)
	}
	for _, t := range at {
		if t.Before(d.Start) && !t.Before(begins) {
			d.Start = t.Truncate(time.Hour)
		}
		if t.After(d.End) && t.Before(ends) {
			d.End = t.Truncate(time.Hour).Add(time.Hour)
		}
	}
}

// dayStart is when the person's present day began.
func dayStart(c when.Calendar, now time.Time) time.Time { return c.Begins(c.Today(now)) }
