package show

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// Entry is something that is to come. Ahead and the day line both show
// entries, whatever their kind.
type Entry struct {
	Kind         string     `json:"kind" enum:"return,limit,reminder,due,appointment,send"`
	ID           int64      `json:"id"`
	At           *time.Time `json:"at,omitempty" doc:"Missing where no time is set"`
	End          *time.Time `json:"end,omitempty" doc:"Of an appointment"`
	Words        string     `json:"words" doc:"When, or on what"`
	Phrase       string     `json:"phrase" doc:"To edit it by"`
	Title        string     `json:"title"`
	Person       string     `json:"person,omitempty"`
	Note         string     `json:"note,omitempty"`
	Conversation int64      `json:"conversation,omitempty"`
	FollowUp     int64      `json:"followUp,omitempty"`
	Draft        string     `json:"draft,omitempty" doc:"Of a letter that is to leave: what it is written on as"`
	Recurs       bool       `json:"recurs,omitempty" doc:"A letter of which another follows: this one can be skipped"`
	Late         bool       `json:"late,omitempty"`
	PutOffs      int        `json:"putOffs,omitempty"`
	Version      *int64     `json:"version,omitempty" doc:"Of a return; sent back with what is done with it"`
	Group        int        `json:"group" doc:"Index of its group"`

	day when.Date
}

// entryKinds are the kinds of entries: how those of a stretch of time are found. A
// new kind is one more line here, and one in entryActions.
var entryKinds = []func(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error){
	comingReturns, comingLimits, comingReminders, comingDues, comingAppointments, comingSends,
}

// coming lists the entries of [from, to), in the order in which they come.
func coming(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	out := []Entry{}
	for _, find := range entryKinds {
		list, err := find(tx, v, from, to, most)
		if err != nil {
			return nil, err
		}
		out = append(out, list...)
	}
	slices.SortStableFunc(out, func(a, b Entry) int {
		if a.At == nil || b.At == nil {
			return cmp.Compare(undated(a), undated(b))
		}
		return a.At.Compare(*b.At)
	})
	return out, nil
}

func undated(e Entry) int {
	if e.At == nil {
		return 1
	}
	return 0
}

// unreadTime stands for a time whose value broke.
const unreadTime = "its time can’t be read"

func (v Viewer) comingReturn(r store.Row) Entry {
	e := Entry{Kind: "return", ID: r.ID, Title: r.Title(), Person: r.From.Display(), Conversation: r.ID, PutOffs: r.PutOffs, Version: &r.Version}
	if r.PutOffs > 1 {
		e.Note = fmt.Sprintf("put off %d times", r.PutOffs)
	}
	if r.Return == nil { // it is there, but can't be read
		e.Words = unreadTime
		return e
	}
	if r.Return.Due != "" {
		e.Note = "comes up from the Shallows, due " + v.dueWords(r.Return.Due)
	}
	e.Words, e.Phrase = v.returns(*r.Return), r.Return.When.Canonical(v.Cal)
	if r.Return.When.Precision != when.Open {
		e.At, e.day = &r.Return.When.UTC, r.Return.When.Day(v.Cal)
	}
	return e
}

func comingReturns(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	rows, err := tx.ReturnsBetween(from, to, most)
	if err != nil {
		return nil, err
	}
	if to.Equal(store.Farthest) {
		undated, err := tx.ReturnsUndated(most)
		if err != nil {
			return nil, err
		}
		rows = append(rows, undated...)
	}
	out := make([]Entry, len(rows))
	for i, r := range rows {
		out[i] = v.comingReturn(r)
	}
	return out, nil
}

func comingLimits(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.LimitsBetween(from, to, most)
	if err != nil {
		return nil, err
	}
	waits, err := v.waitings(tx, list)
	if err != nil {
		return nil, err
	}
	out := make([]Entry, len(list))
	for i, e := range list {
		w := waits[i]
		out[i] = Entry{Kind: "limit", ID: e.ID, At: &e.Until.UTC, day: e.Until.Day(v.Cal), Words: w.Until, Phrase: w.UntilAs, Title: w.Title, Conversation: w.Conversation, Note: "if nobody has answered"}
		if len(w.Persons) > 0 {
			out[i].Person = w.Persons[0]
			out[i].Note = "if " + w.Persons[0] + " has not answered"
		}
	}
	return out, nil
}

func comingReminders(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.RemindersBetween(from, to, most)
	out := make([]Entry, len(list))
	for i, r := range list {
		at := r.At
		m := when.Exact(at, v.Cal)
		out[i] = Entry{Kind: "reminder", ID: r.ID, At: &at, day: m.Day(v.Cal), Words: v.speak(m), Phrase: m.Phrase, Title: r.Title, FollowUp: r.FollowUp}
	}
	return out, err
}

func comingSends(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.SendsBetween(from, to, most)
	out := make([]Entry, len(list))
	for i, o := range list {
		at, m := o.SendAt, when.Exact(o.SendAt, v.Cal)
		out[i] = Entry{Kind: "send", ID: o.ID, At: &at, day: m.Day(v.Cal), Words: v.speak(m), Phrase: m.Phrase, Title: o.Subject, Note: "leaves by itself", Draft: o.Draft}
		if o.Every != nil {
			out[i].Recurs, out[i].Note = true, say.RecursInWords(o.Every)
			last, err := tx.LastSentOf(o.Draft)
			if err != nil {
				return nil, err
			}
			if !last.IsZero() {
				out[i].Note += "; last left " + v.speak(when.Exact(last, v.Cal))
			}
		}
		if len(o.Recipients) > 0 {
			out[i].Person = o.Recipients[0]
		}
		// A letter that begins a conversation has none to be read yet.
		if c, err := tx.Conversation(o.Conversation); err == nil && c.Letters > 0 {
			out[i].Conversation = o.Conversation
		}
	}
	return out, err
}

func comingDues(tx *store.Tx, v Viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.DueBetween(from, to, most)
	out := make([]Entry, len(list))
	for i, f := range list {
		if f.Due == nil { // it is there, but can't be read
			out[i] = Entry{Kind: "due", ID: f.ID, Words: unreadTime, Title: f.Title, FollowUp: f.ID}
			continue
		}
		words, late := v.due(*f.Due)
		out[i] = Entry{Kind: "due", ID: f.ID, At: &f.Due.UTC, day: f.Due.Day(v.Cal), Words: words, Phrase: f.Due.Canonical(v.Cal), Title: f.Title, FollowUp: f.ID, Late: late}
		if len(f.Letters) > 0 {
			out[i].Person, out[i].Conversation = f.Letters[0].Sender, f.Letters[0].Conversation
		}
	}
	return out, err
}

// AheadView is all that is to come, in time order.
type AheadView struct {
	Entries []Entry      `json:"entries"`
	Groups  []AheadGroup `json:"groups" doc:"In their order"`
	More    bool         `json:"more" doc:"There is more than is listed"`
}

// AheadGroup is a day; a week or a month where that is far; or someday.
type AheadGroup struct {
	Key   string   `json:"key"`
	Label string   `json:"label"`
	Count int      `json:"count"`
	Day   string   `json:"day,omitempty" doc:"2006-01-02; only of a single day"`
	Fold  bool     `json:"fold" doc:"Far enough to be shown folded"`
	Load  *DayLoad `json:"load,omitempty"`
	Note  string   `json:"note,omitempty" doc:"What happens to it"`
}

// Ahead lists all that is to come.
func (a *Show) Ahead(ctx context.Context, who store.Who) (AheadView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (AheadView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return AheadView{}, err
		}
		// What came due under a hold waits for the next delivery, and is still to come.
		entries, err := coming(tx, v, v.Cal.Begins(v.Cal.Today(v.Now).Add(-366)), store.Farthest, maxListed+1)
		if err != nil {
			return AheadView{}, err
		}
		entries = slices.DeleteFunc(entries, func(e Entry) bool { return e.At != nil && e.At.Before(v.Now) && e.Kind != "return" })
		out := AheadView{Entries: entries, Groups: []AheadGroup{}, More: len(entries) > maxListed}
		if out.More {
			out.Entries = entries[:maxListed]
		}
		pace, err := v.pace(tx)
		if err != nil {
			return out, err
		}
		days, err := v.load(tx, stripDays, pace)
		if err != nil {
			return out, err
		}
		for i := range out.Entries {
			g := v.aheadGroup(out.Entries[i], days)
			if n := len(out.Groups); n == 0 || out.Groups[n-1].Key != g.Key {
				out.Groups = append(out.Groups, g)
			}
			out.Groups[len(out.Groups)-1].Count++
			out.Entries[i].Group = len(out.Groups) - 1
		}
		if n := len(out.Groups); n > 0 && out.Groups[n-1].Key == "someday" {
			some, err := tx.Somedays(v.Person.LookCount)
			if err != nil {
				return out, err
			}
			out.Groups[n-1].Note = v.lookNote(len(some))
		}
		return out, nil
	})
}

// aheadGroup is the day of an entry within two weeks, then its week, after two
// months its month.
func (v Viewer) aheadGroup(e Entry, days []load.Day) AheadGroup {
	if e.At == nil {
		return AheadGroup{Key: "someday", Label: "No date", Fold: true}
	}
	today := v.Cal.Today(v.Now)
	away := today.DaysUntil(e.day)
	at := v.Cal.Instant(e.day, when.At(12, 0))
	switch {
	case away < 0:
		return AheadGroup{Key: "due", Label: "With the next delivery"}
	case away < stripDays:
		label := at.Format("Monday 2 January")
		if away < 2 {
			label = []string{"Today", "Tomorrow"}[away] + ", " + label
		}
		d := dayLoad(days[away])
		return AheadGroup{Key: e.day.String(), Label: label, Day: e.day.String(), Load: &d}
	case away < 62:
		end := v.Cal.WeekEnd(e.day)
		from, to := v.Cal.Instant(end.Add(-6), when.At(12, 0)), v.Cal.Instant(end, when.At(12, 0))
		_, week := at.ISOWeek()
		return AheadGroup{Key: end.String(), Label: fmt.Sprintf("Week %d, %s to %s", week, from.Format("2 Jan"), to.Format("2 Jan")), Fold: true}
	}
	return AheadGroup{Key: at.Format("2006-01"), Label: at.Format("January 2006"), Fold: true}
}
