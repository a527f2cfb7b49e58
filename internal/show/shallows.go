package show

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// Shallows is what is sorted out of the inbox, by kind.
type Shallows struct {
	N int `json:"n"`
	// Before are conversations of the inbox that were never sorted: imported, or on the server of an account before.
	Before int     `json:"before" doc:"Conversations of the inbox that were there before and never sorted"`
	Kinds  []Shoal `json:"kinds"`
}

// Shoal is what lies there of a kind.
type Shoal struct {
	Kind sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies"`
	Name string       `json:"name"`
	What string       `json:"what"`
	// Out tells that what comes of it is sorted out.
	Out bool `json:"out"`
	// Rounds say when it comes up by itself.
	Rounds string `json:"rounds,omitempty" doc:"fri 15:00"`
	N      int    `json:"n"`
	Unread int    `json:"unread"`
	// Note says what matters of it: "2 to pay", "38 min".
	Note string `json:"note"`
	// Lines hold the newest conversations; More are those that are in none.
	Lines []ShoalLine `json:"lines"`
	More  int         `json:"more"`
}

// ShoalLine is a line of a kind: a letter, a source of notices with all that came of it, or an
// appointment with all who have answered.
type ShoalLine struct {
	Key string `json:"key" doc:"Tells it from the others of the view"`
	// Rows are its conversations, the newest first.
	Rows []Row `json:"rows"`
	// Head is what it is about, Says what it says of that.
	Head string `json:"head"`
	Says string `json:"says"`
	// Why is why its newest letter lies here.
	Why     string    `json:"why"`
	List    bool      `json:"list,omitempty" doc:"It came by a list"`
	Bill    *BillView `json:"bill,omitempty"`
	Minutes int       `json:"minutes,omitempty" doc:"How long it takes to read"`
	Dots    []int     `json:"dots,omitempty" doc:"When its letters of the last seven days came, in thousandths of these"`
	Pace    string    `json:"pace,omitempty" doc:"How often it came: 7 since Wed"`
}

// What is shown of a kind at most, and of how many the originals are read for what is found
// in them.
const (
	mostOfKind  = 200
	mostRead    = 60
	dotDays     = 7
	mostSpoken  = 6
	fewInSource = 2
)

// Shallows gives what lies there.
func (a *Show) Shallows(ctx context.Context, who store.Who) (Shallows, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Shallows, error) {
		out := Shallows{Kinds: []Shoal{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		plan, err := commonPlan(tx)
		if err != nil {
			return out, err
		}
		if out.Before, err = tx.NeverSorted(); err != nil {
			return out, err
		}
		depths, err := tx.Depths()
		if err != nil {
			return out, err
		}
		for _, about := range sorting.Table {
			depth := store.Depth{Kind: about.Kind}
			if i := slices.IndexFunc(depths, func(d store.Depth) bool { return d.Kind == about.Kind }); i >= 0 {
				depth = depths[i]
			}
			shoal, err := v.shoal(tx, about, depth)
			if err != nil {
				return out, err
			}
			shoal.Out = v.Person.Sorts().Has(about.Kind)
			shoal.Rounds = delivery.KindRoundsText(plan.Of(about.Kind))
			out.N += shoal.N
			out.Kinds = append(out.Kinds, shoal)
		}
		return out, nil
	})
}

func (v Viewer) shoal(tx *store.Tx, about sorting.About, d store.Depth) (Shoal, error) {
	out := Shoal{Kind: about.Kind, Name: about.Name, What: about.What, N: d.N, Unread: d.Unread, Lines: []ShoalLine{}}
	if d.N == 0 {
		return out, nil
	}
	lying, err := tx.Lying(about.Kind, mostOfKind)
	if err != nil {
		return out, err
	}
	out.More = max(0, d.N-len(lying))
	ids := make([]int64, len(lying))
	for i, r := range lying {
		ids[i] = r.ID
	}
	speakers, err := tx.Speakers(ids)
	if err != nil {
		return out, err
	}
	lines, minutes := make([]ShoalLine, len(lying)), 0
	for i, r := range lying {
		l := speakers[r.ID]
		if about.Kind == sorting.Reading {
			minutes += sorting.Minutes(l.Words)
		}
		lines[i] = ShoalLine{Key: fmt.Sprint(r.ID), Rows: []Row{v.row(r)}, Head: r.From.Display(), Says: r.Title(), Why: l.Sort.Why, List: l.List != ""}
	}
	switch about.Kind {
	case sorting.Receipts:
		out.Note, err = v.ledger(tx, lines, lying, speakers)
	case sorting.Meetings:
		lines, err = v.answers(tx, lines, lying, speakers)
	case sorting.Notices:
		lines = sources(lines)
		v.dots(lines)
		out.Note = say.Count(len(lines), "source")
	case sorting.Reading:
		lines = sources(lines)
		for i := range lines {
			for _, r := range lines[i].Rows {
				lines[i].Minutes += sorting.Minutes(speakers[r.ID].Words)
			}
			if more := len(lines[i].Rows) - 1; more > 0 {
				lines[i].Says += fmt.Sprintf(" and %d more", more)
			}
		}
		out.Note = fmt.Sprintf("%d min", minutes)
	case sorting.Copies, sorting.Person:
	}
	out.Lines = lines
	return out, err
}

// ledger adds to receipts what is found in them, and says what is to be paid and what is late.
func (v Viewer) ledger(tx *store.Tx, lines []ShoalLine, lying []store.Row, speakers map[int64]store.Speaker) (string, error) {
	originals, err := v.originals(tx, lying, speakers)
	if err != nil {
		return "", err
	}
	bills := make([]*datedBill, len(lying))
	for i, r := range lying {
		bills[i] = &datedBill{}
		if l, ok := originals[speakers[r.ID].Letter]; ok {
			date := cmp.Or(l.Date, speakers[r.ID].Received)
			*bills[i] = datedBill{v.billOf(l, date), date}
		}
	}
	if err := v.follow(tx, bills); err != nil {
		return "", err
	}
	due, late := 0, 0
	for i := range lying {
		b := v.billView(bills[i].Bill)
		if lines[i].Bill = b; b == nil {
			continue
		}
		if len(b.Numbers) > 0 {
			lines[i].Says = strings.Join(b.Numbers, ", ")
		}
		if b.Payment == findings.Ahead || b.Payment == findings.Late {
			due++
		}
		if b.Way == findings.Late {
			late++
		}
	}
	var notes []string
	if due > 0 {
		notes = append(notes, fmt.Sprintf("%d to pay", due))
	}
	if late > 0 {
		notes = append(notes, fmt.Sprintf("%d late", late))
	}
	return strings.Join(notes, ", "), nil
}

// originals reads the letters that speak for the first of some conversations. One that can't be
// read is left out.
func (v Viewer) originals(tx *store.Tx, lying []store.Row, speakers map[int64]store.Speaker) (map[int64]letter.Letter, error) {
	var ids []int64
	for _, r := range lying[:min(len(lying), mostRead)] {
		ids = append(ids, speakers[r.ID].Letter)
	}
	raw, err := tx.OriginalsOf(ids)
	out := make(map[int64]letter.Letter, len(raw))
	for id, r := range raw {
		out[id] = letter.Parse(r)
	}
	return out, err
}

// sources puts lines together by who sent them, the latest first.
func sources(lines []ShoalLine) []ShoalLine {
	at := map[string]int{}
	var out []ShoalLine
	for _, l := range lines {
		from := l.Rows[0].From.Key()
		i, ok := at[from]
		if !ok {
			i = len(out)
			at[from] = i
			l.Key = "from " + from
			out = append(out, l)
		} else {
			out[i].Rows = append(out[i].Rows, l.Rows[0])
		}
	}
	return out
}

// dots says of sources when and how often their letters came.
func (v Viewer) dots(out []ShoalLine) {
	since := v.Now.AddDate(0, 0, -dotDays)
	for i := range out {
		rows := out[i].Rows
		for _, r := range slices.Backward(rows) {
			if r.At.After(since) {
				out[i].Dots = append(out[i].Dots, int(1000*r.At.Sub(since)/v.Now.Sub(since)))
			}
		}
		if len(rows) >= fewInSource {
			out[i].Pace = fmt.Sprintf("%d since %s", len(rows), v.day(rows[len(rows)-1].At))
		}
	}
}

// day names the day of a moment, as briefly as its distance allows.
func (v Viewer) day(t time.Time) string {
	local := t.In(v.Cal.Zone)
	if days := v.Cal.Today(t).DaysUntil(v.Cal.Today(v.Now)); days < dotDays {
		return local.Format("Mon")
	}
	return local.Format("2 Jan")
}

// answers puts acceptances together by the appointment that they accept.
func (v Viewer) answers(tx *store.Tx, lines []ShoalLine, lying []store.Row, speakers map[int64]store.Speaker) ([]ShoalLine, error) {
	originals, err := v.originals(tx, lying, speakers)
	if err != nil {
		return lines, err
	}
	at, names := map[string]int{}, map[string][]string{}
	var out []ShoalLine
	for i, line := range lines {
		l, ok := originals[speakers[lying[i].ID].Letter]
		_, events, _, err := meeting.Parse(l.Calendar(), v.Cal)
		if !ok || err != nil || len(events) == 0 {
			out = append(out, line)
			continue
		}
		uid := events[0].UID
		names[uid] = append(names[uid], l.From.Display())
		if first, ok := at[uid]; ok {
			out[first].Rows = append(out[first].Rows, line.Rows...)
			continue
		}
		at[uid] = len(out)
		line.Key, line.Head = "meeting "+uid, cmp.Or(events[0].Title, line.Says)
		if !events[0].Start.UTC.IsZero() {
			line.Pace = v.speak(events[0].Start)
		}
		out = append(out, line)
	}
	for uid, i := range at {
		out[i].Says = strings.Join(names[uid][:min(len(names[uid]), mostSpoken)], ", ")
		if more := len(names[uid]) - mostSpoken; more > 0 {
			out[i].Says += fmt.Sprintf(" and %d more", more)
		}
	}
	return out, nil
}

// CorrectionView is what was settled of a sender, a list or a domain.
type CorrectionView struct {
	ID   int64        `json:"id"`
	Of   string       `json:"of" doc:"news@moss.example, list moss.example"`
	Kind sorting.Kind `json:"kind" enum:"person,receipts,notices,reading,meetings,copies,away,junk,wanted,left"`
	Made time.Time    `json:"made"`
	// Took is how many letters it has put away, Last when the last came.
	Took int        `json:"took,omitempty" doc:"Letters that it has put away as not wanted"`
	Last *time.Time `json:"last,omitempty" doc:"When the last of them came"`
	// Here are the conversations among them that still are where they were put.
	Here int `json:"here,omitempty" doc:"Conversations that are still there"`
	// Late tells that a list goes on that was asked to be left.
	Late bool `json:"late,omitempty" doc:"A list goes on that was asked to be left, although it had its time"`
}

// Corrections gives them, the latest first.
func (a *Show) Corrections(ctx context.Context, who store.Who) ([]CorrectionView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]CorrectionView, error) {
		list, err := tx.Corrections()
		out := make([]CorrectionView, 0, len(list))
		if err != nil {
			return out, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		unwanted, err := tx.Unwanted()
		for _, c := range slices.Backward(list) {
			view := CorrectionView{ID: c.ID, Of: c.Correction().String(), Kind: c.Kind, Made: c.MadeAt.Time, Took: c.Took, Late: c.Kind == sorting.Left && sorting.LateLeaving(c.MadeAt.Time, c.TookAt.Time, v.Now)}
			if c.Took > 0 {
				view.Last = &c.TookAt.Time
			}
			here := map[int64]bool{}
			for _, l := range unwanted {
				if l.Sort.Kind == c.Kind && c.Correction().Covers(l.From, l.List, l.Automatic.Is()) {
					here[l.Conversation] = true
				}
			}
			view.Here = len(here)
			out = append(out, view)
		}
		return out, err
	})
}
