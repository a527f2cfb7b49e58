package store

import (
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/core/sending"
)

// Draft is a letter being written. Value is what the page keeps in it.
type Draft struct {
	ID           string
	Number       int64
	Alive        bool
	Conversation int64
	Kind         string
	Value        json.RawMessage
	UpdatedAt    time.Time
}

type draftRow struct {
	ID, Kind, Value                   string
	Number, ConversationID, UpdatedAt int64
	Alive                             bool
}

func (r draftRow) draft() Draft {
	return Draft{ID: r.ID, Number: r.Number, Alive: r.Alive, Conversation: r.ConversationID, Kind: r.Kind, Value: json.RawMessage(r.Value), UpdatedAt: fromMillis(r.UpdatedAt)}
}

const draftColumns = "id, number, alive, conversation_id, kind, value, updated_at"

// SaveDraft keeps what was typed. A draft that was sent or thrown away stays
// so: a late save never wakes it.
func (tx *Tx) SaveDraft(d Draft) error {
	return tx.exec(`INSERT INTO drafts (id, owner, conversation_id, kind, value, updated_at, number)
		VALUES (?1, ?2, ?3, ?4, ?5, ?6, (SELECT coalesce(max(number), 0) + 1 FROM drafts))
		ON CONFLICT DO UPDATE SET value = excluded.value, updated_at = excluded.updated_at WHERE alive = 1`,
		d.ID, tx.who.Inbox, d.Conversation, d.Kind, string(d.Value), millis(d.UpdatedAt))
}

// Draft is one draft by its id, alive or not.
func (tx *Tx) Draft(id string) (Draft, error) {
	r, err := one[draftRow](tx.db.Raw("SELECT "+draftColumns+" FROM drafts WHERE owner = ? AND id = ?", tx.who.Inbox, id))
	return r.draft(), err
}

// Drafts lists the living drafts, last touched first.
func (tx *Tx) Drafts() ([]Draft, error) {
	rows, err := all[draftRow](tx.db.Raw("SELECT "+draftColumns+" FROM drafts WHERE owner = ? AND alive = 1 ORDER BY updated_at DESC, id", tx.who.Inbox))
	out := make([]Draft, len(rows))
	for i, r := range rows {
		out[i] = r.draft()
	}
	return out, err
}

// Outgoing is a letter in the outbox. Its bytes and its Message-ID are fixed
// before the first try.
type Outgoing struct {
	ID           int64
	AccountID    int64
	Conversation int64
	Draft        string
	MessageID    string
	Sender       string
	Recipients   []string
	Subject      string
	SHA          []byte
	// AutoTo is to whom an automatic answer goes; "" for what a person wrote.
	AutoTo string
	// AutoKind is "holding" for a holding note.
	AutoKind string
	State    sending.Stage
	SendAt   time.Time
	MadeAt   time.Time
	Tries    int
	Trouble  string
	// Outcomes are what became of it for each recipient, as far as is known.
	Outcomes []sending.Outcome
}

type outgoingRow struct {
	ID, AccountID, ConversationID, SendAt, MadeAt                                     int64
	Draft, MessageID, Sender, Recipients, Subject, State, Trouble, AutoKind, Outcomes string
	Sha                                                                               []byte
	Tries                                                                             int
}

const outgoingColumns = "id, account_id, conversation_id, draft, message_id, sender, recipients, subject, sha, state, send_at, made_at, tries, trouble, auto_kind, outcomes"

func (r outgoingRow) outgoing() (Outgoing, error) {
	o := Outgoing{
		ID: r.ID, AccountID: r.AccountID, Conversation: r.ConversationID, Draft: r.Draft, MessageID: r.MessageID, Sender: r.Sender,
		Subject: r.Subject, SHA: r.Sha, State: sending.Stage(r.State), SendAt: fromMillis(r.SendAt), MadeAt: fromMillis(r.MadeAt), Tries: r.Tries, Trouble: r.Trouble, AutoKind: r.AutoKind,
	}
	if err := json.Unmarshal([]byte(r.Recipients), &o.Recipients); err != nil {
		return o, err
	}
	return o, json.Unmarshal([]byte(r.Outcomes), &o.Outcomes)
}

// AddOutgoing puts a letter into the outbox; its state "none" becomes
// "waiting" by a change, so that sending can be undone.
func (tx *Tx) AddOutgoing(o Outgoing, p Packed, at time.Time) (int64, error) {
	if err := tx.putBlob(p); err != nil {
		return 0, err
	}
	recipients, err := json.Marshal(o.Recipients)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning(`INSERT INTO outbox (owner, account_id, conversation_id, draft, message_id, sender, recipients, subject, sha, send_at, made_at, auto_to, auto_kind)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.who.Inbox, o.AccountID, o.Conversation, o.Draft, o.MessageID, o.Sender, string(recipients), o.Subject, p.SHA, millis(o.SendAt), millis(at), o.AutoTo, o.AutoKind)
}

// Outgoing is one letter of the outbox.
func (tx *Tx) Outgoing(id int64) (Outgoing, error) {
	r, err := one[outgoingRow](tx.db.Raw("SELECT "+outgoingColumns+" FROM outbox WHERE owner = ? AND id = ?", tx.who.Inbox, id))
	if err != nil {
		return Outgoing{}, err
	}
	return r.outgoing()
}

// OutgoingBytes gives the letter as it is sent.
func (tx *Tx) OutgoingBytes(o Outgoing) ([]byte, error) { return tx.blob(o.SHA) }

// Outbox lists what has not left yet, and what could not leave.
func (tx *Tx) Outbox() ([]Outgoing, error) {
	rows, err := all[outgoingRow](tx.db.Raw("SELECT "+outgoingColumns+" FROM outbox WHERE owner = ? AND "+among("state", append(sending.UnderWay[:2:2], sending.Failed))+" ORDER BY send_at, id", tx.who.Inbox))
	if err != nil {
		return nil, err
	}
	return readable(tx, "letter of the outbox", rows, func(r outgoingRow) int64 { return r.ID }, outgoingRow.outgoing), nil
}

// GivenBack lists the letters that nobody got and that are drafts again.
func (tx *Tx) GivenBack() ([]Outgoing, error) {
	rows, err := all[outgoingRow](tx.db.Raw("SELECT "+outgoingColumns+` FROM outbox WHERE owner = ? AND state = 'failed'
		AND draft IN (SELECT id FROM drafts WHERE owner = outbox.owner AND alive = 1) ORDER BY id DESC LIMIT 20`, tx.who.Inbox))
	return readable(tx, "letter of the outbox", rows, func(r outgoingRow) int64 { return r.ID }, outgoingRow.outgoing), err
}

// OutgoingByMessageID finds a letter in the outbox, whatever became of it;
// ErrNotFound if there is none.
func (tx *Tx) OutgoingByMessageID(messageID string) (Outgoing, error) {
	r, err := one[outgoingRow](tx.db.Raw("SELECT "+outgoingColumns+" FROM outbox WHERE owner = ? AND message_id = ? AND message_id <> '' ORDER BY id LIMIT 1", tx.who.Inbox, messageID))
	if err != nil {
		return Outgoing{}, err
	}
	return r.outgoing()
}

// Outcomes gives, by Message-ID, what became of own letters for their
// recipients.
func (tx *Tx) Outcomes(messageIDs []string) (map[string][]sending.Outcome, error) {
	if len(messageIDs) == 0 {
		return nil, nil
	}
	list, err := json.Marshal(messageIDs)
	if err != nil {
		return nil, err
	}
	rows, err := all[struct{ MessageID, Outcomes string }](tx.db.Raw(
		"SELECT message_id, outcomes FROM outbox WHERE owner = ? AND message_id IN (SELECT value FROM json_each(?))", tx.who.Inbox, string(list)))
	out := map[string][]sending.Outcome{}
	for _, r := range rows {
		var o []sending.Outcome
		if json.Unmarshal([]byte(r.Outcomes), &o) == nil {
			out[r.MessageID] = o
		}
	}
	return out, err
}

// SetOutcomes keeps what became of a letter for its recipients.
func (tx *Tx) SetOutcomes(id int64, outcomes []sending.Outcome) error {
	text, err := json.Marshal(outcomes)
	if err != nil {
		return err
	}
	return tx.exec("UPDATE outbox SET outcomes = ? WHERE owner = ? AND id = ?", string(text), tx.who.Inbox, id)
}

// Retry sets when a letter that did not leave is tried again.
func (tx *Tx) Retry(id int64, at time.Time, trouble string) error {
	return tx.exec("UPDATE outbox SET send_at = ?, tries = tries + 1, trouble = ? WHERE owner = ? AND id = ?", millis(at), trouble, tx.who.Inbox, id)
}

// Sent lists the owner's own letters, newest first, from before the cursor.
func (tx *Tx) Sent(after *Cursor, most int) ([]Letter, *Cursor, error) {
	if after == nil {
		after = &Cursor{Key: 1 << 62}
	}
	rows, err := all[letterRow](tx.db.Raw("SELECT "+letterColumns+` FROM letters l WHERE l.owner = ? AND l.own = 1 AND l.in_at IS NOT NULL
		AND (l.date < ? OR l.date = ? AND l.id < ?) ORDER BY l.date DESC, l.id DESC LIMIT ?`, tx.who.Inbox, after.Key, after.Key, after.ID, most+1))
	if err != nil {
		return nil, nil, err
	}
	var next *Cursor
	if len(rows) > most {
		rows = rows[:most]
		next = &Cursor{Key: rows[most-1].Date, ID: rows[most-1].ID}
	}
	return lettersOf(rows), next, nil
}

// DraftByNumber gives the id of a draft by the number that changes know it by.
func (tx *Tx) DraftByNumber(number int64) (string, error) {
	d, err := one[struct{ ID string }](tx.db.Raw("SELECT id FROM drafts WHERE owner = ? AND number = ?", tx.who.Inbox, number))
	return d.ID, err
}

// LastAutoAnswer is when somebody last got an automatic answer, or is about
// to; zero if never.
func (tx *Tx) LastAutoAnswer(person string) (time.Time, error) {
	ms, err := tx.firstID("SELECT send_at FROM outbox WHERE owner = ? AND auto_to = ? AND auto_to <> '' AND "+among("state", append(sending.UnderWay[:2:2], sending.Sent))+" ORDER BY send_at DESC LIMIT 1", tx.who.Inbox, person)
	if err != nil || ms == 0 {
		return time.Time{}, err
	}
	return fromMillis(ms), nil
}
