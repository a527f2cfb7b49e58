package store

import (
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
)

// FollowUp is a tracked follow-up.
type FollowUp struct {
	ID       int64
	Alive    bool
	Title    string
	Notes    string
	Start    *when.Moment
	Due      *when.Moment
	Priority followup.Priority
	Status   followup.Status
	Stage    int64 // 0 for none
	// Assignee is who does it; "" for the person herself.
	Assignee  string
	Project   string
	Context   string
	Estimate  int // minutes, 0 when not set
	Flag      bool
	Recurs    *followup.Recurrence
	Checklist []followup.Item
	UID       string
	MadeAt    time.Time
	DoneAt    time.Time
	Letters   []FollowUpLetter
	Reminders []Reminder
	// Unreadable is why something kept of it can't be read; a list shows it all
	// the same, but nothing is done with it.
	Unreadable error
}

// Object names the follow-up in changes.
func (f FollowUp) Object() change.Object { return kinds.FollowUp.Of(f.ID) }

// FollowUpLetter is a letter that a follow-up came from. What identifies it
// stays when the letter is purged.
type FollowUpLetter struct {
	LetterID     int64
	Conversation int64 // 0 once purged
	MessageID    string
	Subject      string
	Sender       string
	Date         time.Time
	Ask          string
	Purged       bool
}

// Reminder rings once at its moment.
type Reminder struct {
	ID     int64
	Moment when.Moment
	// Relative is set where it moves with the due or the start.
	Relative *when.Relative
	// State is "set", "waits" (for a delivery), "rang" or "seen".
	State string
}

// Pending tells that it has not rung yet.
func (r Reminder) Pending() bool { return r.State == "set" || r.State == "waits" }

// Object names the reminder in changes.
func (r Reminder) Object() change.Object { return kinds.Reminder.Of(r.ID) }

// openFollowUps is the condition on those that are not closed. It goes by
// done_at, which is set where the core calls a status closed.
const openFollowUps = "alive AND done_at IS NULL"

// FollowUp is one follow-up by its id.
func (tx *Tx) FollowUp(id int64) (FollowUp, error) {
	list, err := tx.FollowUpsByID([]int64{id})
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return FollowUp{}, err
	}
	return list[0], list[0].Unreadable
}

// FollowUpsByID lists follow-ups by their ids, alive or not, in no set order.
func (tx *Tx) FollowUpsByID(ids []int64) ([]FollowUp, error) {
	return tx.followUps(gorm.G[followUpRow](tx.few()).Where(inNumbers("id", ids)))
}

// FollowUpByUID finds a follow-up that came from another program; ErrNotFound
// if there is none alive.
func (tx *Tx) FollowUpByUID(uid string) (FollowUp, error) {
	list, err := tx.followUps(gorm.G[followUpRow](tx.db).Where("uid = ? AND uid <> '' AND alive = 1", uid).Limit(1))
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return FollowUp{}, err
	}
	return list[0], nil
}

// FollowUps lists follow-ups: the open ones in the order of their due, or the
// closed ones, last closed first.
func (tx *Tx) FollowUps(closed bool, most int) ([]FollowUp, error) {
	rows := gorm.G[followUpRow](tx.db).Limit(most)
	if closed {
		return tx.followUps(rows.Where("alive = 1 AND done_at IS NOT NULL").Order("done_at DESC, id DESC"))
	}
	return tx.followUps(rows.Where(openFollowUps).Order("due_at IS NULL, due_at, id"))
}

// FollowUpsOf lists the follow-ups of a conversation, open and closed.
func (tx *Tx) FollowUpsOf(conversation int64) ([]FollowUp, error) {
	letters := gorm.G[letterRow](tx.few()).Select("id").Where("conversation_id = ?", conversation)
	links := gorm.G[followUpLetterRow](tx.few()).Select("followup_id").Where("letter_id IN (?)", letters)
	return tx.followUps(gorm.G[followUpRow](tx.few()).Where("alive = 1 AND id IN (?)", links).Order("id"))
}

// followUps reads follow-ups with their letters and reminders.
func (tx *Tx) followUps(which gorm.ChainInterface[followUpRow]) ([]FollowUp, error) {
	rows, err := which.
		Preload("Letters", func(b gorm.PreloadBuilder) error { b.Order("letter_id"); return nil }).
		Preload("Letters.Letter", func(b gorm.PreloadBuilder) error { b.Select("id", "conversation_id", "message_id"); return nil }).
		Preload("Reminders", func(b gorm.PreloadBuilder) error { b.Where("alive = 1").Order("at, id"); return nil }).
		Find(tx.ctx())
	out := make([]FollowUp, len(rows))
	for i, r := range rows {
		out[i] = tx.followUp(r)
	}
	return out, err
}

func (tx *Tx) followUp(r followUpRow) FollowUp {
	f := FollowUp{
		ID: r.ID, Alive: r.Alive, Title: r.Title, Notes: r.Notes, Start: r.Start.V, Due: r.Due.V, Priority: r.Priority, Status: r.Status, Stage: r.StageID,
		Assignee: r.Assignee, Project: r.Project, Context: r.Context, Estimate: r.Estimate, Flag: r.Flag, Recurs: r.Recurs.V, Checklist: r.Checklist.V,
		UID: r.UID, MadeAt: r.MadeAt.Time, DoneAt: r.DoneAt.Time,
	}
	if f.Unreadable = errors.Join(r.Start.Err, r.Due.Err, r.Recurs.Err, r.Checklist.Err); f.Unreadable != nil {
		tx.pass("follow-up", r.ID, f.Unreadable)
	}
	for _, l := range r.Letters {
		link := FollowUpLetter{LetterID: l.LetterID, Subject: l.Subject, Sender: l.Sender, Date: l.Date.Time, Ask: l.Ask, Purged: l.Purged}
		if l.Letter != nil {
			link.Conversation, link.MessageID = int64(l.Letter.ConversationID), l.Letter.MessageID
		}
		f.Letters = append(f.Letters, link)
	}
	for _, m := range r.Reminders {
		if err := errors.Join(m.Moment.Err, m.Relative.Err); err != nil {
			f.Unreadable = errors.Join(f.Unreadable, err)
			tx.pass("reminder", m.ID, err)
			continue
		}
		f.Reminders = append(f.Reminders, m.reminder())
	}
	return f
}

func (r reminderRow) reminder() Reminder {
	return Reminder{ID: r.ID, Moment: r.Moment.V, Relative: r.Relative.V, State: r.State}
}

// AddFollowUp writes a follow-up that is not alive yet; bringing it to life
// is a change, so that it can be undone.
func (tx *Tx) AddFollowUp(f FollowUp) (int64, error) {
	row := followUpRow{
		Title: f.Title, Notes: f.Notes, Start: maybe(f.Start), Due: maybe(f.Due), DueAt: instantOf(f.Due), Priority: f.Priority, Status: f.Status, StageID: f.Stage,
		Assignee: f.Assignee, Project: f.Project, Context: f.Context, Estimate: f.Estimate, Flag: f.Flag, Recurs: maybe(f.Recurs),
		Checklist: keep(append([]followup.Item{}, f.Checklist...)), UID: f.UID, MadeAt: at(f.MadeAt), DoneAt: maybeAt(f.DoneAt),
	}
	if err := gorm.G[followUpRow](tx.db).Create(tx.ctx(), &row); err != nil {
		return 0, err
	}
	for _, l := range f.Letters {
		if err := tx.LinkLetter(row.ID, l); err != nil {
			return 0, err
		}
	}
	return row.ID, nil
}

// LinkLetter ties a letter to a follow-up.
func (tx *Tx) LinkLetter(followUp int64, l FollowUpLetter) error {
	return gorm.G[followUpLetterRow](tx.db, clause.OnConflict{DoNothing: true}).Create(tx.ctx(), &followUpLetterRow{
		FollowupID: followUp, LetterID: l.LetterID, Subject: l.Subject, Sender: l.Sender, Date: at(l.Date), Ask: l.Ask, Purged: l.Purged,
	})
}

// AddReminder writes a reminder that is not alive yet.
func (tx *Tx) AddReminder(followUp int64, m when.Moment, relative *when.Relative) (int64, error) {
	row := reminderRow{FollowupID: followUp, Moment: keep(m), At: instantOf(&m), State: "set", Relative: maybe(relative)}
	err := gorm.G[reminderRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Ringing lists the reminders that rang and were not looked at yet, with
// their follow-ups.
func (tx *Tx) Ringing() ([]FollowUp, error) {
	rang := gorm.G[reminderRow](tx.db).Select("followup_id").Where("alive = 1 AND state = 'rang'")
	return tx.followUps(gorm.G[followUpRow](tx.db).Where(openFollowUps).Where("id IN (?)", rang).Order("id"))
}

// RemindersByID are the reminders of these ids that are alive and can be read.
func (tx *Tx) RemindersByID(ids []int64) ([]Reminder, error) {
	rows, err := gorm.G[reminderRow](tx.few()).Where(inNumbers("id", ids)).Where("alive = 1").Find(tx.ctx())
	return readable(tx, "reminder", rows, func(r reminderRow) int64 { return r.ID }, func(r reminderRow) (Reminder, error) { return r.reminder(), r.Moment.Err }), err
}

// ReminderOf gives the follow-up to which a reminder belongs.
func (tx *Tx) ReminderOf(id int64) (followUp int64, r Reminder, err error) {
	row, err := gorm.G[reminderRow](tx.db).Where("id = ? AND alive = 1", id).Take(tx.ctx())
	if err != nil {
		return 0, r, err
	}
	return row.FollowupID, row.reminder(), row.Moment.Err
}

// CountFollowUps counts the open ones.
func (tx *Tx) CountFollowUps() (int, error) {
	n, err := gorm.G[followUpRow](tx.db).Where(openFollowUps).Count(tx.ctx(), "*")
	return int(n), err
}

// AwaitLetters keeps which letters a follow-up belongs to that are not here yet.
func (tx *Tx) AwaitLetters(followUp int64, messageIDs []string) error {
	for _, id := range messageIDs {
		if err := gorm.G[waitingLinkRow](tx.db, clause.OnConflict{DoNothing: true}).Create(tx.ctx(), &waitingLinkRow{MessageID: id, FollowupID: followUp}); err != nil {
			return err
		}
	}
	return nil
}

// AwaitingLetter lists the follow-ups that wait for a letter.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) AwaitingLetter(messageID string) ([]int64, error) {
	if messageID == "" {
		return nil, nil
	}
	return tx.ids("SELECT followup_id FROM waiting_links WHERE owner = ? AND message_id = ? ORDER BY followup_id", tx.who.Inbox, messageID)
}

// AnyAwaited tells whether any follow-up waits for a letter.
func (tx *Tx) AnyAwaited() (bool, error) {
	n, err := gorm.G[waitingLinkRow](tx.db).Limit(1).Count(tx.ctx(), "*")
	return n > 0, err
}

// LetterCame forgets that a letter was waited for.
func (tx *Tx) LetterCame(messageID string) error {
	_, err := gorm.G[waitingLinkRow](tx.db).Where("message_id = ?", messageID).Delete(tx.ctx())
	return err
}
