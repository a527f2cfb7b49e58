package store

import (
	"encoding/json"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// Hold is a hold of delivery as stored.
// An opening is kept as one too: with Opens it lets mail in instead.
type Hold struct {
	ID      int64
	Account int64 // 0 for all
	From    time.Time
	Until   *when.Moment
	EndedAt time.Time
	// Everything holds what would be let through as well.
	Everything, Opens bool
}

// Object names the hold in changes.
func (h Hold) Object() change.Object { return kinds.Hold.Of(h.ID) }

type holdRow struct {
	ID, AccountID, FromAt int64
	EndedAt               *int64
	Until                 *string
	Everything, Opens     bool
}

const holdColumns = "id, account_id, from_at, until, ended_at, everything, opens"

func (r holdRow) hold() (Hold, error) {
	h := Hold{ID: r.ID, Account: r.AccountID, From: fromMillis(r.FromAt), Everything: r.Everything, Opens: r.Opens}
	if r.EndedAt != nil {
		h.EndedAt = fromMillis(*r.EndedAt)
	}
	if r.Until == nil {
		return h, nil
	}
	return h, json.Unmarshal([]byte(*r.Until), &h.Until)
}

func (tx *Tx) holds(rows []holdRow, err error) ([]Hold, error) {
	return readable(tx, "hold", rows, func(r holdRow) int64 { return r.ID }, holdRow.hold), err
}

// OpenHolds lists the holds and openings that were not ended, the latest
// first. They may have run out.
func (tx *Tx) OpenHolds() ([]Hold, error) {
	return tx.holds(all[holdRow](tx.db.Raw("SELECT "+holdColumns+" FROM holds WHERE owner = ? AND alive = 1 AND ended_at IS NULL ORDER BY from_at DESC, id DESC", tx.who.Inbox)))
}

// HoldsSince lists the holds that were in force at any moment since then.
func (tx *Tx) HoldsSince(since time.Time) ([]Hold, error) {
	return tx.holds(all[holdRow](tx.db.Raw("SELECT "+holdColumns+` FROM holds WHERE owner = ? AND alive = 1 AND opens = 0
		AND (ended_at IS NULL OR ended_at > ?) ORDER BY from_at`, tx.who.Inbox, millis(since))))
}

// ByHand is the hold as the gate knows it, up to when it was ended.
func (h Hold) ByHand() delivery.ByHand {
	out := delivery.ByHand{Hold: delivery.Hold{From: h.From, All: h.Everything}, Account: h.Account, Opens: h.Opens}
	if h.Until != nil {
		out.Until = &h.Until.UTC
	}
	if !h.EndedAt.IsZero() {
		out.Until = &h.EndedAt
	}
	return out
}

// AddHold writes a hold that is not alive yet.
func (tx *Tx) AddHold(h Hold) (int64, error) {
	until, untilAt, err := momentColumns(h.Until)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning("INSERT INTO holds (owner, account_id, from_at, until, until_at, everything, opens) VALUES (?, ?, ?, ?, ?, ?, ?)",
		tx.who.Inbox, h.Account, millis(h.From), until, untilAt, h.Everything, h.Opens)
}

// Plan is a delivery plan as stored.
type Plan struct {
	ID     int64
	Value  delivery.Plan
	MadeAt time.Time
}

// AddPlan keeps a plan; it is put in force by a change.
func (tx *Tx) AddPlan(p delivery.Plan, at time.Time) (int64, error) {
	value, err := json.Marshal(p)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning("INSERT INTO plans (owner, value, made_at) VALUES (?, ?, ?)", tx.who.Inbox, string(value), millis(at))
}

// Plans lists the latest plans, the newest first; those of the given ids only,
// if there are any.
func (tx *Tx) Plans(most int, ids ...int64) ([]Plan, error) {
	query, args := "SELECT id, value, made_at FROM plans WHERE owner = ?", []any{tx.who.Inbox}
	if len(ids) > 0 {
		query, args = query+" AND id IN (SELECT value FROM json_each(?))", append(args, jsonIDs(ids))
	}
	type planRow struct {
		ID     int64
		Value  string
		MadeAt int64
	}
	rows, err := all[planRow](tx.db.Raw(query+" ORDER BY id DESC LIMIT ?", append(args, most)...))
	return readable(tx, "delivery plan", rows, func(r planRow) int64 { return r.ID }, func(r planRow) (Plan, error) {
		p := Plan{ID: r.ID, MadeAt: fromMillis(r.MadeAt)}
		return p, json.Unmarshal([]byte(r.Value), &p.Value)
	}), err
}

// PlanSince is a plan with the moment since which it was the common one.
type PlanSince struct {
	At   time.Time
	Plan delivery.Plan
}

type planSinceRow struct {
	At    int64
	Value *string
}

// PlansSince lists the common plans that were in force at any moment since
// then, in order.
func (tx *Tx) PlansSince(since time.Time) ([]PlanSince, error) {
	rows, err := all[planSinceRow](tx.db.Raw(`SELECT h.at, p.value FROM plan_history h LEFT JOIN plans p ON p.id = h.plan_id WHERE h.owner = ?1
		AND h.at >= coalesce((SELECT max(at) FROM plan_history WHERE owner = ?1 AND at <= ?2), 0) ORDER BY h.at, h.id`, tx.who.Inbox, millis(since)))
	if err != nil {
		return nil, err
	}
	return readable(tx, "former delivery plan", rows, func(r planSinceRow) int64 { return r.At }, func(r planSinceRow) (PlanSince, error) {
		out := PlanSince{At: fromMillis(r.At)}
		if r.Value == nil {
			return out, nil // no plan
		}
		return out, json.Unmarshal([]byte(*r.Value), &out.Plan)
	}), nil
}

// Deliveries lists when deliveries came in [from, to).
func (tx *Tx) Deliveries(from, to time.Time) ([]time.Time, error) {
	list, err := tx.ids("SELECT at FROM journal WHERE owner = ? AND at >= ? AND at < ? AND kind = 'delivery' ORDER BY at", tx.who.Inbox, millis(from), millis(to))
	out := make([]time.Time, len(list))
	for i, ms := range list {
		out[i] = fromMillis(ms)
	}
	return out, err
}

// SetDelivery keeps when the next delivery comes; zero for none.
func (tx *Tx) SetDelivery(at time.Time) error {
	var due *int64
	if !at.IsZero() {
		ms := millis(at)
		due = &ms
	}
	return tx.exec("UPDATE people SET deliver_at = ?1, delivery_seq = delivery_seq + 1 WHERE id = ?2 AND deliver_at IS NOT ?1", due, tx.who.Inbox)
}

// DeliverySeq tells apart deliveries that are due at the same time.
func (tx *Tx) DeliverySeq() (int64, error) {
	return tx.firstID("SELECT delivery_seq FROM people WHERE id = ?", tx.who.Inbox)
}

// Through is an entry of the let-through list.
type Through struct {
	delivery.Through
	Key   bool // a key person
	Until *when.Moment
}

// Object names the entry in changes.
func (t Through) Object() change.Object { return kinds.Through.Of(t.ID) }

// Throughs lists the entries that have not run out. One that ends with a day
// holds to the end of it.
func (tx *Tx) Throughs(now time.Time) ([]Through, error) {
	p, err := tx.Person()
	if err != nil {
		return nil, err
	}
	type throughRow struct {
		ID          int64
		Kind, Value string
		KeyPerson   bool
		Until       *string
	}
	rows, err := all[throughRow](tx.db.Raw("SELECT id, kind, value, key_person, until FROM let_through WHERE owner = ? AND alive = 1 AND (until_at IS NULL OR until_at > ?) ORDER BY id", tx.who.Inbox, millis(now.AddDate(0, 0, -2))))
	list := readable(tx, "let-through entry", rows, func(r throughRow) int64 { return r.ID }, func(r throughRow) (Through, error) {
		t := Through{Through: delivery.Through{ID: r.ID, Kind: delivery.ThroughKind(r.Kind), Value: r.Value}, Key: r.KeyPerson}
		if r.Until == nil {
			return t, nil
		}
		if err := json.Unmarshal([]byte(*r.Until), &t.Until); err != nil {
			return t, err
		}
		t.Through.Until = delivery.Until(*t.Until, p.Calendar())
		return t, nil
	})
	return slices.DeleteFunc(list, func(t Through) bool { return t.Until != nil && !now.Before(t.Through.Until) }), err
}

// AddThrough writes an entry that is not alive yet.
func (tx *Tx) AddThrough(t Through, at time.Time) (int64, error) {
	until, untilAt, err := momentColumns(t.Until)
	if err != nil {
		return 0, err
	}
	return tx.insertReturning("INSERT INTO let_through (owner, kind, value, key_person, until, until_at, made_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
		tx.who.Inbox, t.Kind, t.Value, t.Key, until, untilAt, millis(at))
}

// Came is a letter from somebody else as far as the gate goes: when it was
// received, and what it is let through by.
type Came struct {
	ID           int64
	At           time.Time
	Conversation int64
	Sender       string
	Facts        delivery.Facts
}

// CameBetween lists the letters from others that were received in [from, to) at
// some accounts, or at all (nil), in the order in which they came, held ones
// too.
func (tx *Tx) CameBetween(from, to time.Time, accounts []int64, most int) ([]Came, error) {
	condition, args := toAccounts(accounts)
	if accounts != nil {
		condition = "EXISTS (SELECT 1 FROM arrivals WHERE letter_id = l.id AND " + condition + ")"
	}
	args = append(append([]any{tx.who.Inbox, millis(from), millis(to)}, args...), most)
	return tx.came("l.owner = ? AND l.own = 0 AND l.received_at >= ? AND l.received_at < ? AND "+condition+" ORDER BY l.received_at, l.id LIMIT ?", args...)
}

// CameAs are letters by their ids, without order.
func (tx *Tx) CameAs(ids []int64) ([]Came, error) {
	return tx.came("+l.owner = ? AND l.id IN (SELECT value FROM json_each(?))", tx.who.Inbox, jsonIDs(ids))
}

// came reads letters as the gate sees them. Labels and projects are those that
// their conversations have now; held letters have none.
func (tx *Tx) came(which string, args ...any) ([]Came, error) {
	rows, err := tx.query(`SELECT l.id, l.received_at, coalesce(l.conversation_id, 0), l.from_name, l.from_email, l.recipients, l.subject,
			coalesce((SELECT json_group_array(label) FROM conversation_labels x WHERE x.conversation_id = l.conversation_id), '[]'),
			coalesce((SELECT json_group_array(DISTINCT f.project) FROM followup_letters x JOIN followups f ON f.id = x.followup_id AND f.alive = 1 AND f.project <> ''
				JOIN letters m ON m.id = x.letter_id WHERE m.conversation_id = l.conversation_id), '[]'),
			EXISTS (SELECT 1 FROM expectations e WHERE e.owner = l.owner AND e.met_by = l.id)
		FROM letters l WHERE `+which, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Came
	for rows.Next() {
		var c Came
		var at int64
		var who letter.Address
		var recipients, labels, projects string
		if err := rows.Scan(&c.ID, &at, &c.Conversation, &who.Name, &who.Email, &recipients, &c.Facts.Subject, &labels, &projects, &c.Facts.Answers); err != nil {
			return nil, err
		}
		c.At, c.Sender, c.Facts.From = fromMillis(at), who.Display(), who.Key()
		var to Recipients
		for text, into := range map[string]any{recipients: &to, labels: &c.Facts.Labels} {
			if err := json.Unmarshal([]byte(text), into); err != nil {
				tx.pass("letter", c.ID, err)
			}
		}
		if err := json.Unmarshal([]byte(projects), &c.Facts.Projects); err != nil {
			return nil, err
		}
		for _, a := range append(to.To, to.Cc...) {
			c.Facts.To = append(c.Facts.To, a.Key())
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// WithWords lists the letters since a moment that have words, one after the
// other, in subject or body. Of held letters only those that were prepared have
// a text to be searched.
func (tx *Tx) WithWords(words string, since time.Time, most int) (map[int64]bool, error) {
	phrase, err := json.Marshal(words) // a phrase of the full-text index is quoted alike
	if err != nil {
		return nil, err
	}
	ids, err := all[int64](tx.db.Raw(`SELECT l.id FROM letters_text t JOIN letters l ON l.row_key = t.rowid
		WHERE letters_text MATCH ? AND t.rowid >= ? AND l.owner = ? AND l.received_at >= ? LIMIT ?`,
		"{subject body} : "+string(phrase), rowKey(since.AddDate(0, 0, -1)), tx.who.Inbox, millis(since), most))
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// ConversationFacts are the labels of conversations, and the projects of their
// follow-ups.
func (tx *Tx) ConversationFacts(ids []int64) (labels, projects []string, err error) {
	if len(ids) == 0 {
		return nil, nil, nil
	}
	labels, err = all[string](tx.db.Raw("SELECT DISTINCT label FROM conversation_labels WHERE owner = ? AND conversation_id IN (SELECT value FROM json_each(?))", tx.who.Inbox, jsonIDs(ids)))
	if err != nil {
		return nil, nil, err
	}
	projects, err = all[string](tx.db.Raw(`SELECT DISTINCT f.project FROM letters l JOIN followup_letters x ON x.letter_id = l.id JOIN followups f ON f.id = x.followup_id
		WHERE l.owner = ? AND l.conversation_id IN (SELECT value FROM json_each(?)) AND f.alive = 1 AND f.project <> ''`, tx.who.Inbox, jsonIDs(ids)))
	return labels, projects, err
}

// MarkMention says of a letter that it names the owner.
func (tx *Tx) MarkMention(id int64) error {
	return tx.exec("UPDATE letters SET mentions = 1 WHERE owner = ? AND id = ?", tx.who.Inbox, id)
}

// LetThrough is a letter that was let through, or By "" that was let in.
type LetThrough struct {
	Letter       int64     `json:"letter"`
	Conversation int64     `json:"conversation"`
	From         string    `json:"from"`
	Subject      string    `json:"subject"`
	By           string    `json:"by"`
	At           time.Time `json:"at"`
}

// LetThroughSince lists the letters that were let through since then, the
// latest first.
func (tx *Tx) LetThroughSince(since time.Time, most int) ([]LetThrough, error) {
	return tx.letIn("through <> ''", since, most)
}

// MentionsSince lists the letters let in since then that name the owner, the
// latest first, without those that were let through.
func (tx *Tx) MentionsSince(since time.Time, most int) ([]LetThrough, error) {
	return tx.letIn("mentions = 1 AND through = ''", since, most)
}

func (tx *Tx) letIn(which string, since time.Time, most int) ([]LetThrough, error) {
	rows, err := all[struct {
		ID, ConversationID, InAt              int64
		FromName, FromEmail, Subject, Through string
	}](tx.db.Raw("SELECT id, conversation_id, in_at, from_name, from_email, subject, through FROM letters WHERE owner = ? AND "+which+" AND in_at > ? ORDER BY in_at DESC, id DESC LIMIT ?", tx.who.Inbox, millis(since), most))
	out := make([]LetThrough, len(rows))
	for i, r := range rows {
		who := letter.Address{Name: r.FromName, Email: r.FromEmail}
		out[i] = LetThrough{r.ID, r.ConversationID, who.Display(), r.Subject, r.Through, fromMillis(r.InAt)}
	}
	return out, err
}

// Noted is somebody who got a holding note.
type Noted struct {
	To string    `json:"to"`
	At time.Time `json:"at"`
}

// NotesSent lists who got a holding note, the latest first.
func (tx *Tx) NotesSent(most int) ([]Noted, error) {
	rows, err := all[struct {
		AutoTo string
		SendAt int64
	}](tx.db.Raw("SELECT auto_to, send_at FROM outbox WHERE owner = ? AND auto_kind = 'holding' ORDER BY send_at DESC, id DESC LIMIT ?", tx.who.Inbox, most))
	out := make([]Noted, len(rows))
	for i, r := range rows {
		out[i] = Noted{r.AutoTo, fromMillis(r.SendAt)}
	}
	return out, err
}

// EarlyOpenings counts how often the person let mail in early since then, and
// did not take it back.
func (tx *Tx) EarlyOpenings(since time.Time) (int64, error) {
	return tx.firstID("SELECT count(*) FROM journal WHERE owner = ? AND kind = 'let-in-early' AND undone_by IS NULL AND at >= ?", tx.who.Inbox, millis(since))
}
