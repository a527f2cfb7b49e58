package store

import (
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// FollowUp is a tracked follow-up.
type FollowUp struct {
	ID       int64
	Alive    bool
	Title    string
	Notes    string
	Due      *when.Moment
	Priority followup.Priority
	Status   followup.Status
	Project  string
	Estimate int // minutes, 0 when not set
	Flag     bool
	MadeAt   time.Time
	DoneAt   time.Time
	Letters  []FollowUpLetter
	Reminder *Reminder
}

// FollowUpLetter is a letter that a follow-up came from. What identifies it
// stays when the letter is purged.
type FollowUpLetter struct {
	LetterID     int64
	Conversation int64 // 0 once purged
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
	State  string // "set", "rang", "seen"
}

type followUpRow struct {
	ID, MadeAt                              int64
	DoneAt                                  *int64
	Title, Notes, Priority, Status, Project string
	Due                                     *string
	Estimate                                int
	Alive, Flag                             bool
}

const followUpColumns = "id, alive, title, notes, due, priority, status, project, estimate, flag, made_at, done_at"

// FollowUps lists follow-ups: the open ones in the order of their due, or the
// closed ones, last closed first.
func (tx *Tx) FollowUps(closed bool, most int) ([]FollowUp, error) {
	query := "SELECT " + followUpColumns + " FROM followups WHERE owner = ? AND alive = 1 AND status NOT IN ('done', 'dropped') ORDER BY due_at IS NULL, due_at, id LIMIT ?"
	if closed {
		query = "SELECT " + followUpColumns + " FROM followups WHERE owner = ? AND alive = 1 AND status IN ('done', 'dropped') ORDER BY done_at DESC, id DESC LIMIT ?"
	}
	return tx.followUps(query, tx.owner, most)
}

// FollowUp is one follow-up by its id.
func (tx *Tx) FollowUp(id int64) (FollowUp, error) {
	list, err := tx.followUps("SELECT "+followUpColumns+" FROM followups WHERE owner = ? AND id = ?", tx.owner, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return FollowUp{}, err
	}
	return list[0], nil
}

// FollowUpsOf lists the follow-ups of a conversation, open and closed.
func (tx *Tx) FollowUpsOf(conversation int64) ([]FollowUp, error) {
	return tx.followUps("SELECT "+followUpColumns+` FROM followups WHERE owner = ? AND alive = 1 AND id IN (
		SELECT x.followup_id FROM followup_letters x JOIN letters l ON l.id = x.letter_id WHERE l.conversation_id = ?) ORDER BY id`, tx.owner, conversation)
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
		out[i] = FollowUp{
			ID: r.ID, Alive: r.Alive, Title: r.Title, Notes: r.Notes, Priority: followup.Priority(r.Priority), Status: followup.Status(r.Status),
			Project: r.Project, Estimate: r.Estimate, Flag: r.Flag, MadeAt: fromMillis(r.MadeAt),
		}
		if r.Due != nil {
			if err := json.Unmarshal([]byte(*r.Due), &out[i].Due); err != nil {
				return nil, err
			}
		}
		if r.DoneAt != nil {
			out[i].DoneAt = fromMillis(*r.DoneAt)
		}
		at[r.ID], ids[i] = &out[i], r.ID
	}
	return out, tx.fillFollowUps(at, jsonIDs(ids))
}

func (tx *Tx) fillFollowUps(at map[int64]*FollowUp, ids string) error {
	letters, err := all[struct {
		FollowupID, LetterID, Date int64
		ConversationID             *int64
		Subject, Sender, Ask       string
		Purged                     bool
	}](tx.db.Raw(`SELECT x.followup_id, x.letter_id, l.conversation_id, x.subject, x.sender, x.date, x.ask, x.purged
		FROM followup_letters x LEFT JOIN letters l ON l.id = x.letter_id
		WHERE +x.owner = ? AND x.followup_id IN (SELECT value FROM json_each(?)) ORDER BY x.letter_id`, tx.owner, ids))
	if err != nil {
		return err
	}
	for _, l := range letters {
		link := FollowUpLetter{LetterID: l.LetterID, Subject: l.Subject, Sender: l.Sender, Date: fromMillis(l.Date), Ask: l.Ask, Purged: l.Purged}
		if l.ConversationID != nil {
			link.Conversation = *l.ConversationID
		}
		at[l.FollowupID].Letters = append(at[l.FollowupID].Letters, link)
	}
	reminders, err := all[struct {
		ID, FollowupID int64
		Moment, State  string
	}](tx.db.Raw("SELECT id, followup_id, moment, state FROM reminders WHERE owner = ? AND alive = 1 AND followup_id IN (SELECT value FROM json_each(?))", tx.owner, ids))
	if err != nil {
		return err
	}
	for _, r := range reminders {
		reminder := Reminder{ID: r.ID, State: r.State}
		if err := json.Unmarshal([]byte(r.Moment), &reminder.Moment); err != nil {
			return err
		}
		at[r.FollowupID].Reminder = &reminder
	}
	return nil
}

// AddFollowUp writes a follow-up that is not alive yet; bringing it to life
// is a change, so that it can be undone.
func (tx *Tx) AddFollowUp(f FollowUp) (int64, error) {
	var due *string
	var dueAt *int64
	if f.Due != nil {
		text, err := json.Marshal(f.Due)
		if err != nil {
			return 0, err
		}
		s := string(text)
		due = &s
		if f.Due.Precision != when.Open {
			ms := millis(f.Due.UTC)
			dueAt = &ms
		}
	}
	id, err := tx.insertReturning(`INSERT INTO followups (owner, title, notes, due, due_at, priority, status, project, estimate, flag, made_at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.owner, f.Title, f.Notes, due, dueAt, string(f.Priority), string(f.Status), f.Project, f.Estimate, f.Flag, millis(f.MadeAt))
	if err != nil {
		return 0, err
	}
	links := tx.bulk()
	for _, l := range f.Letters {
		links.add(tx.owner, id, l.LetterID, l.Subject, l.Sender, millis(l.Date), l.Ask)
	}
	return id, links.flush("INSERT INTO followup_letters (owner, followup_id, letter_id, subject, sender, date, ask) VALUES ", "")
}

// AddReminder writes a reminder that is not alive yet.
func (tx *Tx) AddReminder(followUp int64, m when.Moment) (int64, error) {
	text, err := json.Marshal(m)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning("INSERT INTO reminders (owner, followup_id, moment, at) VALUES (?, ?, ?, ?)", tx.owner, followUp, string(text), millis(m.UTC))
}

// Ringing lists the reminders that rang and were not looked at yet, with
// their follow-ups.
func (tx *Tx) Ringing() ([]FollowUp, error) {
	return tx.followUps("SELECT "+followUpColumns+` FROM followups WHERE owner = ? AND alive = 1 AND status NOT IN ('done', 'dropped')
		AND id IN (SELECT followup_id FROM reminders WHERE alive = 1 AND state = 'rang') ORDER BY id`, tx.owner)
}

// ReminderOf gives the follow-up to which a reminder belongs.
func (tx *Tx) ReminderOf(id int64) (followUp int64, r Reminder, err error) {
	row, err := one[struct {
		FollowupID    int64
		Moment, State string
	}](tx.db.Raw("SELECT followup_id, moment, state FROM reminders WHERE owner = ? AND id = ? AND alive = 1", tx.owner, id))
	if err != nil {
		return 0, r, err
	}
	r = Reminder{ID: id, State: row.State}
	return row.FollowupID, r, json.Unmarshal([]byte(row.Moment), &r.Moment)
}

// CountFollowUps counts the open ones.
func (tx *Tx) CountFollowUps() (n int, err error) {
	err = tx.db.Raw("SELECT count(*) FROM followups WHERE owner = ? AND alive = 1 AND status NOT IN ('done', 'dropped')", tx.owner).Row().Scan(&n)
	return n, err
}
