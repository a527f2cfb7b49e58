package store

import (
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/thread"
)

// ConversationsByID finds the conversations that hold a letter with one of
// these ids, or one that refers to one of them.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) ConversationsByID(ids []string) ([]int64, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	return tx.ids(`SELECT DISTINCT l.conversation_id FROM letter_ids i JOIN letters l ON l.id = i.letter_id
		WHERE i.owner = ? AND i.ref IN (SELECT value FROM json_each(?)) AND l.conversation_id IS NOT NULL ORDER BY 1`, tx.who.Inbox, string(list))
}

// ThreadLetter is a letter as the rules of conversations see it.
type ThreadLetter struct {
	thread.Facts
	ID           int64
	Conversation int64
}

type threadRow struct {
	ID, ConversationID, Date                     int64
	Identity, BareSubject, FromEmail, Recipients string
	Joins                                        bool
	IDs                                          string
}

const threadColumns = `SELECT l.id, l.conversation_id, l.date, l.identity, l.bare_subject, l.from_email, l.recipients, l.joins,
	(SELECT coalesce(json_group_array(i.ref), '[]') FROM letter_ids i WHERE i.letter_id = l.id) AS ids FROM letters l `

func (tx *Tx) threadLetters(rows []threadRow, own []string) ([]ThreadLetter, error) {
	out := make([]ThreadLetter, len(rows))
	for i, r := range rows {
		t := ThreadLetter{ID: r.ID, Conversation: r.ConversationID, Facts: thread.Facts{Key: r.Identity, BareSubject: r.BareSubject, BySubject: r.Joins, At: fromMillis(r.Date)}}
		var to Recipients
		if err := json.Unmarshal([]byte(r.Recipients), &to); err != nil {
			tx.pass("letter", r.ID, err) // its sender is known all the same
		}
		if err := json.Unmarshal([]byte(r.IDs), &t.IDs); err != nil {
			return nil, err
		}
		t.Persons = thread.Persons(slices.Concat([]letter.Address{{Email: r.FromEmail}}, to.To, to.Cc), own)
		out[i] = t
	}
	return out, nil
}

// maxSameSubject bounds how many letters of one subject are looked at.
const maxSameSubject = 300

// SameSubject finds let-in letters with the bare subject written from and up
// to the given times, the latest first.
//
// By hand: the ids of a letter are gathered by SQLite, as JSON.
func (tx *Tx) SameSubject(bare string, from, to time.Time, onlyJoining bool, own []string) ([]ThreadLetter, error) {
	rows, err := all[threadRow](tx.db.Raw(threadColumns+`WHERE l.owner = ? AND l.bare_subject = ? AND l.date BETWEEN ? AND ? AND l.joins >= ?
		AND l.conversation_id IS NOT NULL AND l.in_at IS NOT NULL ORDER BY l.date DESC LIMIT ?`,
		tx.who.Inbox, bare, millis(from), millis(to), onlyJoining, maxSameSubject))
	if err != nil {
		return nil, err
	}
	return tx.threadLetters(rows, own)
}

// HasJoining tells whether a letter that may join by this subject was written
// between the times. It is asked for every letter that comes.
//
// By hand: it is asked with every letter that comes.
func (tx *Tx) HasJoining(bare string, from, to time.Time) (bool, error) {
	n, err := tx.firstID(`SELECT count(*) FROM (SELECT 1 FROM letters WHERE owner = ? AND bare_subject = ? AND date BETWEEN ? AND ? AND joins = 1
		AND conversation_id IS NOT NULL LIMIT 1)`, tx.who.Inbox, bare, millis(from), millis(to))
	return n > 0, err
}

// ThreadOf gives the letters of conversations as the rules see them.
//
// By hand: the ids of a letter are gathered by SQLite, as JSON.
func (tx *Tx) ThreadOf(conversations []int64, own []string) ([]ThreadLetter, error) {
	rows, err := all[threadRow](tx.db.Raw(threadColumns+`WHERE l.owner = ? AND l.conversation_id IN (SELECT value FROM json_each(?))
		AND l.in_at IS NOT NULL ORDER BY l.id`, tx.who.Inbox, jsonIDs(conversations)))
	if err != nil {
		return nil, err
	}
	return tx.threadLetters(rows, own)
}

// Apart gives, for each of the conversations that were split by hand or are
// what others were split from, the one that they stem from.
func (tx *Tx) Apart(conversations []int64) (map[int64]int64, error) {
	stems := gorm.G[conversationRow](tx.db).Select("apart").Where("apart <> 0")
	rows, err := gorm.G[conversationRow](tx.few()).Select("id", "apart").Where(inNumbers("id", conversations)).Where("apart <> 0 OR id IN (?)", stems).Find(tx.ctx())
	out := map[int64]int64{}
	for _, r := range rows {
		out[r.ID] = cmp.Or(r.Apart, r.ID)
	}
	return out, err
}

// HomeOf is the conversation of the letter with this Message-ID; 0 for none.
func (tx *Tx) HomeOf(messageID string) (int64, error) {
	l, err := orNone(gorm.G[letterRow](tx.db).Where("message_id = ? AND conversation_id IS NOT NULL", messageID).Take(tx.ctx()))
	return int64(l.ConversationID), err
}

// AddConversation makes an empty conversation, in no place yet.
//
// By hand: the row has many columns that a letter fills.
func (tx *Tx) AddConversation(bare string) (int64, error) {
	return tx.insertReturning("INSERT INTO conversations (owner, bare_subject) VALUES (?, ?)", tx.who.Inbox, bare)
}

// Joined is a letter that joins a conversation.
type Joined struct {
	Conversation int64
	Letter       Letter
	LetterID     int64
	Accounts     []int64
	Persons      []string
	InAt         time.Time
	// Round is when it was let in by a delivery; zero where mail flows.
	Round time.Time
	// Through is what let it through a closed gate, in words; "" for nothing.
	Through string
	// Sort is how it was sorted.
	Sort sorting.Verdict
	// Fresh tells that the conversation was made for it.
	Fresh bool
}

// Join brings a conversation's row up to date with a letter that joined it.
func (tx *Tx) Join(j Joined) error {
	var kept thread.Row
	if !j.Fresh {
		var err error
		if kept, err = tx.keptRow(j.Conversation); err != nil {
			return err
		}
	}
	l := j.Letter
	row := kept.With(thread.Member{
		ID: j.LetterID, Own: l.Own, From: l.From, Subject: l.Subject, Ask: l.Ask, Asks: l.Asks, Attachments: l.attachments(),
		ReceivedAt: fromMillis(millis(l.ReceivedAt)), Round: j.Round, Through: j.Through, Kind: j.Sort.Kind, Sorted: j.Sort.Out,
	})
	if l.Own { // what was seen stays seen
		if err := tx.seenStaysSeen(j.Conversation, row.Last); err != nil {
			return err
		}
	}
	var queue time.Time
	if row.Speaker.ID == j.LetterID && !l.Own {
		queue = j.InAt
	}
	if err := tx.keepRow(j.Conversation, row, queue); err != nil {
		return err
	}
	accounts, persons := tx.bulk(), tx.bulk()
	for _, a := range j.Accounts {
		accounts.add(j.Conversation, a, tx.who.Inbox)
	}
	for _, p := range j.Persons {
		persons.add(j.Conversation, p, tx.who.Inbox)
	}
	if err := accounts.flush("INSERT INTO conversation_accounts (conversation_id, account_id, owner) VALUES ", " ON CONFLICT DO NOTHING"); err != nil {
		return err
	}
	return persons.flush("INSERT INTO conversation_persons (conversation_id, person, owner) VALUES ", " ON CONFLICT DO NOTHING")
}

// Follow gives the conversation that an id leads to today.
func (tx *Tx) Follow(id int64) (int64, error) {
	lead, err := orNone(gorm.G[conversationRedirectRow](tx.db).Where("from_id = ?", id).Take(tx.ctx()))
	return cmp.Or(lead.ToID, id), err
}

// Follows gives for each id the conversation that it leads to today.
func (tx *Tx) Follows(ids []int64) (map[int64]int64, error) {
	leads, err := gorm.G[conversationRedirectRow](tx.few()).Where(inNumbers("from_id", ids)).Find(tx.ctx())
	out := make(map[int64]int64, len(ids))
	for _, id := range ids {
		out[id] = id
	}
	for _, l := range leads {
		out[l.FromID] = l.ToID
	}
	return out, err
}

// Titles gives what the conversations are called to which ids lead, by those that
// they lead to; what is no longer there has none.
func (tx *Tx) Titles(leads map[int64]int64) (map[int64]string, error) {
	rows, err := gorm.G[conversationRow](tx.few()).Select("id, working_title, subject").Where(inNumbers("id", slices.Collect(maps.Values(leads)))).Find(tx.ctx())
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.ID] = Row{WorkingTitle: r.WorkingTitle, Subject: r.Subject}.Title()
	}
	return out, err
}

// Meet remembers people the owner has written with, once the transaction is done.
func (tx *Tx) Meet(people []letter.Address, sent bool, at time.Time) {
	for _, a := range people {
		tx.ending.met = append(tx.ending.met, metPerson{tx.who.Inbox, a.Key(), a.Name, sent, millis(at)})
	}
}

// metPerson is somebody a letter came from or went to.
type metPerson struct {
	owner       int64
	email, name string
	sent        bool
	at          int64
}

// keepMet writes down who was met, each once.
//
// By hand: it is called with every letter that comes.
func (tx *Tx) keepMet(met []metPerson) error {
	type key struct {
		owner int64
		email string
	}
	type known struct {
		name           string
		sent, received int
		at             int64
	}
	all := map[key]known{}
	var order []key
	for _, m := range met {
		k := key{m.owner, m.email}
		p, ok := all[k]
		if !ok {
			order = append(order, k)
		}
		p.name, p.at = cmp.Or(m.name, p.name), max(p.at, m.at)
		if m.sent {
			p.sent++
		} else {
			p.received++
		}
		all[k] = p
	}
	people := tx.bulk()
	for _, k := range order {
		p := all[k]
		people.add(k.owner, k.email, p.name, p.sent, p.received, p.at)
	}
	return people.flush("INSERT INTO known_people (owner, email, name, sent, received, last_at) VALUES ", ` ON CONFLICT DO UPDATE SET
		name = CASE WHEN excluded.name <> '' THEN excluded.name ELSE name END, sent = sent + excluded.sent, received = received + excluded.received,
		last_at = max(last_at, excluded.last_at)`)
}

// Persons are the address keys of those besides the owner in a conversation.
func (tx *Tx) Persons(conversation int64) ([]string, error) {
	return pluck[string](tx.ctx(), gorm.G[conversationPersonRow](tx.few()).Where("conversation_id = ?", conversation).Order("person"), "person")
}
