package show

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// DaySheet is the account of a day, in words wherever it is read.
type DaySheet struct {
	Date  string `json:"date" doc:"2006-01-02"`
	Label string `json:"label" doc:"Tuesday 24 November"`
	Head  string `json:"head" doc:"The day in a line"`
	Today bool   `json:"today"`
	// Before and After are the days beside it; today has none after it.
	Before string    `json:"before"`
	After  string    `json:"after,omitempty"`
	Begun  bool      `json:"begun" doc:"Something of this day or before it is known"`
	Begin  time.Time `json:"begin" doc:"Where the curve begins …"`
	End    time.Time `json:"end" doc:"… and ends"`
	// Curve is the inbox as it was, Zeros the low waters.
	Curve []review.Point `json:"curve"`
	High  int            `json:"high"`
	Zeros []time.Time    `json:"zeros"`

	Came    SheetBar `json:"came"`
	Decided SheetBar `json:"decided"`
	// Sorts says of what kinds that was which was sorted out.
	Sorts string      `json:"sorts,omitempty"`
	Lines []SheetLine `json:"lines" doc:"Answer times, put-offs, what is left"`

	Ran      []SheetRan     `json:"ran" doc:"What ran by itself"`
	Waits    []SheetWait    `json:"waits" doc:"What waits longest on the person"`
	Tomorrow *SheetTomorrow `json:"tomorrow,omitempty" doc:"What the next working day holds; of today only"`
}

// SheetBar are parts of a whole.
type SheetBar struct {
	N     int         `json:"n"`
	Parts []SheetPart `json:"parts"`
}

// SheetPart is a part of what came, or of what was decided.
type SheetPart struct {
	Key  string `json:"key" doc:"How it came, or the decision"`
	Says string `json:"says"`
	N    int    `json:"n"`
}

// SheetLine is a value under a name.
type SheetLine struct {
	Says  string `json:"says"`
	Value string `json:"value"`
}

// SheetRan is something that ran by itself, so many times.
type SheetRan struct {
	Says string `json:"says"`
	N    int    `json:"n"`
	Rule int64  `json:"rule,omitempty" doc:"The rule that did so"`
}

// SheetWait is a conversation that waits for an answer.
type SheetWait struct {
	Conversation int64  `json:"conversation"`
	Who          string `json:"who"`
	Title        string `json:"title"`
	Long         string `json:"long" doc:"How long: 3 d"`
}

// SheetTomorrow is what the next working day holds.
type SheetTomorrow struct {
	Label string      `json:"label" doc:"Tomorrow, or the name of the day"`
	Free  string      `json:"free" doc:"195 min free"`
	Lines []SheetLine `json:"lines"`
	Fits  string      `json:"fits" doc:"Whether it fits, in words"`
	Over  bool        `json:"over"`
}

const (
	// longWaits are how many of what waits longest stand on the sheet.
	longWaits = 5
	// ahead is how many days ahead a working day is looked for.
	ahead = 8
)

// DaySheet gives the account of a day; of today without one.
func (a *Show) DaySheet(ctx context.Context, who store.Who, date string) (DaySheet, error) {
	return read(ctx, a, who, func(tx *store.Tx) (DaySheet, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return DaySheet{}, err
		}
		day, err := v.dayOf(date)
		if err != nil {
			return DaySheet{}, err
		}
		return v.sheet(tx, day)
	})
}

// dayOf reads a day that has begun; today where none is named.
func (v Viewer) dayOf(date string) (when.Date, error) {
	today := v.Cal.Today(v.Now)
	if date == "" {
		return today, nil
	}
	t, err := time.Parse(time.DateOnly, date)
	if err != nil {
		return today, work.Invalid("date", "“%s” is no day. Write it as 2026-11-24.", say.Shorten(date, 40))
	}
	if day := when.DateOf(t); !day.After(today) {
		return day, nil
	}
	return today, work.Invalid("date", "%s has not begun.", t.Format("2 January 2006"))
}

func (v Viewer) sheet(tx *store.Tx, day when.Date) (DaySheet, error) {
	from, to, isToday := v.Cal.Begins(day), v.Cal.Begins(day.Add(1)), day == v.Cal.Today(v.Now)
	until := to
	if isToday {
		until = v.Now.Add(time.Millisecond)
	}
	out := DaySheet{
		Date: day.String(), Label: v.Cal.Instant(day, when.At(12, 0)).Format("Monday 2 January"), Today: isToday,
		Begin: v.Cal.Instant(day, max(0, v.Cal.DayStart-90)), End: v.Cal.Instant(day, min(v.Cal.DayEnd+180, when.At(23, 59))),
		Curve: []review.Point{}, Zeros: []time.Time{}, Ran: []SheetRan{}, Waits: []SheetWait{},
	}
	if out.Before = day.Add(-1).String(); !isToday {
		out.After = day.Add(1).String()
	}
	if day.Year != v.Cal.Today(v.Now).Year {
		out.Label += fmt.Sprintf(" %d", day.Year)
	}
	inbox, err := tx.Undecided(decide.Inbox)
	if err != nil {
		return out, err
	}
	tide, err := v.tideOf(tx, inbox, from, until)
	if err != nil {
		return out, err
	}
	out.Curve, out.High, out.Zeros = tide.Curve, tide.High, OrEmpty(tide.Zeros)
	out.widen(from, to)
	passed, err := tx.Passed(from, until)
	if err != nil {
		return out, err
	}
	sum := passed.Sum()
	out.Begun = out.High > 0 || len(passed.Came) > 0 || len(passed.Moved) > 0
	out.Came, out.Decided, out.Sorts = v.cameBar(sum), decidedBar(sum), sortsInWords(sum)
	left := tide.Curve[len(tide.Curve)-1].Count
	out.Lines = sheetLines(sum, left, isToday)
	out.Head = headline(sum, len(out.Zeros), out.Decided.N)
	if err := out.ran(tx, from, until); err != nil {
		return out, err
	}
	if err := out.waits(tx, until); err != nil {
		return out, err
	}
	if isToday {
		out.Tomorrow, err = v.tomorrow(tx)
	}
	return out, err
}

// tideOf is the curve of a stretch of time, as far as it has passed; inbox is how many are there now.
func (v Viewer) tideOf(tx *store.Tx, inbox int, from, until time.Time) (review.Tide, error) {
	end := until
	if until.After(v.Now) {
		end, until = v.Now, v.Now.Add(time.Millisecond) // what happens now has happened
	} else {
		since, err := tx.InboxSince(until)
		if err != nil {
			return review.Tide{}, err
		}
		inbox -= since
	}
	minutes, err := tx.Tide(from, until)
	return review.TideOf(from, end, inbox, minutes), err
}

// widen makes room for all that moved.
func (s *DaySheet) widen(from, to time.Time) {
	for i, p := range s.Curve {
		if i == 0 || i == len(s.Curve)-1 {
			continue // where it begins and ends
		}
		if p.At.Before(s.Begin) && !p.At.Before(from) {
			s.Begin = p.At.Truncate(time.Hour)
		}
		if p.At.After(s.End) && p.At.Before(to) {
			s.End = p.At.Truncate(time.Hour).Add(time.Hour)
		}
	}
}

var cameWords = map[review.How]string{
	review.AtOnce: "as they came", review.LetThrough: "let through", review.CameBack: "came back", review.SortedOut: "Shallows",
	review.Refused: "refused", review.Purged: "since purged",
}

func (v Viewer) cameBar(sum review.Account) SheetBar {
	out := SheetBar{Parts: []SheetPart{}}
	for _, p := range sum.Came {
		says := cameWords[p.How]
		if p.How == review.InRound {
			says = p.Round.In(v.Cal.Zone).Format("15:04") + " round"
		}
		out.Parts = append(out.Parts, SheetPart{Key: string(p.How), Says: says, N: p.N})
		out.N += p.N
	}
	return out
}

// decidedWords leave out what joins a decision to the names of letters.
var decidedWords = strings.NewReplacer(" with", "", " from", "", " back", "")

func decidedBar(sum review.Account) SheetBar {
	out := SheetBar{Parts: []SheetPart{}}
	for _, t := range sum.Decided {
		out.Parts = append(out.Parts, SheetPart{Key: string(t.Kind), Says: decidedWords.Replace(t.Kind.About().Did), N: t.N})
		out.N += t.N
	}
	return out
}

func sortsInWords(sum review.Account) string {
	of := map[sorting.Kind]int{}
	for _, s := range sum.Sorts {
		of[s.Kind] = s.N
	}
	return sorting.Tally(of)
}

// headline is a day in a line; it says what happened, and judges nothing.
func headline(sum review.Account, zeros, decided int) string {
	var parts []string
	switch zeros {
	case 0:
	case 1:
		parts = append(parts, "low water")
	default:
		parts = append(parts, fmt.Sprintf("%d low waters", zeros))
	}
	if decided > 0 {
		words := fmt.Sprintf("%d decided", decided)
		if sum.Spent > 0 {
			words += " in " + say.Length(sum.Spent)
		}
		parts = append(parts, words)
	}
	if sum.Pace.N > 0 {
		parts = append(parts, "median "+say.Length(sum.Pace.Time))
	}
	if sum.Avoided > 0 {
		parts = append(parts, say.Count(sum.Avoided, "interruption")+" kept out")
	}
	return strings.Join(parts, " · ")
}

func medianInWords(m review.Median) string {
	if m.N == 0 {
		return "none"
	}
	return say.Length(m.Time)
}

func sheetLines(sum review.Account, left int, isToday bool) []SheetLine {
	undecided := "left undecided"
	if isToday {
		undecided = "undecided now"
	}
	return []SheetLine{
		{"you, median", medianInWords(sum.Mine)}, {"they, median", medianInWords(sum.Theirs)},
		{"put off more than twice", fmt.Sprint(sum.Often)}, {undecided, fmt.Sprint(left)},
	}
}

// clockWords are what is said of what fell due, in their order.
var clockWords = []struct {
	kind schedule.Kind
	says string
}{
	{schedule.Return, "came back on time"}, {schedule.Limit, "waited for without an answer"}, {schedule.Look, "looked through again"}, {schedule.Reminder, "reminders rang"},
	{schedule.Alarm, "appointments announced"}, {schedule.Surface, "kinds of the Shallows came up"}, {schedule.Purge, "purged from the bin"},
}

// sentWords are what is said of letters that were sent by themselves.
var sentWords = map[string]string{"holding": "holding notes sent", "absence": "absence notes sent", "rule": "answers by rules"}

func (s *DaySheet) ran(tx *store.Tx, from, until time.Time) error {
	rules, err := tx.RuleTallies(from, until)
	if err != nil {
		return err
	}
	all, err := tx.Rules()
	if err != nil {
		return err
	}
	for _, r := range all {
		if n := rules[r.ID].N; n > 0 {
			s.Ran = append(s.Ran, SheetRan{Says: "Rule “" + r.Name + "”", N: n, Rule: r.ID})
			delete(rules, r.ID)
		}
	}
	gone := 0
	for _, t := range rules {
		gone += t.N
	}
	if gone > 0 {
		s.Ran = append(s.Ran, SheetRan{Says: "Rules that are no longer there", N: gone})
	}
	clock, err := tx.ByTheClock(from, until)
	if err != nil {
		return err
	}
	for _, w := range clockWords {
		if n := clock[w.kind.String()]; n > 0 {
			s.Ran = append(s.Ran, SheetRan{Says: "The clock: " + w.says, N: n})
		}
	}
	sent, err := tx.SentBy(from, until)
	if err != nil {
		return err
	}
	var notes []SheetRan
	for kind, n := range sent {
		notes = append(notes, SheetRan{Says: letter.Capital(cmp.Or(sentWords[kind], "letters sent")), N: n})
	}
	slices.SortFunc(notes, func(a, b SheetRan) int { return cmp.Compare(a.Says, b.Says) })
	s.Ran = append(s.Ran, notes...)
	return nil
}

func (s *DaySheet) waits(tx *store.Tx, until time.Time) error {
	list, err := tx.LongWaiting(until, longWaits)
	for _, w := range list {
		who := letter.Address{Name: w.Name, Email: w.Email}
		s.Waits = append(s.Waits, SheetWait{w.Conversation, who.Display(), cmp.Or(w.Ask, w.Subject, "(no subject)"), say.Length(until.Sub(w.Since.Time))})
	}
	return err
}

// tomorrow is what the next day holds on which there is time.
func (v Viewer) tomorrow(tx *store.Tx) (*SheetTomorrow, error) {
	pace, err := v.pace(tx)
	if err != nil {
		return nil, err
	}
	days, err := v.load(tx, ahead, pace)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(days[1:], func(d load.Day) bool { return d.Free > 0 }) + 1
	if i == 0 {
		return nil, nil
	}
	d := days[i]
	out := SheetTomorrow{Label: "Tomorrow", Free: fmt.Sprintf("%d min free", int(d.Free.Minutes())), Lines: []SheetLine{}}
	if i > 1 {
		out.Label = d.Date.Weekday().String()
	}
	add := func(says, value string) { out.Lines = append(out.Lines, SheetLine{says, value}) }
	add("Follow-ups due", fmt.Sprint(d.Tasks))
	add("Come back", say.Count(d.Returns, "letter"))
	in, _, err := v.flows(tx)
	if err != nil {
		return nil, err
	}
	expected := 0.0
	for _, n := range in.Expect(d.Date, v.Cal.Today(v.Now)) {
		expected += n
	}
	if expected >= 1 {
		add("Expected to come", fmt.Sprintf("about %.0f", expected))
		d.Planned += time.Duration(expected * float64(pace))
	}
	add("All of it", say.Length(d.Planned))
	if out.Over = d.Over(0); out.Over {
		out.Fits = fmt.Sprintf("%s more than there is.", say.Length(d.Planned-d.Free))
	} else {
		out.Fits = "It fits."
	}
	return &out, nil
}
