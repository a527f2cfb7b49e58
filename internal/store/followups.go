package store

import (
	"encoding/json"
	"errors"
	"time"

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

type followUpRow struct {
	ID, MadeAt, StageID                     int64
	DoneAt                                  *int64
	Title, Notes, Priority, Status, Project string
	Assignee, Context, Checklist, UID       string
	Start, Due, Recurs                      *string
	Estimate                                int
	Alive, Flag                             bool
}

const followUpColumns = "id, alive, title, notes, start, due, priority, status, stage_id, assignee, project, context, estimate, flag, recurs, checklist, uid, made_at, done_at"

// openFollowUps is the condition on those that are not closed.
// openFollowUps goes by done_at, which is set where the core calls a status closed.
const openFollowUps = "alive = 1 AND done_at IS NULL"

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
	return tx.followUps("SELECT "+followUpColumns+" FROM followups WHERE owner = ? AND id IN (SELECT value FROM json_each(?))", tx.who.Inbox, jsonIDs(ids))
}

// FollowUpByUID finds a follow-up that came from another program; ErrNotFound
// if there is none alive.
func (tx *Tx) FollowUpByUID(uid string) (FollowUp, error) {
	list, err := tx.followUps("SELECT "+followUpColumns+" FROM followups WHERE owner = ? AND uid = ? AND uid <> '' AND alive = 1 LIMIT 1", tx.who.Inbox, uid)
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
	query := "SELECT " + followUpColumns + " FROM followups WHERE owner = ? AND " + openFollowUps + " ORDER BY due_at IS NULL, due_at, id LIMIT ?"
	if closed {
		query = "SELECT " + followUpColumns + " FROM followups WHERE owner = ? AND alive = 1 AND done_at IS NOT NULL ORDER BY done_at DESC, id DESC LIMIT ?"
	}
	return tx.followUps(query, tx.who.Inbox, most)
}

// FollowUpsOf lists the follow-ups of a conversation, open and closed.
func (tx *Tx) FollowUpsOf(conversation int64) ([]FollowUp, error) {
	return tx.followUps("SELECT "+followUpColumns+` FROM followups WHERE owner = ? AND alive = 1 AND id IN (
		SELECT x.followup_id FROM followup_letters x JOIN letters l ON l.id = x.letter_id WHERE l.conversation_id = ?) ORDER BY id`, tx.who.Inbox, conversation)
}

func (tx *Tx) followUps(query string, args ...any) ([]FollowUp, error) {
	rows, err := all[followUpRow](tx.db.Raw(query, args...))
	if err != nil {
		return nil, err
	}
	out := make([]FollowUp, len(rows))
	at := make(map[int64]*FollowUp, len(rows))
	ids := make([]int64, len(rows))
	for i, r := range rows {
		if out[i], err = r.followUp(); err != nil {
			out[i].Unreadable = err
			tx.pass("follow-up", r.ID, err)
		}
		at[r.ID], ids[i] = &out[i], r.ID
	}
	return out, tx.fillFollowUps(at, jsonIDs(ids))
}

func (r followUpRow) followUp() (FollowUp, error) {
	f := FollowUp{
		ID: r.ID, Alive: r.Alive, Title: r.Title, Notes: r.Notes, Priority: followup.Priority(r.Priority), Status: followup.Status(r.Status), Stage: r.StageID,
		Assignee: r.Assignee, Project: r.Project, Context: r.Context, Estimate: r.Estimate, Flag: r.Flag, UID: r.UID, MadeAt: fromMillis(r.MadeAt),
	}
	if r.DoneAt != nil {
		f.DoneAt = fromMillis(*r.DoneAt)
	}
	for text, into := range map[*string]any{r.Start: &f.Start, r.Due: &f.Due, r.Recurs: &f.Recurs, &r.Checklist: &f.Checklist} {
		if text == nil {
			continue
		}
		if err := json.Unmarshal([]byte(*text), into); err != nil {
			return f, err
		}
	}
	return f, nil
}

func (tx *Tx) fillFollowUps(at map[int64]*FollowUp, ids string) error {
	letters, err := all[struct {
		FollowupID, LetterID, Date int64
		ConversationID             *int64
		MessageID                  *string
		Subject, Sender, Ask       string
		Purged                     bool
	}](tx.db.Raw(`SELECT x.followup_id, x.letter_id, l.conversation_id, l.message_id, x.subject, x.sender, x.date, x.ask, x.purged
		FROM followup_letters x LEFT JOIN letters l ON l.id = x.letter_id
		WHERE +x.owner = ? AND x.followup_id IN (SELECT value FROM json_each(?)) ORDER BY x.letter_id`, tx.who.Inbox, ids))
	if err != nil {
		return err
	}
	for _, l := range letters {
		link := FollowUpLetter{LetterID: l.LetterID, Subject: l.Subject, Sender: l.Sender, Date: fromMillis(l.Date), Ask: l.Ask, Purged: l.Purged}
		if l.ConversationID != nil {
			link.Conversation = *l.ConversationID
		}
		if l.MessageID != nil {
			link.MessageID = *l.MessageID
		}
		at[l.FollowupID].Letters = append(at[l.FollowupID].Letters, link)
	}
	reminders, err := all[struct {
		ID, FollowupID int64
		Moment, State  string
		Relative       *string
	}](tx.db.Raw(`SELECT id, followup_id, moment, relative, state FROM reminders
		WHERE owner = ? AND alive = 1 AND followup_id IN (SELECT value FROM json_each(?)) ORDER BY at, id`, tx.who.Inbox, ids))
	if err != nil {
		return err
	}
	for _, r := range reminders {
		reminder := Reminder{ID: r.ID, State: r.State}
		err := json.Unmarshal([]byte(r.Moment), &reminder.Moment)
		if r.Relative != nil {
			err = errors.Join(err, json.Unmarshal([]byte(*r.Relative), &reminder.Relative))
		}
		if err != nil {
			at[r.FollowupID].Unreadable = errors.Join(at[r.FollowupID].Unreadable, err)
			tx.pass("reminder", r.ID, err)
			continue
		}
		at[r.FollowupID].Reminders = append(at[r.FollowupID].Reminders, reminder)
	}
	return nil
}

// AddFollowUp writes a follow-up that is not alive yet; bringing it to life
// is a change, so that it can be undone.
func (tx *Tx) AddFollowUp(f FollowUp) (int64, error) {
	start, _, err := momentColumns(f.Start)
	if err != nil {
		return 0, err
	}
	due, dueAt, err := momentColumns(f.Due)
	if err != nil {
		return 0, err
	}
	var recurs *string
	if f.Recurs != nil {
		text, err := json.Marshal(f.Recurs)
		if err != nil {
			return 0, err
		}
		s := string(text)
		recurs = &s
	}
	if f.Checklist == nil {
		f.Checklist = []followup.Item{}
	}
	checklist, err := json.Marshal(f.Checklist)
	if err != nil {
		return 0, err
	}
	var doneAt *int64
	if !f.DoneAt.IsZero() {
		ms := millis(f.DoneAt)
		doneAt = &ms
	}
	id, err := tx.insertReturning(`INSERT INTO followups (owner, title, notes, start, due, due_at, priority, status, stage_id, assignee, project, context, estimate, flag, recurs, checklist, uid, made_at, done_at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.who.Inbox, f.Title, f.Notes, start, due, dueAt, string(f.Priority), string(f.Status), f.Stage, f.Assignee,
		f.Project, f.Context, f.Estimate, f.Flag, recurs, string(checklist), f.UID, millis(f.MadeAt), doneAt)
	if err != nil {
		return 0, err
	}
	for _, l := range f.Letters {
		if err := tx.LinkLetter(id, l); err != nil {
			return 0, err
		}
	}
	return id, nil
}

// LinkLetter ties a letter to a follow-up.
func (tx *Tx) LinkLetter(followUp int64, l FollowUpLetter) error {
	return tx.exec("INSERT INTO followup_letters (owner, followup_id, letter_id, subject, sender, date, ask, purged) VALUES (?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING",
		tx.who.Inbox, followUp, l.LetterID, l.Subject, l.Sender, millis(l.Date), l.Ask, l.Purged)
}

// momentColumns are a moment as JSON and the instant to sort by; both nil for
// none, the instant nil for an open one.
func momentColumns(m *when.Moment) (text *string, at *int64, err error) {
	if m == nil {
		return nil, nil, nil
	}
	b, err := json.Marshal(m)
	s := string(b)
	if m.Precision == when.Open {
		return &s, nil, err
	}
	ms := millis(m.UTC)
	return &s, &ms, err
}

// AddReminder writes a reminder that is not alive yet.
func (tx *Tx) AddReminder(followUp int64, m when.Moment, relative *when.Relative) (int64, error) {
	text, at, err := momentColumns(&m)
	if err != nil {
		return 0, err
	}
	var rel *string
	if relative != nil {
		b, err := json.Marshal(relative)
		if err != nil {
			return 0, err
		}
		s := string(b)
		rel = &s
	}
	return tx.insertReturning("INSERT INTO reminders (owner, followup_id, moment, at, relative) VALUES (?, ?, ?, ?, ?)", tx.who.Inbox, followUp, text, at, rel)
}

// Ringing lists the reminders that rang and were not looked at yet, with
// their follow-ups.
func (tx *Tx) Ringing() ([]FollowUp, error) {
	return tx.followUps("SELECT "+followUpColumns+` FROM followups WHERE owner = ? AND `+openFollowUps+`
		AND id IN (SELECT followup_id FROM reminders WHERE alive = 1 AND state = 'rang') ORDER BY id`, tx.who.Inbox)
}

// ReminderOf gives the follow-up to which a reminder belongs.
func (tx *Tx) ReminderOf(id int64) (followUp int64, r Reminder, err error) {
	row, err := one[struct {
		FollowupID    int64
		Moment, State string
	}](tx.db.Raw("SELECT followup_id, moment, state FROM reminders WHERE owner = ? AND id = ? AND alive = 1", tx.who.Inbox, id))
	if err != nil {
		return 0, r, err
	}
	r = Reminder{ID: id, State: row.State}
	return row.FollowupID, r, json.Unmarshal([]byte(row.Moment), &r.Moment)
}

// CountFollowUps counts the open ones.
func (tx *Tx) CountFollowUps() (n int, err error) {
	err = tx.db.Raw("SELECT count(*) FROM followups WHERE owner = ? AND "+openFollowUps, tx.who.Inbox).Row().Scan(&n)
	return n, err
}

// AwaitLetters keeps which letters a follow-up belongs to that are not here yet.
func (tx *Tx) AwaitLetters(followUp int64, messageIDs []string) error {
	links := tx.bulk()
	for _, id := range messageIDs {
		links.add(tx.who.Inbox, id, followUp)
	}
	return links.flush("INSERT INTO waiting_links (owner, message_id, followup_id) VALUES ", " ON CONFLICT DO NOTHING")
}

// AwaitingLetter lists the follow-ups that wait for a letter.
func (tx *Tx) AwaitingLetter(messageID string) ([]int64, error) {
	if messageID == "" {
		return nil, nil
	}
	return tx.ids("SELECT followup_id FROM waiting_links WHERE owner = ? AND message_id = ? ORDER BY followup_id", tx.who.Inbox, messageID)
}

// LetterCame forgets that a letter was waited for.
func (tx *Tx) LetterCame(messageID string) error {
	return tx.exec("DELETE FROM waiting_links WHERE owner = ? AND message_id = ?", tx.who.Inbox, messageID)
}
