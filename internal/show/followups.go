package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

// RangView is a reminder that rang.
type RangView struct {
	ID       int64     `json:"id"`
	FollowUp int64     `json:"followUp"`
	Title    string    `json:"title"`
	At       time.Time `json:"at" doc:"When it was due"`
	Words    string    `json:"words"`
	Seen     bool      `json:"seen"`
}

// Rang lists the reminders that rang, the latest first.
func (a *Show) Rang(ctx context.Context, who store.Who) ([]RangView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]RangView, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		list, err := tx.Rang(100)
		out := make([]RangView, len(list))
		for i, r := range list {
			out[i] = RangView{ID: r.ID, FollowUp: r.FollowUp, Title: r.Title, At: r.At, Words: v.short(r.At), Seen: r.State == "seen"}
		}
		return out, err
	})
}

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
