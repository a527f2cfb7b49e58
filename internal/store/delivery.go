package store

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
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

func (r holdRow) hold() (Hold, error) {
	return Hold{
		ID: r.ID, Account: r.AccountID, From: r.FromAt.Time, Until: r.Until.V, EndedAt: r.EndedAt.Time, Everything: r.Everything, Opens: r.Opens,
	}, r.Until.Err
}

func (tx *Tx) holds(rows []holdRow, err error) ([]Hold, error) {
	return readable(tx, "hold", rows, func(r holdRow) int64 { return r.ID }, holdRow.hold), err
}

// OpenHolds lists the holds and openings that were not ended, the latest
// first. They may have run out.
func (tx *Tx) OpenHolds() ([]Hold, error) {
	return tx.holds(gorm.G[holdRow](tx.db).Where("alive AND ended_at IS NULL").Order("from_at DESC, id DESC").Find(tx.ctx()))
}

// HoldsSince lists the holds that were in force at any moment since then.
func (tx *Tx) HoldsSince(since time.Time) ([]Hold, error) {
	return tx.holds(gorm.G[holdRow](tx.db).Where("alive AND NOT opens").Where("ended_at IS NULL OR ended_at > ?", at(since)).Order("from_at").Find(tx.ctx()))
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
	row := holdRow{AccountID: h.Account, FromAt: at(h.From), Until: maybe(h.Until), UntilAt: instantOf(h.Until), Everything: h.Everything, Opens: h.Opens}
	err := gorm.G[holdRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Plan is a delivery plan as stored.
type Plan struct {
	ID     int64
	Value  delivery.Plan
	MadeAt time.Time
}

// AddPlan keeps a plan; it is put in force by a change.
func (tx *Tx) AddPlan(p delivery.Plan, at time.Time) (int64, error) {
	row := planRow{Value: keep(p), MadeAt: stamp{at}}
	err := gorm.G[planRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// Plans lists the latest plans, the newest first; those of the given ids only,
// if there are any.
func (tx *Tx) Plans(most int, ids ...int64) ([]Plan, error) {
	plans := gorm.G[planRow](tx.db).Order("id DESC").Limit(most)
	if len(ids) > 0 {
		plans = plans.Where("id IN ?", ids)
	}
	rows, err := plans.Find(tx.ctx())
	return readable(tx, "delivery plan", rows, func(r planRow) int64 { return r.ID }, func(r planRow) (Plan, error) {
		return Plan{ID: r.ID, Value: r.Value.V, MadeAt: r.MadeAt.Time}, r.Value.Err
	}), err
}

// PlanSince is a plan with the moment since which it was the common one.
type PlanSince struct {
	At   time.Time
	Plan delivery.Plan
}

// PlansSince lists the common plans that were in force at any moment since
// then, in order.
func (tx *Tx) PlansSince(since time.Time) ([]PlanSince, error) {
	already := gorm.G[planHistoryRow](tx.db).Select("max(at)").Where("at <= ?", at(since))
	rows, err := gorm.G[planHistoryRow](tx.db).Preload("Plan", nil).Where("at >= coalesce((?), 0)", already).Order("at, id").Find(tx.ctx())
	return readable(tx, "former delivery plan", rows, func(r planHistoryRow) int64 { return r.ID }, func(r planHistoryRow) (PlanSince, error) {
		out := PlanSince{At: r.At.Time}
		if r.Plan == nil {
			return out, nil // no plan
		}
		out.Plan = r.Plan.Value.V
		return out, r.Plan.Value.Err
	}), err
}

// Deliveries lists when deliveries came in [from, to).
func (tx *Tx) Deliveries(from, to time.Time) ([]time.Time, error) {
	return times(pluck[stamp](tx.ctx(), gorm.G[entryRow](tx.db).Where("at >= ? AND at < ? AND kind = 'delivery'", at(from), at(to)).Order("at"), "at"))
}

// SetDelivery keeps when the next delivery comes, and when kinds come up next; zero for none.
func (tx *Tx) SetDelivery(at, up time.Time) error {
	due, surface := maybeAt(at), maybeAt(up)
	if _, err := gorm.G[personRow](tx.db).Where("id = ? AND surface_at IS NOT ?", tx.who.Inbox, surface).Update(tx.ctx(), "surface_at", surface); err != nil {
		return err
	}
	_, err := gorm.G[personRow](tx.db).Where("id = ? AND deliver_at IS NOT ?", tx.who.Inbox, due).
		Set(to("deliver_at", due), to("delivery_seq", gorm.Expr("delivery_seq + 1"))).
		Update(tx.ctx())
	return err
}

// DeliverySeq tells apart deliveries that are due at the same time.
func (tx *Tx) DeliverySeq() (int64, error) {
	row, err := gorm.G[personRow](tx.db).Where("id = ?", tx.who.Inbox).Take(tx.ctx())
	return row.DeliverySeq, err
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
	rows, err := gorm.G[letThroughRow](tx.db).Where("alive").Where("until_at IS NULL OR until_at > ?", at(now.AddDate(0, 0, -2))).Order("id").Find(tx.ctx())
	list := readable(tx, "let-through entry", rows, func(r letThroughRow) int64 { return r.ID }, func(r letThroughRow) (Through, error) {
		t := Through{Through: delivery.Through{ID: r.ID, Kind: r.Kind, Value: r.Value}, Key: r.KeyPerson, Until: r.Until.V}
		if r.Until.Err == nil && t.Until != nil {
			t.Through.Until = delivery.Until(*t.Until, p.Calendar())
		}
		return t, r.Until.Err
	})
	return slices.DeleteFunc(list, func(t Through) bool { return t.Until != nil && !now.Before(t.Through.Until) }), err
}

// KeyPersons are the addresses of key persons.
func (tx *Tx) KeyPersons(now time.Time) (map[string]bool, error) {
	list, err := tx.Throughs(now)
	out := map[string]bool{}
	for _, t := range list {
		if t.Key {
			out[t.Value] = true
		}
	}
	return out, err
}

// AddThrough writes an entry that is not alive yet.
func (tx *Tx) AddThrough(t Through, at time.Time) (int64, error) {
	row := letThroughRow{Kind: t.Kind, Value: t.Value, KeyPerson: t.Key, Until: maybe(t.Until), UntilAt: instantOf(t.Until), MadeAt: stamp{at}}
	err := gorm.G[letThroughRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
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
//
// By hand: labels and projects are gathered by SQLite, as JSON.
func (tx *Tx) came(which string, args ...any) ([]Came, error) {
	rows, err := tx.query(`SELECT l.id, l.received_at, coalesce(l.conversation_id, 0), l.from_name, l.from_email, l.recipients, l.subject, l.traits,
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
		var traits sorting.Traits
		if err := rows.Scan(&c.ID, &at, &c.Conversation, &who.Name, &who.Email, &recipients, &c.Facts.Subject, &traits, &labels, &projects, &c.Facts.Answers); err != nil {
			return nil, err
		}
		c.Facts.SignsIn = traits.Has(sorting.SignsIn)
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
// other, in subject or body; or other words, where there are more. Of held letters
// only those that were prepared have a text to be searched.
//
// By hand: full text.
func (tx *Tx) WithWords(since time.Time, most int, words ...string) (map[int64]bool, error) {
	phrases := make([]string, len(words))
	for i, w := range words {
		phrases[i] = `"` + letter.Folded(w) + `"`
	}
	ids, err := all[int64](tx.db.Raw(`SELECT l.id FROM letters_text t JOIN letters l ON l.row_key = t.rowid
		WHERE letters_text MATCH ? AND t.rowid >= ? AND l.owner = ? AND l.received_at >= ? LIMIT ?`,
		"{subject body} : ("+strings.Join(phrases, " OR ")+")", rowKey(since.AddDate(0, 0, -1)), tx.who.Inbox, millis(since), most))
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
	labels, err = pluck[string](tx.ctx(), gorm.G[conversationLabelRow](tx.db).Where(inNumbers("conversation_id", ids)), "DISTINCT label")
	if err != nil {
		return nil, nil, err
	}
	letters := gorm.G[letterRow](tx.few()).Select("id").Where(inNumbers("conversation_id", ids))
	links := gorm.G[followUpLetterRow](tx.few()).Select("followup_id").Where("letter_id IN (?)", letters)
	projects, err = pluck[string](tx.ctx(), gorm.G[followUpRow](tx.few()).Where("alive = 1 AND project <> '' AND id IN (?)", links), "DISTINCT project")
	return labels, projects, err
}

// MarkMention says of a letter that it names the owner.
func (tx *Tx) MarkMention(id int64) error {
	_, err := gorm.G[letterRow](tx.db).Where("id = ?", id).Update(tx.ctx(), "mentions", true)
	return err
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
	rows, err := gorm.G[letterRow](tx.db).Where(which).Where("in_at > ?", at(since)).Order("in_at DESC, id DESC").Limit(most).Find(tx.ctx())
	out := make([]LetThrough, len(rows))
	for i, r := range rows {
		who := letter.Address{Name: r.FromName, Email: r.FromEmail}
		out[i] = LetThrough{r.ID, int64(r.ConversationID), who.Display(), r.Subject, r.Through, r.InAt.Time}
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
	rows, err := gorm.G[outgoingRow](tx.db).Where("auto_kind = 'holding'").Order("send_at DESC, id DESC").Limit(most).Find(tx.ctx())
	out := make([]Noted, len(rows))
	for i, r := range rows {
		out[i] = Noted{r.AutoTo, r.SendAt.Time}
	}
	return out, err
}

// EarlyOpenings counts how often the person let mail in early since then, and
// did not take it back.
func (tx *Tx) EarlyOpenings(since time.Time) (int64, error) {
	return gorm.G[entryRow](tx.db).Where("kind = 'let-in-early' AND undone_by IS NULL AND at >= ?", at(since)).Count(tx.ctx(), "*")
}
