package show

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

func lateAt(m when.Moment, now time.Time, c when.Calendar) bool {
	return followup.GroupOf(&m, now, c) == followup.Overdue
}

// FollowUp is a follow-up as the page shows it.
type FollowUp struct {
	ID        int64             `json:"id"`
	Title     string            `json:"title"`
	Notes     string            `json:"notes"`
	NotesHTML string            `json:"notesHtml,omitempty" doc:"The notes' Markdown, made safe; only of a single follow-up"`
	Start     string            `json:"start" doc:"In words; empty for none"`
	StartAs   string            `json:"startAs"`
	Due       string            `json:"due" doc:"In words; empty for none"`
	DueAs     string            `json:"dueAs" doc:"The phrase to edit it by"`
	DueAt     *time.Time        `json:"dueAt,omitempty"`
	Group     followup.Group    `json:"group"`
	Late      bool              `json:"late"`
	Priority  followup.Priority `json:"priority" enum:"urgent,high,normal,low"`
	Status    followup.Status   `json:"status" enum:"open,under-way,waiting,done,dropped"`
	Closed    bool              `json:"closed" doc:"Nothing is left to be done"`
	Stage     int64             `json:"stage" doc:"0 for none"`
	Assignee  string            `json:"assignee" doc:"Who does it; empty for oneself"`
	Project   string            `json:"project"`
	Context   string            `json:"context"`
	Estimate  int               `json:"estimate"`
	Recurs    string            `json:"recurs" doc:"In words; empty if it does not"`
	Checklist []followup.Item   `json:"checklist"`
	Flag      bool              `json:"flag"`
	MadeAt    time.Time         `json:"madeAt"`
	DoneAt    *time.Time        `json:"doneAt,omitempty"`
	Letters   []LinkedLetter    `json:"letters"`
	Reminders []ReminderView    `json:"reminders"`
	Remind    string            `json:"remind" doc:"The next reminder, or the one that rings, in words; empty for none"`
	Reminder  int64             `json:"reminder,omitempty"`
	Rang      bool              `json:"rang,omitempty"`
	Why       []string          `json:"why,omitempty" doc:"Why it stands where it stands in the order"`
	Version   int64             `json:"version,omitempty" doc:"Sent back with a change, so that what others changed since is noticed"`
}

// ReminderView is one reminder of a follow-up.
type ReminderView struct {
	ID     int64  `json:"id"`
	Words  string `json:"words"`
	Phrase string `json:"phrase" doc:"To edit it by"`
	State  string `json:"state" enum:"set,rang,seen"`
}

// LinkedLetter is the letter behind a follow-up.
type LinkedLetter struct {
	Conversation int64     `json:"conversation,omitempty"`
	Subject      string    `json:"subject"`
	Sender       string    `json:"sender"`
	Date         time.Time `json:"date"`
	Ask          string    `json:"ask,omitempty"`
	Purged       bool      `json:"purged,omitempty"`
}

func (v Viewer) followUp(f store.FollowUp) FollowUp {
	out := FollowUp{
		ID: f.ID, Title: f.Title, Notes: f.Notes, Group: followup.GroupOf(f.Due, v.Now, v.Cal), Priority: f.Priority, Status: f.Status, Closed: f.Status.Closed(),
		Stage: f.Stage, Assignee: f.Assignee, Project: f.Project, Context: f.Context, Estimate: f.Estimate, Checklist: OrEmpty(f.Checklist),
		Flag: f.Flag, MadeAt: f.MadeAt, Letters: []LinkedLetter{}, Reminders: []ReminderView{},
	}
	if f.Start != nil {
		out.Start, _ = v.due(*f.Start)
		out.StartAs = f.Start.Canonical(v.Cal)
	}
	if f.Due != nil {
		out.Due, out.Late = v.due(*f.Due)
		out.DueAs = f.Due.Canonical(v.Cal)
		if f.Due.Precision != when.Open {
			out.DueAt = &f.Due.UTC
		}
	}
	if f.Recurs != nil {
		out.Recurs = f.Recurs.String()
	}
	if !f.DoneAt.IsZero() {
		out.DoneAt = &f.DoneAt
	}
	for _, l := range f.Letters {
		out.Letters = append(out.Letters, LinkedLetter{Conversation: l.Conversation, Subject: l.Subject, Sender: l.Sender, Date: l.Date, Ask: l.Ask, Purged: l.Purged})
	}
	for _, r := range f.Reminders {
		rv := v.reminder(r)
		out.Reminders = append(out.Reminders, rv)
		if r.State == "rang" && !out.Rang || r.Pending() && out.Reminder == 0 {
			out.Remind, out.Reminder, out.Rang = rv.Words, r.ID, r.State == "rang"
		}
	}
	return out
}

func (v Viewer) reminder(r store.Reminder) ReminderView {
	out := ReminderView{ID: r.ID, State: r.State, Words: v.speak(r.Moment), Phrase: r.Moment.Canonical(v.Cal)}
	if r.Relative != nil {
		out.Phrase = r.Relative.String()
		if r.Moment.Precision == when.Open {
			out.Words = out.Phrase
		}
	}
	return out
}

// maxListed bounds the plain lists of follow-ups and of what is to come.
const maxListed = 10_000

// FollowUps lists the open follow-ups by due, or the closed ones.
func (a *Show) FollowUps(ctx context.Context, who store.Who, closed bool) ([]FollowUp, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FollowUp, error) {
		most := maxListed
		if closed {
			most = 200
		}
		list, err := tx.FollowUps(closed, most)
		if err != nil {
			return nil, err
		}
		v, err := a.Viewer(tx)
		out := make([]FollowUp, len(list))
		for i, f := range list {
			out[i] = v.followUp(f)
		}
		return out, err
	})
}

// Waiting is an expectation as the page shows it.
type Waiting struct {
	ID           int64     `json:"id"`
	Conversation int64     `json:"conversation"`
	Title        string    `json:"title"`
	Persons      []string  `json:"persons"`
	All          bool      `json:"all,omitempty" doc:"All of them must answer"`
	Answered     []string  `json:"answered,omitempty" doc:"Those who have"`
	Since        time.Time `json:"since"`
	Until        string    `json:"until" doc:"In words; empty for no limit"`
	UntilAs      string    `json:"untilAs"`
	Late         bool      `json:"late"`
	Offered      string    `json:"offered,omitempty" doc:"Somebody else who has answered"`
	State        string    `json:"state" enum:"open,met,dropped"`
	Away         string    `json:"away,omitempty" doc:"Subject of an automatic answer"`
	AwayUntil    *Proposal `json:"awayUntil,omitempty" doc:"The day that it names, offered as a limit"`
}

func (v Viewer) waiting(tx *store.Tx, e store.Expectation) Waiting {
	out := Waiting{ID: e.ID, Conversation: e.Conversation, Since: e.Since, Late: e.Late, State: string(e.State), Away: e.Away, Persons: []string{}, All: e.All && len(e.Persons) > 1}
	for _, p := range e.Persons {
		name := v.waitingName(tx, p)
		out.Persons = append(out.Persons, name)
		if out.All && slices.Contains(e.Answered, p) {
			out.Answered = append(out.Answered, name)
		}
	}
	if e.Until != nil {
		out.Until, out.UntilAs = v.speak(*e.Until), e.Until.Canonical(v.Cal)
	}
	if e.AwayUntil != "" {
		if r, err := when.Read(e.AwayUntil, v.Now, v.Cal); err == nil {
			out.AwayUntil = &Proposal{Phrase: r.Canonical, Label: e.AwayUntil, Words: v.speak(r.Moment), Why: v.far(r)}
		}
	}
	if e.Offered != 0 {
		if l, err := tx.Letter(e.Offered); err == nil && !l.InAt.IsZero() {
			out.Offered = l.From.Display()
		}
	}
	return out
}

// WaitingList lists what is waited for, by its limit, or what no longer is.
func (a *Show) WaitingList(ctx context.Context, who store.Who, settled bool) ([]Waiting, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]Waiting, error) {
		list, err := tx.Waiting()
		if settled {
			list, err = tx.Settled(200)
		}
		if err != nil {
			return nil, err
		}
		v, err := a.Viewer(tx)
		out := make([]Waiting, 0, len(list))
		for _, e := range list {
			w := v.waiting(tx, e)
			if row, err := tx.Conversation(e.Conversation); err == nil {
				w.Conversation, w.Title = row.ID, row.Title()
			}
			out = append(out, w)
		}
		return out, err
	})
}

// Overview is what every view shows: counts, the gate, the staff, what the
// next undo would take back.
type Overview struct {
	Now           time.Time          `json:"now"`
	Zone          string             `json:"zone"`
	Inbox         int                `json:"inbox"`
	FollowUp      int                `json:"followUps"`
	Waiting       int                `json:"waiting"`
	Ahead         int                `json:"ahead"`
	Held          int                `json:"held"`
	Gate          GateView           `json:"gate"`
	Notifications []NotificationView `json:"notifications" doc:"What the page may tell of now"`
	Count         bool               `json:"count" doc:"Show the inbox in the page’s title and icon"`
	Undo          string             `json:"undo" doc:"What the next undo takes back; empty for nothing"`
	Ringing       []FollowUp         `json:"ringing"`
	Alarms        []AppointmentView  `json:"alarms" doc:"Appointments whose reminder rang"`
	Outbox        []OutgoingView     `json:"outbox"`
	Drafts        int                `json:"drafts"`
	High          int                `json:"high" doc:"The most there was in the inbox today"`
	LowWater      *time.Time         `json:"lowWater,omitempty" doc:"The day's first zero"`
	Zeros         []time.Time        `json:"zeros"`
	Troubles      []StuckView        `json:"troubles" doc:"What could not happen, and is tried again"`
	// Confined tells that no outside mail service is connected.
	Confined bool `json:"confined" doc:"Letters reach only people of this Ebbe"`
}

// Overview gives what every view shows.
func (a *Show) Overview(ctx context.Context, who store.Who) (Overview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (out Overview, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		out = Overview{Now: v.Now, Zone: v.Cal.Zone.String(), Ringing: []FollowUp{}, Alarms: []AppointmentView{}, Outbox: []OutgoingView{}, Zeros: []time.Time{}, Confined: a.about.Confined()}
		for _, count := range []struct {
			into *int
			by   func() (int, error)
		}{
			{&out.Inbox, func() (int, error) { return tx.CountIn(decide.Inbox, 0) }},
			{&out.FollowUp, tx.CountFollowUps}, {&out.Waiting, tx.CountWaiting}, {&out.Ahead, func() (int, error) { return tx.CountAhead(v.Now) }}, {&out.Held, func() (int, error) { return tx.CountHeld(nil) }},
		} {
			if *count.into, err = count.by(); err != nil {
				return out, err
			}
		}
		if out.Gate, err = v.gate(tx); err != nil {
			return out, err
		}
		out.Count = notifications(v.Person).Count
		if out.Notifications, err = v.notifications(tx, delivery.State{Cause: out.Gate.Cause}); err != nil {
			return out, err
		}
		if e, err := LastUndoable(tx, v.Now); err == nil {
			out.Undo = e.Title
		}
		ringing, err := tx.Ringing()
		if err != nil {
			return out, err
		}
		for _, f := range ringing {
			out.Ringing = append(out.Ringing, v.followUp(f))
		}
		alarms, err := tx.RangAppointments()
		if err != nil {
			return out, err
		}
		for _, one := range alarms {
			out.Alarms = append(out.Alarms, v.appointment(one))
		}
		outbox, err := tx.Outbox()
		if err != nil {
			return out, err
		}
		for _, o := range outbox {
			out.Outbox = append(out.Outbox, outgoingView(o))
		}
		drafts, err := tx.Drafts()
		if err != nil {
			return out, err
		}
		out.Drafts = len(drafts)
		tide, err := a.tide(tx, v, out.Inbox)
		out.High, out.Zeros = tide.High, OrEmpty(tide.Zeros)
		if len(tide.Zeros) > 0 {
			out.LowWater = &tide.Zeros[0]
		}
		if err != nil {
			return out, err
		}
		if _, err := tx.Throughs(v.Now); err != nil { // only to see that they can be read
			return out, err
		}
		out.Troubles, err = v.troubles(tx, a.about.Failing())
		return out, err
	})
}

func (a *Show) tide(tx *store.Tx, v Viewer, inbox int) (review.Tide, error) {
	start := dayStart(v.Cal, v.Now)
	moves, err := tx.Moves(start)
	return review.TideOf(start, v.Now, inbox, moves), err
}

// JournalEntry is a step of the Journal as the page shows it.
type JournalEntry struct {
	Entry  int64     `json:"entry"`
	Title  string    `json:"title"`
	Actor  string    `json:"actor"`
	At     time.Time `json:"at"`
	Undone bool      `json:"undone"`
	Undo   bool      `json:"undo" doc:"It can be undone"`
	Day    string    `json:"day" doc:"2006-01-02, by the person's own days"`
	// Conversation is the first that it changed; 0 for none.
	Conversation int64 `json:"conversation,omitempty"`
}

// JournalAsk narrows what of the Journal is read.
type JournalAsk struct {
	// Before is the entry from before which it is read; 0 from the newest.
	Before int64
	// Words must all be in the title.
	Words string
	// Day is the last day, 2006-01-02; "" for any.
	Day string
}

func journalEntry(e store.Entry) JournalEntry {
	return JournalEntry{Entry: e.ID, Title: e.Title, Actor: e.Actor, At: e.At, Undone: e.UndoneBy != 0, Undo: e.Undoable && e.UndoneBy == 0}
}

// Journal lists steps, newest first, back to the first day.
func (a *Show) Journal(ctx context.Context, who store.Who, ask JournalAsk) ([]JournalEntry, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]JournalEntry, error) {
		out := []JournalEntry{}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		before, until := ask.Before, time.Time{}
		if ask.Day != "" {
			t, err := time.Parse(time.DateOnly, ask.Day)
			if err != nil {
				return out, work.Invalid("day", "“%s” is no day. Write it as 2026-11-24.", ask.Day)
			}
			until = v.Cal.Begins(when.DateOf(t).Add(1))
		}
		folded := 0
		for len(out) < PageSize {
			list, err := tx.Entries(before, until, strings.Fields(ask.Words), PageSize)
			if err != nil || len(list) == 0 {
				return out, errors.Join(err, aboutLetters(tx, out))
			}
			for _, e := range list {
				before = e.ID
				if last := len(out) - 1; e.Kind == purgeKind && folded > 0 {
					folded++
					out[last].Entry, out[last].Title = e.ID, "Purged from the bin: "+say.Count(folded, "conversation")
					continue
				}
				if folded = 0; e.Kind == purgeKind {
					folded = 1
				}
				one := journalEntry(e)
				one.Day = v.Cal.Today(e.At).String()
				if out = append(out, one); len(out) == PageSize {
					break
				}
			}
		}
		return out, aboutLetters(tx, out)
	})
}

// aboutLetters fills in which letters entries are about.
func aboutLetters(tx *store.Tx, entries []JournalEntry) error {
	ids := make([]int64, len(entries))
	for i, e := range entries {
		ids[i] = e.Entry
	}
	about, err := tx.ConversationsOf(ids)
	for i := range entries {
		entries[i].Conversation = about[entries[i].Entry]
	}
	return err
}

// purgeKind is the kind of a step that empties the bin. Many after one another
// are one line of the Journal.
var purgeKind = schedule.Purge.String()

// DraftView is a draft as the page shows it.
type DraftView struct {
	ID           string    `json:"id"`
	Conversation int64     `json:"conversation,omitempty"`
	Writing      Writing   `json:"writing"`
	UpdatedAt    time.Time `json:"updatedAt"`
}

func draftView(d store.Draft) DraftView {
	out := DraftView{ID: d.ID, Conversation: d.Conversation, UpdatedAt: d.UpdatedAt}
	// A draft that can't be read back is shown empty rather than not at all.
	_ = json.Unmarshal(d.Value, &out.Writing)
	out.Writing.To = OrEmpty(out.Writing.To)
	return out
}

// Drafts lists the letters being written.
func (a *Show) Drafts(ctx context.Context, who store.Who) ([]DraftView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]DraftView, error) {
		list, err := tx.Drafts()
		out := make([]DraftView, len(list))
		for i, d := range list {
			out[i] = draftView(d)
		}
		return out, err
	})
}
