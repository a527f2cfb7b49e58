package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"maps"
	"slices"

	"gorm.io/gorm"
)

// checks are what must hold in every database. Each query lists what breaks it.
var checks = []struct{ what, query string }{
	{"a conversation is in a place that does not exist", "SELECT id FROM conversations WHERE place NOT IN ('', 'inbox', 'shallows', 'later', 'archive', 'bin', 'junk')"},
	{"a conversation is put off without a return", "SELECT c.id FROM conversations c WHERE c.place = 'later' AND NOT EXISTS (SELECT 1 FROM returns r WHERE r.conversation_id = c.id)"},
	{"a return belongs to a conversation that is not put off", "SELECT r.conversation_id FROM returns r JOIN conversations c ON c.id = r.conversation_id WHERE c.place <> 'later'"},
	{"a letter has no original", "SELECT l.id FROM letters l WHERE NOT EXISTS (SELECT 1 FROM blobs b WHERE b.owner = l.owner AND b.sha = l.sha)"},
	{"an arrival has no original", "SELECT a.id FROM arrivals a WHERE NOT EXISTS (SELECT 1 FROM blobs b WHERE b.owner = a.owner AND b.sha = a.sha)"},
	{"a letter that was let in is in no conversation", "SELECT id FROM letters WHERE in_at IS NOT NULL AND conversation_id IS NULL"},
	{"a letter belongs to another person than its conversation", "SELECT l.id FROM letters l JOIN conversations c ON c.id = l.conversation_id WHERE c.owner <> l.owner"},
	{"a letter that was let in can't be found by search", "SELECT l.id FROM letters l WHERE l.in_at IS NOT NULL AND NOT EXISTS (SELECT 1 FROM letters_text t WHERE t.rowid = l.row_key)"},
	{"a follow-up's letter is gone but not marked as purged", "SELECT x.followup_id FROM followup_letters x WHERE x.purged = 0 AND NOT EXISTS (SELECT 1 FROM letters l WHERE l.id = x.letter_id)"},
	{"an expectation belongs to no conversation", "SELECT e.id FROM expectations e WHERE e.alive = 1 AND NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = e.conversation_id)"},
	{"a redirect leads nowhere", "SELECT d.from_id FROM conversation_redirects d WHERE NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = d.to_id)"},
	{"a change belongs to no step of the Journal", "SELECT c.id FROM changes c WHERE NOT EXISTS (SELECT 1 FROM journal j WHERE j.id = c.journal_id)"},
	{"a conversation's place is not the one its history ends with", `SELECT c.id FROM conversations c WHERE c.place <> '' AND c.place IS NOT
		(SELECT h.now FROM place_history h WHERE h.conversation_id = c.id ORDER BY h.id DESC LIMIT 1)`},
	{"what went through the inbox is not counted right", `SELECT p.id FROM people p WHERE
		(SELECT coalesce(sum(entered), 0) FROM tallies WHERE owner = p.id) <> (SELECT count(*) FROM place_history WHERE owner = p.id AND now = 'inbox' AND was NOT IN ('later', 'inbox'))
		OR (SELECT coalesce(sum(gone), 0) FROM tallies WHERE owner = p.id) <> (SELECT count(*) FROM place_history WHERE owner = p.id AND was = 'inbox' AND now <> 'inbox')`},
	{"a priority is none", "SELECT id FROM followups WHERE priority NOT IN ('urgent', 'high', 'normal', 'low')"},
	{"a status is none", "SELECT id FROM followups WHERE status NOT IN ('open', 'under-way', 'waiting', 'done', 'dropped')"},
	{"the state of a waiting is none", "SELECT id FROM expectations WHERE state NOT IN ('open', 'met', 'dropped')"},
	{"the state of a letter in the outbox is none", "SELECT id FROM outbox WHERE state NOT IN ('none', 'waiting', 'sending', 'sent', 'failed')"},
	{"the state of an arrival is none", "SELECT id FROM arrivals WHERE state NOT IN ('in', 'held')"},
	{"the state of a reminder is none", "SELECT id FROM reminders WHERE state NOT IN ('set', 'waits', 'rang', 'seen')"},
	{"a letter has an impossible date", "SELECT id FROM letters WHERE received_at NOT BETWEEN 0 AND 253402300799999 OR date NOT BETWEEN -62135596800000 AND 253402300799999"},
	{"an event has an impossible time", `SELECT conversation_id FROM returns WHERE due NOT BETWEEN -62135596800000 AND 253402300799999
		UNION ALL SELECT id FROM reminders WHERE at NOT BETWEEN -62135596800000 AND 253402300799999
		UNION ALL SELECT id FROM appointments WHERE start_at NOT BETWEEN -62135596800000 AND 253402300799999 OR end_at < start_at`},
	{"the parent of something is another person's", `SELECT x.followup_id FROM followup_letters x JOIN followups f ON f.id = x.followup_id WHERE f.owner <> x.owner
		UNION ALL SELECT r.conversation_id FROM returns r JOIN conversations c ON c.id = r.conversation_id WHERE c.owner <> r.owner
		UNION ALL SELECT a.id FROM arrivals a JOIN letters l ON l.id = a.letter_id WHERE l.owner <> a.owner
		UNION ALL SELECT c.id FROM changes c JOIN journal j ON j.id = c.journal_id WHERE j.owner <> c.owner`},
	{"an address belongs to two people", "SELECT min(owner) FROM own_addresses GROUP BY address HAVING count(*) > 1"},
	{"two holds are in force", "SELECT owner FROM holds WHERE alive = 1 AND ended_at IS NULL GROUP BY owner, account_id HAVING count(*) > 1"},
	{"a letter is prepared that does not wait", "SELECT p.letter_id FROM prepared p JOIN letters l ON l.id = p.letter_id WHERE l.in_at IS NOT NULL"},
	{"a plan in force is not there", "SELECT id FROM people WHERE plan_id <> 0 AND plan_id NOT IN (SELECT id FROM plans) UNION SELECT id FROM accounts WHERE plan_id > 0 AND plan_id NOT IN (SELECT id FROM plans)"},
}

// Check verifies the file and all that must hold in it, and names what does
// not.
func (s *Store) Check(ctx context.Context) (problems []string, err error) {
	err = s.reader.WithContext(ctx).Connection(func(db *gorm.DB) error {
		problems, err = check(db)
		return err
	})
	return problems, err
}

func check(db *gorm.DB) (problems []string, err error) {
	// The full-text index is looked into before it is checked: a connection that
	// has not since others wrote would check it by what it remembers, and find
	// damage where there is none.
	if _, err := all[int64](db.Raw("SELECT rowid FROM letters_text WHERE letters_text MATCH 'a' LIMIT 1")); err != nil {
		return nil, err
	}
	report, err := all[string](db.Raw("PRAGMA integrity_check"))
	if err != nil {
		return nil, err
	}
	if len(report) != 1 || report[0] != "ok" {
		problems = append(problems, report...)
	}
	var orphans []map[string]any
	if err := db.Raw("PRAGMA foreign_key_check").Scan(&orphans).Error; err != nil {
		return nil, err
	}
	for _, o := range orphans {
		problems = append(problems, fmt.Sprintf("row %v of %v leads nowhere", o["rowid"], o["table"]))
	}
	for _, c := range checks {
		ids, err := all[int64](db.Raw(c.query))
		if err != nil { // a value that can't be read stops only what asks for it
			problems = append(problems, fmt.Sprintf("it can't be told whether %s: %v", c.what, err))
			continue
		}
		if len(ids) > 0 {
			problems = append(problems, fmt.Sprintf("%s (%d, the first is %d)", c.what, len(ids), ids[0]))
		}
	}
	tx := &Tx{db: db}
	for _, more := range []func() ([]string, error){tx.differingRows, tx.unreadableValues, tx.damagedOriginals} {
		found, err := more()
		if err != nil {
			return problems, err
		}
		problems = append(problems, atMost(found)...)
	}
	return problems, nil
}

// atMost shortens a list of problems of one kind to what somebody would read.
func atMost(problems []string) []string {
	const most = 50
	if len(problems) <= most {
		return problems
	}
	return append(problems[:most:most], fmt.Sprintf("and %d more of these", len(problems)-most))
}

// jsonColumns are all columns that hold JSON; empty and NULL are none.
var jsonColumns = map[string][]string{
	"people": {"named_times", "weights", "holding_note", "notices"}, "conversations": {"back"}, "letters": {"recipients", "parts", "report"},
	"returns": {"value"}, "followups": {"start", "due", "recurs", "checklist"}, "reminders": {"moment", "relative"}, "expectations": {"persons", "answered", "until"},
	"drafts": {"value"}, "outbox": {"recipients", "outcomes"}, "holds": {"until"}, "plans": {"value"}, "let_through": {"until"}, "kept_filters": {"value"},
	"appointments": {"start", "organizer", "attendees"}, "series": {"value"}, "changes": {"was", "now"}, "journal": {"result"}, "prepared": {"persons"},
}

// unreadableValues lists the values that are no JSON where they should be.
func (tx *Tx) unreadableValues() (wrong []string, err error) {
	for _, table := range slices.Sorted(maps.Keys(jsonColumns)) {
		for _, column := range jsonColumns[table] {
			rows, err := tx.ids("SELECT rowid FROM " + table + " WHERE " + column + " <> '' AND NOT json_valid(" + column + ")")
			if err != nil {
				return wrong, err
			}
			for _, id := range rows {
				wrong = append(wrong, fmt.Sprintf("the %s of row %d of %s can't be read", column, id, table))
			}
		}
	}
	return wrong, nil
}

// damagedOriginals unpacks every original and compares it with its digest.
func (tx *Tx) damagedOriginals() (wrong []string, err error) {
	type original struct {
		owner        int64
		sha, packed  []byte
		size, letter int64
		pieces       int
	}
	var large []original // of which the pieces are read once these rows are
	rows, err := tx.query("SELECT b.owner, b.sha, b.size, b.pieces, b.packed, coalesce((SELECT min(a.letter_id) FROM arrivals a WHERE a.owner = b.owner AND a.sha = b.sha), 0) FROM blobs b")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	say := func(o original, why string) {
		if why != "" {
			wrong = append(wrong, fmt.Sprintf("the original %x (letter %d) is damaged: %s", o.sha, o.letter, why))
		}
	}
	for rows.Next() {
		var o original
		if err := rows.Scan(&o.owner, &o.sha, &o.size, &o.pieces, &o.packed, &o.letter); err != nil {
			return wrong, err
		}
		if o.pieces > 0 {
			large = append(large, o)
			continue
		}
		say(o, damage(o.sha, o.size, o.packed))
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return wrong, err
	}
	for _, o := range large {
		packed, err := (&Tx{db: tx.db, owner: o.owner}).whole(o.sha, o.packed, o.pieces)
		if err != nil {
			return wrong, err
		}
		say(o, damage(o.sha, o.size, packed))
	}
	return wrong, nil
}

// damage says what is wrong with a packed original; "" for nothing.
func damage(sha []byte, size int64, packed []byte) string {
	raw, err := unpacker.DecodeAll(packed, nil)
	if err != nil {
		return "it can't be unpacked: " + err.Error()
	}
	if sum := sha256.Sum256(raw); !bytes.Equal(sum[:], sha) {
		return "its contents are not what they were"
	}
	if int64(len(raw)) != size {
		return "its size is not what it was"
	}
	return ""
}
