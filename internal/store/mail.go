package store

import (
	"encoding/json"
	"errors"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/meeting"
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

func (r draftRow) draft() Draft {
	return Draft{ID: r.ID, Number: r.Number, Alive: r.Alive, Conversation: r.ConversationID, Kind: r.Kind, Value: json.RawMessage(r.Value), UpdatedAt: r.UpdatedAt.Time}
}

// SaveDraft keeps what was typed. A draft that was sent or thrown away stays
// so: a late save never wakes it. No number is given twice.
//
// By hand: its number is given and a late save left out in one statement.
func (tx *Tx) SaveDraft(d Draft) error {
	return tx.exec(`INSERT INTO drafts (id, owner, conversation_id, kind, value, updated_at, number)
		VALUES (?1, ?2, ?3, ?4, ?5, ?6, 
			1 + max(coalesce((SELECT max(number) FROM drafts), 0), coalesce((SELECT max(object_id) FROM field_versions WHERE object = 'draft'), 0)))
		ON CONFLICT DO UPDATE SET value = excluded.value, updated_at = excluded.updated_at WHERE alive = 1`,
		d.ID, tx.who.Inbox, d.Conversation, d.Kind, string(d.Value), millis(d.UpdatedAt))
}

// Draft is one draft by its id, alive or not.
func (tx *Tx) Draft(id string) (Draft, error) {
	r, err := gorm.G[draftRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	return r.draft(), err
}

// Drafts lists the living drafts, last touched first.
func (tx *Tx) Drafts() ([]Draft, error) {
	return drafts(gorm.G[draftRow](tx.db).Where("alive = 1").Order("updated_at DESC, id").Find(tx.ctx()))
}

// EveryDraft lists those that were sent or thrown away too.
func (tx *Tx) EveryDraft() ([]Draft, error) {
	return drafts(gorm.G[draftRow](tx.db).Order("number").Find(tx.ctx()))
}

func drafts(rows []draftRow, err error) ([]Draft, error) {
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
	// Later tells that it leaves at a time of its own, rather than as soon as it may.
	Later bool
	// Every is how it recurs; nil for a letter that does not.
	Every *meeting.Series
	// Notify asks the mail service to tell what becomes of it (RFC 3461).
	Notify bool
	// Outcomes are what became of it for each recipient, as far as is known.
	Outcomes []sending.Outcome
}

func (r outgoingRow) outgoing() (Outgoing, error) {
	return Outgoing{
		ID: r.ID, AccountID: r.AccountID, Conversation: r.ConversationID, Draft: r.Draft, MessageID: r.MessageID, Sender: r.Sender, Recipients: r.Recipients.V,
		Subject: r.Subject, SHA: r.Sha, AutoTo: r.AutoTo, AutoKind: r.AutoKind, State: r.State, SendAt: r.SendAt.Time, MadeAt: r.MadeAt.Time, Tries: r.Tries, Trouble: r.Trouble,
		Outcomes: r.Outcomes.V, Later: r.Later, Notify: r.Notify, Every: r.Every.V,
	}, errors.Join(r.Recipients.Err, r.Outcomes.Err, r.Every.Err)
}

// AddOutgoing puts a letter into the outbox; its state "none" becomes
// "waiting" by a change, so that sending can be undone.
func (tx *Tx) AddOutgoing(o Outgoing, p Packed, at time.Time) (int64, error) {
	if err := tx.putBlob(p); err != nil {
		return 0, err
	}
	row := outgoingRow{
		AccountID: o.AccountID, ConversationID: o.Conversation, Draft: o.Draft, MessageID: o.MessageID, Sender: o.Sender, Recipients: keep(o.Recipients), Subject: o.Subject,
		Sha: p.SHA, State: "none", SendAt: stamp{o.SendAt}, MadeAt: stamp{at}, AutoTo: o.AutoTo, AutoKind: o.AutoKind, Outcomes: keep([]sending.Outcome{}), Later: o.Later, Notify: o.Notify, Every: maybe(o.Every),
	}
	err := gorm.G[outgoingRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Outgoing is one letter of the outbox.
func (tx *Tx) Outgoing(id int64) (Outgoing, error) {
	r, err := gorm.G[outgoingRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	if err != nil {
		return Outgoing{}, err
	}
	return r.outgoing()
}

// OutgoingBytes gives the letter as it is sent.
func (tx *Tx) OutgoingBytes(o Outgoing) ([]byte, error) { return tx.blob(o.SHA) }

// Outbox lists what has not left yet, and what could not leave.
func (tx *Tx) Outbox() ([]Outgoing, error) {
	return tx.outgoing(gorm.G[outgoingRow](tx.db).Where("state IN ?", append(sending.UnderWay[:2:2], sending.Failed)).Order("send_at, id").Find(tx.ctx()))
}

// GivenBack lists the letters that nobody got and that are drafts again.
func (tx *Tx) GivenBack() ([]Outgoing, error) {
	drafts := gorm.G[draftRow](tx.db).Select("id").Where("alive = 1")
	return tx.outgoing(gorm.G[outgoingRow](tx.db).Where("state = ? AND draft IN (?)", sending.Failed, drafts).Order("id DESC").Limit(20).Find(tx.ctx()))
}

func (tx *Tx) outgoing(rows []outgoingRow, err error) ([]Outgoing, error) {
	return readable(tx, "letter of the outbox", rows, func(r outgoingRow) int64 { return r.ID }, outgoingRow.outgoing), err
}

// OutgoingByMessageID finds a letter in the outbox, whatever became of it;
// ErrNotFound if there is none.
func (tx *Tx) OutgoingByMessageID(messageID string) (Outgoing, error) {
	r, err := gorm.G[outgoingRow](tx.db).Where("message_id = ? AND message_id <> ''", messageID).First(tx.ctx())
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
	rows, err := gorm.G[outgoingRow](tx.db).Where("message_id IN ?", messageIDs).Find(tx.ctx())
	out := map[string][]sending.Outcome{}
	for _, r := range rows {
		if r.Outcomes.Err == nil {
			out[r.MessageID] = r.Outcomes.V
		}
	}
	return out, err
}

// SetOutcomes keeps what became of a letter for its recipients.
func (tx *Tx) SetOutcomes(id int64, outcomes []sending.Outcome) error {
	_, err := gorm.G[outgoingRow](tx.db).Where("id = ?", id).Update(tx.ctx(), "outcomes", keep(outcomes))
	return err
}

// SetUnderWay sets since when a letter has been under way.
func (tx *Tx) SetUnderWay(id int64, since time.Time) error {
	_, err := gorm.G[outgoingRow](tx.db).Where("id = ?", id).Update(tx.ctx(), "made_at", stamp{since})
	return err
}

// Retry sets when a letter that did not leave is tried again.
func (tx *Tx) Retry(id int64, at time.Time, trouble string) error {
	_, err := gorm.G[outgoingRow](tx.db).Where("id = ?", id).Set(to("send_at", stamp{at}), to("tries", gorm.Expr("tries + 1")), to("trouble", trouble)).Update(tx.ctx())
	return err
}

// Sent lists the owner's own letters, newest first, from before the cursor.
func (tx *Tx) Sent(after *Cursor, most int) ([]Letter, *Cursor, error) {
	sent := gorm.G[letterRow](tx.db).Where("own = 1 AND in_at IS NOT NULL").Order("date DESC, id DESC").Limit(most + 1)
	if after != nil {
		sent = sent.Where("(date, id) < (?, ?)", after.Key, after.ID)
	}
	rows, err := sent.Find(tx.ctx())
	if err != nil {
		return nil, nil, err
	}
	var next *Cursor
	if len(rows) > most {
		rows = rows[:most]
		next = &Cursor{Key: millis(rows[most-1].Date.Time), ID: rows[most-1].ID}
	}
	return lettersOf(rows), next, nil
}

// DraftByNumber gives the id of a draft by the number that changes know it by.
func (tx *Tx) DraftByNumber(number int64) (string, error) {
	d, err := gorm.G[draftRow](tx.db).Where("number = ?", number).Take(tx.ctx())
	return d.ID, err
}

// LastAutoAnswer is when somebody last got an automatic answer, or is about
// to; zero if never.
func (tx *Tx) LastAutoAnswer(person string) (time.Time, error) {
	last, err := orNone(gorm.G[outgoingRow](tx.db).Where("auto_to = ? AND auto_to <> '' AND state IN ?", person, append(sending.UnderWay[:2:2], sending.Sent)).
		Order("send_at DESC").Take(tx.ctx()))
	return last.SendAt.Time, err
}

// LastSentOf is when the latest letter of a draft left; zero if none has.
func (tx *Tx) LastSentOf(draft string) (time.Time, error) {
	last, err := orNone(gorm.G[outgoingRow](tx.db).Where("draft = ? AND draft <> '' AND state = ?", draft, sending.Sent).Order("send_at DESC").Take(tx.ctx()))
	return last.SendAt.Time, err
}
