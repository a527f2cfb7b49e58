package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Entry is something that is to come. Ahead and the day line both show
// entries, whatever their kind.
type Entry struct {
	Kind         string     `json:"kind" enum:"return,limit,reminder,due,appointment"`
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
	Late         bool       `json:"late,omitempty"`
	PutOffs      int        `json:"putOffs,omitempty"`
	Version      *int64     `json:"version,omitempty" doc:"Of a return; sent back with what is done with it"`
	Group        int        `json:"group" doc:"Index of its group"`

	day when.Date
}

// entryKinds are the kinds of entries: how those of a stretch of time are found. A
// new kind is one more line here, and one in entryActions.
var entryKinds = []func(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error){
	comingReturns, comingLimits, comingReminders, comingDues, comingAppointments,
}

// coming lists the entries of [from, to), in the order in which they come.
func coming(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error) {
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

func (v viewer) comingReturn(r store.Row) Entry {
	e := Entry{Kind: "return", ID: r.ID, Title: r.Title(), Person: r.From.Display(), Conversation: r.ID, PutOffs: r.PutOffs, Version: &r.Version}
	if r.PutOffs > 1 {
		e.Note = fmt.Sprintf("put off %d times", r.PutOffs)
	}
	if r.Return == nil { // it is there, but can't be read
		e.Words = unreadTime
		return e
	}
	e.Words, e.Phrase = v.returns(*r.Return), r.Return.When.Canonical(v.cal)
	if r.Return.When.Precision != when.Open {
		e.At, e.day = &r.Return.When.UTC, r.Return.When.Day(v.cal)
	}
	return e
}

func comingReturns(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error) {
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

func comingLimits(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.LimitsBetween(from, to, most)
	if err != nil {
		return nil, err
	}
	out := make([]Entry, len(list))
	for i, e := range list {
		w := v.waiting(tx, e)
		out[i] = Entry{Kind: "limit", ID: e.ID, At: &e.Until.UTC, day: e.Until.Day(v.cal), Words: w.Until, Phrase: w.UntilAs, Conversation: e.Conversation, Note: "if nobody has answered"}
		if len(w.Persons) > 0 {
			out[i].Person = w.Persons[0]
			out[i].Note = "if " + w.Persons[0] + " has not answered"
		}
		if row, err := tx.Conversation(e.Conversation); err == nil {
			out[i].Conversation, out[i].Title = row.ID, row.Title()
		}
	}
	return out, nil
}

func comingReminders(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.RemindersBetween(from, to, most)
	out := make([]Entry, len(list))
	for i, r := range list {
		at := r.When()
		m := when.Exact(at, v.cal)
		out[i] = Entry{Kind: "reminder", ID: r.ID, At: &at, day: m.Day(v.cal), Words: v.speak(m), Phrase: m.Phrase, Title: r.Title, FollowUp: r.FollowUp}
	}
	return out, err
}

func comingDues(tx *store.Tx, v viewer, from, to time.Time, most int) ([]Entry, error) {
	list, err := tx.DueBetween(from, to, most)
	out := make([]Entry, len(list))
	for i, f := range list {
		if f.Due == nil { // it is there, but can't be read
			out[i] = Entry{Kind: "due", ID: f.ID, Words: unreadTime, Title: f.Title, FollowUp: f.ID}
			continue
		}
		words, late := v.due(*f.Due)
		out[i] = Entry{Kind: "due", ID: f.ID, At: &f.Due.UTC, day: f.Due.Day(v.cal), Words: words, Phrase: f.Due.Canonical(v.cal), Title: f.Title, FollowUp: f.ID, Late: late}
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
func (a *App) Ahead(ctx context.Context, who store.Who) (AheadView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (AheadView, error) {
		v, err := a.viewer(tx)
		if err != nil {
			return AheadView{}, err
		}
		// What came due under a hold waits for the next delivery, and is still to come.
		entries, err := coming(tx, v, v.cal.Begins(v.cal.Today(v.now).Add(-366)), store.Farthest, maxListed+1)
		if err != nil {
			return AheadView{}, err
		}
		entries = slices.DeleteFunc(entries, func(e Entry) bool { return e.At != nil && e.At.Before(v.now) && e.Kind != "return" })
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
			some, err := tx.Somedays(v.person.LookCount)
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
func (v viewer) aheadGroup(e Entry, days []load.Day) AheadGroup {
	if e.At == nil {
		return AheadGroup{Key: "someday", Label: "No date", Fold: true}
	}
	today := v.cal.Today(v.now)
	away := today.DaysUntil(e.day)
	at := v.cal.Instant(e.day, when.At(12, 0))
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
		end := v.cal.WeekEnd(e.day)
		from, to := v.cal.Instant(end.Add(-6), when.At(12, 0)), v.cal.Instant(end, when.At(12, 0))
		_, week := at.ISOWeek()
		return AheadGroup{Key: end.String(), Label: fmt.Sprintf("Week %d, %s to %s", week, from.Format("2 Jan"), to.Format("2 Jan")), Fold: true}
	}
	return AheadGroup{Key: at.Format("2006-01"), Label: at.Format("January 2006"), Fold: true}
}

// EntryRef names an entry.
type EntryRef struct {
	Kind string `json:"kind" enum:"return,limit,reminder,due,appointment"`
	ID   int64  `json:"id"`
	// Version is that of a return as it was seen; nil makes no difference.
	Version *int64 `json:"version,omitempty"`
}

// EditingAhead is a change of what is to come.
type EditingAhead struct {
	Command string `json:"command" minLength:"8" maxLength:"80"`
	// Action is what to do: move, cancel or fetch.
	Action string     `json:"action" enum:"move,cancel,fetch"`
	On     []EntryRef `json:"on" minItems:"1" maxItems:"100000"`
	// When is where to move to.
	When string `json:"when,omitempty" maxLength:"200"`
	// Sure is that of Deciding.
	Sure bool `json:"sure,omitempty" doc:"Put off all the same what was put off often already; without it that is refused as put-off-again, with what can be done instead"`
}

// EditAhead moves entries to another time, takes their time away, or fetches
// conversations back now, all as one step.
func (a *App) EditAhead(ctx context.Context, who store.Who, e EditingAhead) (Decided, error) {
	cmd := work.Command{ID: e.Command, Who: who, Actor: work.ByPerson, Kind: "ahead:" + e.Action}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.sure = e.Sure
		var w wished
		if e.Action == "move" {
			if e.When == "" {
				return Decided{}, work.Invalid("when", "Moving needs a time.")
			}
			var err error
			if w.Wish, w.spot, err = s.wish(e.When); err != nil {
				return Decided{}, err
			}
		}
		gone := 0
		for _, ref := range e.On {
			if err := s.editEntry(ref, e.Action, w); err != nil {
				if len(e.On) == 1 || !errorsIsGone(err) {
					return Decided{}, err
				}
				gone++
			}
		}
		s.Title = aheadTitle(s, e.Action, e.On, w)
		if gone > 0 {
			s.Title += fmt.Sprintf("; %d had gone", gone)
		}
		var returns []int64
		for _, ref := range e.On {
			if ref.Kind == "return" {
				returns = append(returns, ref.ID)
			}
		}
		now, err := s.standing(returns)
		return Decided{Entry: s.ID, Title: s.Title, Now: now}, err
	})
}

var errGone = &work.Problem{Kind: "gone", Reason: "That is no longer to come."}

func errorsIsGone(err error) bool { return err == errGone }

func aheadTitle(s *step, action string, on []EntryRef, w wished) string {
	what := fmt.Sprintf("%d entries", len(on))
	if len(on) == 1 {
		what = map[string]string{"return": "the return", "limit": "the limit", "reminder": "the reminder", "due": "the due time", "appointment": "the appointment"}[on[0].Kind]
	}
	switch action {
	case "move":
		return "Moved " + what + " " + s.untilWords(w.Moment, w.If, w.Spot, w.Who)
	case "fetch":
		return "Fetched back what was ahead"
	}
	return "Cancelled " + what
}

// entryActions are what can be done with entries of each kind.
var entryActions map[string]entryAction

type entryAction struct {
	move   func(s *step, id int64, w wished) error
	cancel func(s *step, id int64) error
}

func init() { // they refer to what refers to them
	entryActions = map[string]entryAction{
		"return":      {(*step).moveReturn, (*step).cancelReturn},
		"limit":       {(*step).moveLimit, (*step).cancelLimit},
		"reminder":    {(*step).moveReminder, (*step).cancelReminder},
		"due":         {(*step).moveDue, (*step).cancelDue},
		"appointment": {(*step).moveAppointment, (*step).cancelAppointment},
	}
}

func (s *step) editEntry(ref EntryRef, action string, w wished) error {
	act, ok := entryActions[ref.Kind]
	if !ok {
		return work.Invalid("kind", "Nothing is known of “%s”.", ref.Kind)
	}
	if ref.Version != nil && ref.Kind == "return" {
		if row, err := s.Conversation(ref.ID); err == nil {
			s.checkSeen(row, ref.Version)
		}
	}
	switch action {
	case "move":
		return act.move(s, ref.ID, w)
	case "cancel":
		return act.cancel(s, ref.ID)
	case "fetch":
		if ref.Kind != "return" {
			return work.Refuse("Only letters that were put off can be fetched back.")
		}
		return s.decideReturn(ref.ID, decide.Decision{Kind: decide.ToInbox}, wishes{})
	}
	return work.Invalid("action", "“%s” can't be done here.", action)
}

// decideReturn decides on a conversation that stands in Later.
func (s *step) decideReturn(id int64, d decide.Decision, ws wishes) error {
	row, err := s.Conversation(id)
	if err != nil || row.Place != decide.Later {
		return errGone
	}
	changes, err := s.release([]seenRow{{row, row.LastLetter, nil}})
	if err != nil {
		return err
	}
	d.At, d.Saw = s.At, row.LastLetter
	if err := ws.put(s, row, &d); err != nil {
		return err
	}
	return s.Change(append(changes, s.decideOn(row, d)...))
}

func (s *step) moveReturn(id int64, w wished) error {
	return s.decideReturn(id, decide.Decision{Kind: decide.PutOff}, wishes{all: &w})
}

// cancelReturn leaves the conversation in the archive: it does not come back.
func (s *step) cancelReturn(id int64) error {
	return s.decideReturn(id, decide.Decision{Kind: decide.Done}, wishes{})
}

func (s *step) moveLimit(id int64, w wished) error {
	e, err := s.Expectation(id)
	if err != nil || e.State != waiting.Open {
		return errGone
	}
	if !w.Timed() {
		return work.Invalid("when", "A limit needs a time.")
	}
	return s.setLimit(e, &w.Moment)
}

// cancelLimit waits no longer. A letter that was put off until then stays in
// the archive, as any whose return is cancelled.
func (s *step) cancelLimit(id int64) error {
	e, err := s.Expectation(id)
	if err != nil || e.State != waiting.Open {
		return errGone
	}
	if e.ForReturn {
		if err := s.cancelReturn(e.Conversation); err != errGone {
			return err
		}
	}
	return s.setWaiting(e, waiting.Dropped)
}

func (s *step) moveReminder(id int64, w wished) error {
	_, r, err := s.ReminderOf(id)
	if err != nil {
		return errGone
	}
	if !w.Timed() {
		return work.Invalid("when", "A reminder needs a time.")
	}
	var changes change.List
	kinds.Reminder.Moment.Set(&changes, id, r.Moment, w.Moment)
	kinds.Reminder.State.Set(&changes, id, r.State, "set")
	return s.Change(changes)
}

func (s *step) cancelReminder(id int64) error {
	if _, _, err := s.ReminderOf(id); err != nil {
		return errGone
	}
	var changes change.List
	kinds.Reminder.Alive.Set(&changes, id, true, false)
	return s.Change(changes)
}

func (s *step) moveDue(id int64, w wished) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status.Closed() {
		return errGone
	}
	moment := w.Moment
	return s.setDue(f, &moment)
}

func (s *step) cancelDue(id int64) error {
	f, err := s.FollowUp(id)
	if err != nil || !f.Alive || f.Status.Closed() {
		return errGone
	}
	return s.setDue(f, nil)
}

func (s *step) setDue(f store.FollowUp, due *when.Moment) error {
	var changes change.List
	kinds.FollowUp.Due.Set(&changes, f.ID, f.Due, due)
	if f.Start != nil && followup.CheckTimes(f.Start, due, nil) != nil {
		kinds.FollowUp.Start.Set(&changes, f.ID, f.Start, (*when.Moment)(nil)) // it starts when it must
	}
	if err := s.moveReminders(&changes, f, f.Start, due); err != nil {
		return err
	}
	for _, l := range f.Letters {
		s.Touch(decide.Conversation.Of(l.Conversation))
	}
	return s.Change(changes)
}
