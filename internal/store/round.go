// By hand: a round lets ten thousand letters in by a few statements, each by a table or a
// JSON list of ids.

package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Prepare keeps what a held letter needs to begin a conversation of its own.
func (tx *Tx) Prepare(id int64, persons []string, sender string) error {
	if persons == nil {
		persons = []string{}
	}
	return gorm.G[preparedRow](tx.db).Create(tx.ctx(), &preparedRow{LetterID: id, Persons: keep(persons), Sender: sender})
}

// IsPrepared tells whether a letter was prepared, and so is in the full-text
// index.
func (tx *Tx) IsPrepared(id int64) (bool, error) {
	n, err := gorm.G[preparedRow](tx.db).Where("letter_id = ?", id).Count(tx.ctx(), "*")
	return n > 0, err
}

// Prepared are the held letters that were prepared.
func (tx *Tx) Prepared() (map[int64]bool, error) {
	ids, err := pluck[int64](tx.ctx(), gorm.G[preparedRow](tx.db).Where("true"), "letter_id")
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// Answering are those of the letters that belong to a conversation which is
// there already. They keep their order.
func (tx *Tx) Answering(letters []int64) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT j.value FROM json_each(?) j WHERE EXISTS (SELECT 1 FROM letter_ids m JOIN letter_ids i ON i.owner = m.owner AND i.ref = m.ref
		JOIN letters l ON l.id = i.letter_id WHERE m.letter_id = j.value AND m.owner = ? AND l.conversation_id IS NOT NULL) ORDER BY j.key`, jsonIDs(letters), tx.who.Inbox))
}

// Unprepare forgets it; the letter is let in another way.
func (tx *Tx) Unprepare(id int64) error {
	_, err := gorm.G[preparedRow](tx.db).Where("letter_id = ?", id).Delete(tx.ctx())
	return err
}

// Ready is a held letter as a round sees it: IDs are its own Message-ID and
// all that it refers to.
type Ready struct {
	ID  int64
	IDs []string
}

// Ready gives those of the letters that were prepared, and that no letter can
// join by its subject. They keep their order.
func (tx *Tx) Ready(ids []int64) ([]Ready, error) {
	rows, err := all[struct {
		ID   int64
		Refs string
	}](tx.db.Raw(`SELECT l.id, (SELECT coalesce(json_group_array(i.ref), '[]') FROM letter_ids i WHERE i.letter_id = l.id) AS refs
		FROM json_each(?) j CROSS JOIN prepared p ON p.letter_id = j.value CROSS JOIN letters l ON l.id = p.letter_id
		WHERE +p.owner = ? AND l.conversation_id IS NULL
		AND NOT EXISTS (SELECT 1 FROM letters o WHERE o.owner = l.owner AND o.bare_subject = l.bare_subject AND o.joins = 1 AND o.id <> l.id)
		ORDER BY j.key`, jsonIDs(ids), tx.who.Inbox))
	out := make([]Ready, len(rows))
	for i, r := range rows {
		out[i].ID = r.ID
		if err := json.Unmarshal([]byte(r.Refs), &out[i].IDs); err != nil {
			return nil, err
		}
	}
	return out, err
}

// Homes gives, for what letters refer to, the conversations in which it is
// known. What none knows is left out.
func (tx *Tx) Homes(letters []int64) (map[string][]int64, error) {
	rows, err := all[struct {
		Ref            string
		ConversationID int64
	}](tx.db.Raw(`WITH refs AS MATERIALIZED (SELECT DISTINCT i.ref FROM json_each(?) j CROSS JOIN letter_ids i ON i.letter_id = j.value)
		SELECT DISTINCT r.ref, l.conversation_id FROM refs r CROSS JOIN letter_ids i ON i.owner = ? AND i.ref = r.ref CROSS JOIN letters l ON l.id = i.letter_id
		WHERE l.conversation_id IS NOT NULL`, jsonIDs(letters), tx.who.Inbox))
	out := make(map[string][]int64, len(rows))
	for _, r := range rows {
		out[r.Ref] = append(out[r.Ref], r.ConversationID)
	}
	return out, err
}

// Placed is a letter of a round with the conversation that it went into.
type Placed struct {
	Letter, Conversation int64
	Automatic            letter.Automatic
	From                 letter.Address
	// Kind is of what kind it is, Sorted that it is sorted out of the inbox.
	Kind   sorting.Kind
	Sorted bool
}

// Seat is a letter with the conversation into which it is let in, and how it is sorted.
type Seat struct {
	Letter, Conversation int64
	Sort                 Sorted
}

// Begin lets prepared letters in, each into a conversation of its own, in no
// place yet: all of them with a few statements. They are given in their order.
func (tx *Tx) Begin(seats []Seat, at time.Time) ([]Placed, error) {
	last, err := tx.lastID("conversations")
	if err != nil {
		return nil, err
	}
	for i := range seats {
		seats[i].Conversation = last + 1 + int64(i)
	}
	return tx.seat(seats, at, `INSERT INTO conversations (id, owner, bare_subject)
		SELECT s.conversation_id, l.owner, l.bare_subject FROM temp.seated s CROSS JOIN letters l ON l.id = s.letter_id`)
}

// JoinAll lets prepared letters in, each into the conversation beside it: all
// of them with a few statements.
func (tx *Tx) JoinAll(seats []Seat, at time.Time) ([]Placed, error) { return tx.seat(seats, at) }

// seatRows adds the letters that were just seated to the rows of their
// conversations.
func (tx *Tx) seatRows(seats []Seat, at time.Time) error {
	conversations := make([]int64, len(seats))
	for i, s := range seats {
		conversations[i] = s.Conversation
	}
	rows, err := tx.keptRows(conversations)
	if err != nil {
		return err
	}
	came, err := tx.members(" FROM temp.seated s CROSS JOIN letters l ON l.id = s.letter_id ORDER BY s.position")
	if err != nil {
		return err
	}
	queued := map[int64]time.Time{}
	for _, c := range came {
		row := rows[c.ConversationID].With(c.member())
		if rows[c.ConversationID] = row; row.Speaker.ID == c.ID {
			queued[c.ConversationID] = at
		}
	}
	return tx.keepRows(rows, queued)
}

// seat lets letters in, each into the conversation beside it, which the
// statements make where they are new. Which letter goes where stands in a table by its key, since
// a JSON list would be gone through once for every letter.
func (tx *Tx) seat(seats []Seat, at time.Time, begin ...string) ([]Placed, error) {
	if len(seats) == 0 {
		return nil, nil
	}
	if err := tx.execAll(
		`CREATE TEMP TABLE IF NOT EXISTS seated (letter_id INTEGER PRIMARY KEY, conversation_id INTEGER NOT NULL, position INTEGER NOT NULL, at INTEGER NOT NULL,
			kind TEXT NOT NULL, why TEXT NOT NULL, sorted_out INTEGER NOT NULL, sorted_in INTEGER)`,
		"DELETE FROM temp.seated",
	); err != nil {
		return nil, err
	}
	seated := tx.bulk()
	for i, s := range seats {
		seated.add(s.Letter, s.Conversation, i, millis(at), string(s.Sort.Kind), s.Sort.Why, s.Sort.Out, maybeID(s.Sort.In))
	}
	if err := seated.flush("INSERT INTO temp.seated VALUES ", ""); err != nil {
		return nil, err
	}
	if err := tx.execAll(begin...); err != nil {
		return nil, err
	}
	if err := tx.execAll(
		"UPDATE letters SET conversation_id = s.conversation_id, in_at = s.at, round_at = s.at, kind = s.kind, kind_why = s.why, sorted_out = s.sorted_out, sorted_in = s.sorted_in FROM temp.seated s WHERE letters.id = s.letter_id",
		"UPDATE arrivals SET state = 'in', in_at = s.at FROM temp.seated s WHERE arrivals.letter_id = s.letter_id AND +state = 'held'",
		`INSERT INTO conversation_accounts (conversation_id, account_id, owner) SELECT s.conversation_id, a.account_id, a.owner
			FROM temp.seated s CROSS JOIN arrivals a ON a.letter_id = s.letter_id WHERE a.account_id IS NOT NULL ON CONFLICT DO NOTHING`,
		`INSERT INTO conversation_persons (conversation_id, person, owner) SELECT s.conversation_id, x.value, p.owner
			FROM temp.seated s CROSS JOIN prepared p ON p.letter_id = s.letter_id CROSS JOIN json_each(p.persons) x WHERE true ON CONFLICT DO NOTHING`,
		`INSERT INTO known_people (owner, email, name, sent, received, last_at)
			SELECT p.owner, p.sender, max(l.from_name), 0, count(*), max(l.received_at) FROM temp.seated s CROSS JOIN prepared p ON p.letter_id = s.letter_id CROSS JOIN letters l ON l.id = s.letter_id
			WHERE p.sender <> '' GROUP BY p.sender
			ON CONFLICT DO UPDATE SET name = CASE WHEN excluded.name <> '' THEN excluded.name ELSE name END, received = received + excluded.received, last_at = max(last_at, excluded.last_at)`,
		"DELETE FROM prepared WHERE letter_id IN (SELECT letter_id FROM temp.seated)",
	); err != nil {
		return nil, err
	}
	letters := make([]int64, len(seats))
	for i, s := range seats {
		letters[i] = s.Letter
	}
	if err := tx.touchLetters(jsonIDs(letters)); err != nil {
		return nil, err
	}
	if err := tx.seatRows(seats, at); err != nil {
		return nil, err
	}
	rows, err := tx.query("SELECT s.letter_id, s.conversation_id, l.automatic, l.from_name, l.from_email, s.kind, s.sorted_out FROM temp.seated s CROSS JOIN letters l ON l.id = s.letter_id ORDER BY s.position")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := make([]Placed, 0, len(seats))
	for rows.Next() {
		var p Placed
		if err := rows.Scan(&p.Letter, &p.Conversation, &p.Automatic, &p.From.Name, &p.From.Email, &p.Kind, &p.Sorted); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, rows.Err()
}

// Calm is a letter of a round that can be held again. Begun tells that its
// conversation holds nothing but letters of that round.
type Calm struct {
	Letter, Conversation int64
	Begun                bool
}

// Calm finds what was let in by a step, at its moment, and can be held again
// (see delivery.Released); open are the accounts whose mail is let in now. What came
// at the same moment by itself, or by an import, is not of that step.
func (tx *Tx) Calm(step int64, at time.Time, open []int64) ([]Calm, error) {
	rows, err := all[struct {
		Calm
		delivery.Released
	}](tx.db.Raw(`WITH came AS MATERIALIZED (SELECT id, conversation_id FROM letters WHERE owner = ?1 AND in_at = ?2 AND own = 0 AND round_at = ?2),
			last AS MATERIALIZED (SELECT coalesce(max(id), 0) AS version FROM changes WHERE journal_id <= ?3),
			moved AS MATERIALIZED (SELECT was, now FROM changes WHERE owner = ?1 AND journal_id >= ?3 AND object = 'letter' AND field = 'conversation')
		SELECT x.id AS letter, c.id AS conversation, NOT EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = c.id AND (l.own = 1 OR l.in_at IS NOT ?2 OR l.round_at <> ?2)) AS begun,
			EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = c.id AND l.in_at > ?2) AS later_came,
			EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = c.id AND l.in_at = ?2 AND (l.report IS NOT NULL OR l.joins = 1 OR l.parts LIKE '%text/calendar%')) AS tied,
			EXISTS (SELECT 1 FROM field_versions v WHERE v.owner = ?1 AND v.object = 'conversation' AND v.object_id = c.id AND v.version > (SELECT version FROM last)) AS decided,
			c.id IN (SELECT CAST(was AS INTEGER) FROM moved UNION SELECT CAST(now AS INTEGER) FROM moved) AS moved,
			EXISTS (SELECT 1 FROM expectations e CROSS JOIN field_versions v ON v.owner = ?1 AND v.object = 'expectation' AND v.object_id = e.id
				WHERE e.conversation_id = c.id AND v.version > (SELECT version FROM last)) AS expected,
			EXISTS (SELECT 1 FROM came y CROSS JOIN followup_letters f ON f.letter_id = y.id WHERE y.conversation_id = c.id) AS followed,
			c.id IN (SELECT to_id FROM conversation_redirects WHERE owner = ?1) AS joined,
			c.id IN (SELECT conversation_id FROM outbox WHERE owner = ?1 AND `+among("state", sending.UnderWay)+`) AS leaving,
			c.id IN (SELECT conversation_id FROM drafts WHERE owner = ?1 AND alive = 1) AS drafted,
			?4 <> '[]' AND EXISTS (SELECT 1 FROM letters l JOIN arrivals a ON a.letter_id = l.id
				WHERE l.conversation_id = c.id AND l.in_at = ?2 AND coalesce(a.account_id, 0) IN (SELECT value FROM json_each(?4))) AS reached
		FROM came x CROSS JOIN conversations c ON c.id = x.conversation_id ORDER BY x.id`, tx.who.Inbox, millis(at), step, jsonIDs(open)))
	var out []Calm
	for _, r := range rows {
		if r.HeldAgain() {
			out = append(out, r.Calm)
		}
	}
	return out, err
}

// StillIn are the subjects of the letters from others that a step let in at a
// moment, in their order.
func (tx *Tx) StillIn(at time.Time) ([]string, error) {
	return pluck[string](tx.ctx(), gorm.G[letterRow](tx.db).Where("in_at = ? AND own = 0 AND round_at = in_at", stamp{at}).Order("id"), "subject")
}

// HoldAgain holds letters as before. The conversations that they began are no
// more, and those that they joined are as they were without them.
func (tx *Tx) HoldAgain(letters []Calm) error {
	var ids, begun, joined []int64
	for _, l := range letters {
		ids = append(ids, l.Letter)
		if l.Begun {
			begun = append(begun, l.Conversation)
		} else {
			joined = append(joined, l.Conversation)
		}
	}
	if err := tx.touchLetters(jsonIDs(ids)); err != nil {
		return err
	}
	for _, q := range []struct{ sql, list string }{
		{`INSERT INTO prepared (letter_id, owner, persons, sender) SELECT l.id, l.owner,
			(SELECT json_group_array(person) FROM conversation_persons p WHERE p.conversation_id = l.conversation_id), ''
			FROM letters l WHERE +l.owner = ?1 AND l.id IN (SELECT value FROM json_each(?2))`, jsonIDs(ids)},
		{"UPDATE arrivals SET state = 'held', in_at = NULL WHERE +owner = ?1 AND letter_id IN (SELECT value FROM json_each(?2))", jsonIDs(ids)},
		{"UPDATE letters SET conversation_id = NULL, in_at = NULL, round_at = 0, kind = '', kind_why = '', sorted_out = 0, sorted_in = NULL WHERE +owner = ?1 AND id IN (SELECT value FROM json_each(?2))", jsonIDs(ids)},
		{"DELETE FROM conversations WHERE +owner = ?1 AND id IN (SELECT value FROM json_each(?2))", jsonIDs(begun)},
	} {
		if err := tx.exec(q.sql, tx.who.Inbox, q.list); err != nil {
			return err
		}
	}
	if len(joined) == 0 {
		return nil
	}
	return tx.without(joined)
}

// without brings the rows of conversations up to date after letters have left
// them that came with a round.
func (tx *Tx) without(conversations []int64) error {
	if err := tx.recompute(conversations); err != nil {
		return err
	}
	return tx.exec(`UPDATE conversations SET queue_at = (SELECT l.in_at FROM letters l WHERE l.id = conversations.speaker)
		WHERE +owner = ?1 AND id IN (SELECT value FROM json_each(?2))`, tx.who.Inbox, jsonIDs(conversations))
}
