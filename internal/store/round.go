package store

import (
	"encoding/json"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Prepare keeps what a held letter needs to begin a conversation of its own.
func (tx *Tx) Prepare(id int64, persons []string, sender string) error {
	if persons == nil {
		persons = []string{}
	}
	list, err := json.Marshal(persons)
	if err != nil {
		return err
	}
	return tx.exec("INSERT INTO prepared (letter_id, owner, persons, sender) VALUES (?, ?, ?, ?)", id, tx.owner, string(list), sender)
}

// IsPrepared tells whether a letter was prepared, and so is in the full-text
// index.
func (tx *Tx) IsPrepared(id int64) (bool, error) {
	n, err := tx.firstID("SELECT count(*) FROM prepared WHERE letter_id = ? AND owner = ?", id, tx.owner)
	return n > 0, err
}

// Unprepare forgets it; the letter is let in another way.
func (tx *Tx) Unprepare(id int64) error {
	return tx.exec("DELETE FROM prepared WHERE letter_id = ? AND owner = ?", id, tx.owner)
}

// Alone are those of the letters that still begin a conversation of their own:
// no letter refers to them, and none may join them by its subject. They keep
// their order.
func (tx *Tx) Alone(ids []int64) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT p.letter_id FROM json_each(?) j CROSS JOIN prepared p ON p.letter_id = j.value CROSS JOIN letters l ON l.id = p.letter_id
		WHERE +p.owner = ? AND l.conversation_id IS NULL
		AND NOT EXISTS (SELECT 1 FROM letter_ids i WHERE i.owner = l.owner AND i.ref = l.message_id AND i.letter_id <> l.id AND l.message_id <> '')
		AND NOT EXISTS (SELECT 1 FROM letters o WHERE o.owner = l.owner AND o.bare_subject = l.bare_subject AND o.joins = 1 AND o.id <> l.id)
		ORDER BY j.key`, jsonIDs(ids), tx.owner))
}

// Begun is a conversation that a letter has begun.
type Begun struct {
	ID        int64
	Automatic letter.Automatic
}

// Begin lets prepared letters in, each into a conversation of its own, in no
// place yet: all of them with a few statements. Which letter begins which
// conversation stands in a table by its key, since a JSON list would be gone
// through once for every letter.
func (tx *Tx) Begin(ids []int64, at time.Time) ([]Begun, error) {
	base, err := tx.firstID("SELECT coalesce(max(id), 0) + 1 FROM conversations")
	if err != nil {
		return nil, err
	}
	ms := millis(at)
	for _, q := range []struct {
		sql  string
		args []any
	}{
		{"CREATE TEMP TABLE IF NOT EXISTS begun (letter_id INTEGER PRIMARY KEY, conversation_id INTEGER NOT NULL)", nil},
		{"DELETE FROM temp.begun", nil},
		{"INSERT INTO temp.begun SELECT j.value, ? + j.key FROM json_each(?) j", []any{base, jsonIDs(ids)}},
		{`INSERT INTO conversations (id, owner, subject, bare_subject, from_name, from_email, ask, asks, letters, attachments, last_letter, last_at, round_at, queue_at)
			SELECT b.conversation_id, l.owner, l.subject, l.bare_subject, l.from_name, l.from_email, l.ask, l.asks, 1, l.attachments, l.id, l.received_at, ?1, ?1
			FROM temp.begun b CROSS JOIN letters l ON l.id = b.letter_id`, []any{ms}},
		{"UPDATE letters SET conversation_id = (SELECT b.conversation_id FROM temp.begun b WHERE b.letter_id = letters.id), in_at = ? WHERE id IN (SELECT letter_id FROM temp.begun)", []any{ms}},
		{"UPDATE arrivals SET state = 'in', in_at = ? WHERE letter_id IN (SELECT letter_id FROM temp.begun) AND +state = 'held'", []any{ms}},
		{`INSERT INTO conversation_accounts (conversation_id, account_id, owner) SELECT b.conversation_id, a.account_id, a.owner
			FROM temp.begun b CROSS JOIN arrivals a ON a.letter_id = b.letter_id WHERE a.account_id IS NOT NULL ON CONFLICT DO NOTHING`, nil},
		{`INSERT INTO conversation_persons (conversation_id, person, owner) SELECT b.conversation_id, x.value, p.owner
			FROM temp.begun b CROSS JOIN prepared p ON p.letter_id = b.letter_id CROSS JOIN json_each(p.persons) x WHERE true ON CONFLICT DO NOTHING`, nil},
		{`INSERT INTO known_people (owner, email, name, sent, received, last_at)
			SELECT p.owner, p.sender, max(l.from_name), 0, count(*), max(l.date) FROM temp.begun b CROSS JOIN prepared p ON p.letter_id = b.letter_id CROSS JOIN letters l ON l.id = b.letter_id
			WHERE p.sender <> '' GROUP BY p.sender
			ON CONFLICT DO UPDATE SET name = CASE WHEN excluded.name <> '' THEN excluded.name ELSE name END, received = received + excluded.received, last_at = max(last_at, excluded.last_at)`, nil},
		{"DELETE FROM prepared WHERE letter_id IN (SELECT letter_id FROM temp.begun)", nil},
	} {
		if err := tx.exec(q.sql, q.args...); err != nil {
			return nil, err
		}
	}
	return all[Begun](tx.db.Raw("SELECT b.conversation_id AS id, l.automatic FROM temp.begun b CROSS JOIN letters l ON l.id = b.letter_id ORDER BY b.conversation_id"))
}

// Untouched are those of the conversations that nobody has worked on since a
// step, and that are still one letter from somebody else.
func (tx *Tx) Untouched(conversations []int64, step int64) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT c.id FROM json_each(?1) j CROSS JOIN conversations c ON c.id = j.value WHERE +c.owner = ?2 AND c.letters = 1
		AND NOT EXISTS (SELECT 1 FROM field_versions v WHERE v.owner = ?2 AND v.object = 'conversation' AND v.object_id = c.id AND v.version > (SELECT max(id) FROM changes WHERE journal_id = ?3))
		AND NOT EXISTS (SELECT 1 FROM followup_letters x WHERE x.letter_id = c.last_letter)
		AND NOT EXISTS (SELECT 1 FROM expectations e WHERE e.conversation_id = c.id)
		AND NOT EXISTS (SELECT 1 FROM outbox o WHERE o.owner = ?2 AND o.conversation_id = c.id)
		AND NOT EXISTS (SELECT 1 FROM drafts d WHERE d.owner = ?2 AND d.conversation_id = c.id AND d.alive = 1)
		AND NOT EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = c.id AND l.id <> c.last_letter)`, jsonIDs(conversations), tx.owner, step))
}

// LetInAt counts the letters from others that were let in at a moment.
func (tx *Tx) LetInAt(at time.Time) (int, error) {
	n, err := tx.firstID("SELECT count(*) FROM letters WHERE owner = ? AND in_at = ? AND own = 0", tx.owner, millis(at))
	return int(n), err
}

// HoldAgain takes conversations of one letter apart, and holds their letters as
// before.
func (tx *Tx) HoldAgain(conversations []int64) error {
	list := jsonIDs(conversations)
	for _, q := range []string{
		`INSERT INTO prepared (letter_id, owner, persons, sender) SELECT l.id, l.owner,
			(SELECT json_group_array(person) FROM conversation_persons p WHERE p.conversation_id = l.conversation_id), ''
			FROM letters l WHERE +l.owner = ?1 AND l.conversation_id IN (SELECT value FROM json_each(?2))`,
		`UPDATE arrivals SET state = 'held', in_at = NULL WHERE +owner = ?1 AND letter_id IN
			(SELECT id FROM letters WHERE conversation_id IN (SELECT value FROM json_each(?2)))`,
		"UPDATE letters SET conversation_id = NULL, in_at = NULL WHERE +owner = ?1 AND conversation_id IN (SELECT value FROM json_each(?2))",
		"DELETE FROM conversations WHERE +owner = ?1 AND id IN (SELECT value FROM json_each(?2))",
	} {
		if err := tx.exec(q, tx.owner, list); err != nil {
			return err
		}
	}
	return nil
}
