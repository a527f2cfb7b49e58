// By hand: a check trusts no model; it looks at tables and pragmas as they are.

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

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/waiting"
)

// checks are what must hold in every database. Each query lists what breaks it.
var checks = []struct{ what, query string }{
	{"a conversation is in a place that does not exist", "SELECT id FROM conversations WHERE " + notAmong("place", decide.Places())},
	{"a conversation is put off without a return", "SELECT c.id FROM conversations c WHERE c.place = 'later' AND NOT EXISTS (SELECT 1 FROM returns r WHERE r.conversation_id = c.id)"},
	{"a return belongs to a conversation that is not put off", "SELECT r.conversation_id FROM returns r JOIN conversations c ON c.id = r.conversation_id WHERE c.place NOT IN ('later', 'shallows')"},
	{"a letter has no original", "SELECT l.id FROM letters l WHERE NOT EXISTS (SELECT 1 FROM blobs b WHERE b.owner = l.owner AND b.sha = l.sha)"},
	{"an arrival has no original", "SELECT a.id FROM arrivals a WHERE NOT EXISTS (SELECT 1 FROM blobs b WHERE b.owner = a.owner AND b.sha = a.sha)"},
	{"a letter that was let in is in no conversation", "SELECT id FROM letters WHERE in_at IS NOT NULL AND conversation_id IS NULL"},
	{"a conversation has a place and no letters", "SELECT c.id FROM conversations c WHERE c.place <> '' AND NOT EXISTS (SELECT 1 FROM letters l WHERE l.conversation_id = c.id)"},
	{"a letter that was let in can't be found by search", "SELECT l.id FROM letters l WHERE l.in_at IS NOT NULL AND NOT EXISTS (SELECT 1 FROM letters_text t WHERE t.rowid = l.row_key)"},
	{"a follow-up's letter is gone but not marked as purged", "SELECT x.followup_id FROM followup_letters x WHERE x.purged = 0 AND NOT EXISTS (SELECT 1 FROM letters l WHERE l.id = x.letter_id)"},
	{"a conversation's place is not the one its history ends with", `SELECT c.id FROM conversations c WHERE c.place <> '' AND c.place IS NOT
		(SELECT h.now FROM place_history h WHERE h.conversation_id = c.id AND h.at = c.place_since AND h.owner = c.owner
			AND h.id = (SELECT max(id) FROM place_history WHERE conversation_id = c.id))`},
	{"fewer letters are counted than came", `SELECT l.owner FROM (SELECT owner, received_at / 900000 AS quarter, count(*) AS came FROM letters WHERE own = 0 GROUP BY 1, 2) l
		LEFT JOIN tallies t ON t.owner = l.owner AND t.quarter = l.quarter WHERE coalesce(t.came, 0) < l.came`},
	{"the inbox holds other than is counted", countsOther(decide.Inbox)},
	{"the Shallows hold other than is counted", countsOther(decide.Shallows)},
	{"something is counted of nobody", "SELECT owner FROM place_counts WHERE owner NOT IN (SELECT id FROM people)"},
	{"a letter waits of which a copy was let in", "SELECT l.id FROM letters l WHERE l.in_at IS NULL AND EXISTS (SELECT 1 FROM arrivals a WHERE a.letter_id = l.id AND a.state = 'in')"},
	{"a letter was let in of which no copy was", "SELECT l.id FROM letters l WHERE l.in_at IS NOT NULL AND NOT EXISTS (SELECT 1 FROM arrivals a WHERE a.letter_id = l.id AND a.state = 'in')"},
	{"a letter never arrived", "SELECT l.id FROM letters l WHERE NOT EXISTS (SELECT 1 FROM arrivals a WHERE a.letter_id = l.id)"},
	{"a letter stands at another place in the index than it came", "SELECT id FROM letters WHERE row_key >> 20 <> max(received_at, 0) / 1000"},
	{"a part of an original is missing", "SELECT b.rowid FROM blobs b WHERE b.pieces <> (SELECT count(*) FROM blob_pieces p WHERE p.owner = b.owner AND p.sha = b.sha)"},
	{"there is more or less of a file than has come", `SELECT a.rowid FROM attachments a WHERE a.came > a.size OR a.came <>
		(SELECT coalesce(sum(length(p.content)), 0) FROM attachment_pieces p WHERE p.owner = a.owner AND p.attachment = a.id)`},
	{"a note or working title can't be found by search", `SELECT c.id FROM conversations c WHERE (c.note <> '' OR c.working_title <> '') AND c.place <> ''
		AND NOT EXISTS (SELECT 1 FROM notes_text t WHERE t.rowid = c.id)`},
	{"a file that is kept is not there, or not whole", `SELECT k.id FROM kept_files k WHERE k.alive = 1 AND NOT EXISTS
		(SELECT 1 FROM attachments a WHERE a.owner = k.owner AND a.id = k.attachment AND a.came = a.size)`},
	{"a part of a file follows nothing", `SELECT p.rowid FROM attachment_pieces p WHERE NOT EXISTS (SELECT 1 FROM attachments a WHERE a.owner = p.owner AND a.id = p.attachment)
		OR p.first <> (SELECT coalesce(sum(length(q.content)), 0) FROM attachment_pieces q WHERE q.owner = p.owner AND q.attachment = p.attachment AND q.first < p.first)`},
	{"an account's address is not the person's own", "SELECT a.id FROM accounts a WHERE NOT EXISTS (SELECT 1 FROM own_addresses o WHERE o.owner = a.owner AND o.account_id = a.id AND o.address = lower(a.address))"},
	{"a letter in the outbox has no original", "SELECT o.id FROM outbox o WHERE o.state <> 'sent' AND NOT EXISTS (SELECT 1 FROM blobs b WHERE b.owner = o.owner AND b.sha = o.sha)"},
	{"a version of a value is that of no change", `SELECT object_id FROM (SELECT object, object_id, field, person, version FROM field_versions WHERE version <> 0
		EXCEPT SELECT object, object_id, field, person, version_after FROM changes)`},
	{"a version of a value is somebody else's than its change", "SELECT v.object_id FROM field_versions v JOIN changes c ON c.id = v.version AND c.object = v.object AND c.object_id = v.object_id WHERE c.owner <> v.owner"},
	{"somebody acted who is nobody", `SELECT id FROM journal WHERE person <> 0 AND person NOT IN (SELECT id FROM people)
		UNION ALL SELECT id FROM imports WHERE person NOT IN (SELECT id FROM people)`},
	{"a priority is none", "SELECT id FROM followups WHERE " + notAmong("priority", followup.Priorities)},
	{"a status is none", "SELECT id FROM followups WHERE " + notAmong("status", followup.Statuses)},
	{"the state of a waiting is none", "SELECT id FROM expectations WHERE " + notAmong("state", waiting.States)},
	{"the state of a letter in the outbox is none", "SELECT id FROM outbox WHERE " + notAmong("state", sending.Stages)},
	{"the state of an arrival is none", "SELECT id FROM arrivals WHERE state NOT IN ('in', 'held')"},
	{"the state of a reminder is none", "SELECT id FROM reminders WHERE state NOT IN ('set', 'waits', 'rang', 'seen')"},
	{"a letter has an impossible date", "SELECT id FROM letters WHERE received_at NOT BETWEEN 0 AND 253402300799999 OR date NOT BETWEEN -62135596800000 AND 253402300799999"},
	{"an event has an impossible time", `SELECT conversation_id FROM returns WHERE due NOT BETWEEN -62135596800000 AND 253402300799999
		UNION ALL SELECT id FROM reminders WHERE at NOT BETWEEN -62135596800000 AND 253402300799999
		UNION ALL SELECT id FROM appointments WHERE start_at NOT BETWEEN -62135596800000 AND 253402300799999 OR end_at < start_at`},
	{"an address belongs to two people", "SELECT min(owner) FROM own_addresses GROUP BY address HAVING count(*) > 1"},
	{"two holds are in force", "SELECT owner FROM holds WHERE alive = 1 AND ended_at IS NULL GROUP BY owner, account_id HAVING count(*) > 1"},
	{"a letter is prepared that does not wait", "SELECT p.letter_id FROM prepared p JOIN letters l ON l.id = p.letter_id WHERE l.in_at IS NOT NULL"},
	{"a plan in force is not there", "SELECT id FROM people WHERE plan_id <> 0 AND plan_id NOT IN (SELECT id FROM plans) UNION SELECT id FROM accounts WHERE plan_id > 0 AND plan_id NOT IN (SELECT id FROM plans)"},
}

// Check verifies the file and all that must hold in it, and names what does
// not.
func (s *Store) Check(ctx context.Context) (problems []string, err error) {
	err = s.reader.WithContext(ctx).Connection(func(db *gorm.DB) error {
		if problems, err = check(db); err != nil {
			return err
		}
		tx := &Tx{db: db}
		return appendAll(&problems, tx.differingLetters, tx.damagedOriginals)
	})
	return problems, err
}

// CheckKept verifies all of that but the originals, and what was read of them:
// nothing that a person does changes those.
func (s *Store) CheckKept(ctx context.Context) (problems []string, err error) {
	err = s.reader.WithContext(ctx).Connection(func(db *gorm.DB) error {
		problems, err = check(db)
		return err
	})
	return problems, err
}

// appendAll adds what checks find, each shortened.
func appendAll(problems *[]string, checks ...func() ([]string, error)) error {
	for _, c := range checks {
		found, err := c()
		if err != nil {
			return err
		}
		*problems = append(*problems, atMost(found)...)
	}
	return nil
}

func check(db *gorm.DB) (problems []string, err error) {
	// The full-text indexes are looked into before they are checked: a connection that
	// has not since others wrote would check them by what it remembers, and find
	// damage where there is none.
	for _, index := range []string{"letters_text", "notes_text"} {
		if _, err := all[int64](db.Raw("SELECT rowid FROM " + index + " WHERE " + index + " MATCH 'a' LIMIT 1")); err != nil {
			return nil, err
		}
	}
	report, err := all[string](db.Raw("PRAGMA integrity_check"))
	if err != nil {
		return nil, err
	}
	if len(report) != 1 || report[0] != "ok" {
		problems = append(problems, report...)
	}
	orphans, err := all[struct {
		Table, Parent string
		Rowid         *int64
	}](db.Raw("PRAGMA foreign_key_check"))
	if err != nil {
		return nil, err
	}
	for _, o := range orphans {
		problems = append(problems, fmt.Sprintf("row %v of %s leads to nothing in %s", show(o.Rowid), o.Table, o.Parent))
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
	return problems, appendAll(&problems, tx.strayReferences, tx.strandedReturns, tx.differingRows, tx.differingColumns, tx.differingTallies, tx.unreadableValues)
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
	"drafts": {"value"}, "outbox": {"recipients", "outcomes", "every"}, "holds": {"until"}, "plans": {"value"}, "let_through": {"until"}, "kept_filters": {"value"}, "receiver_groups": {"members"}, "accounts": {"signatures", "send_as", "away"},
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
		packed, err := tx.at(o.owner).whole(o.sha, o.packed, o.pieces)
		if err != nil {
			return wrong, err
		}
		say(o, damage(o.sha, o.size, packed))
	}
	return wrong, nil
}

// countsOther lists the inboxes of which another count is kept of a place than it holds.
func countsOther(place decide.Place) string {
	return fmt.Sprintf(`SELECT p.id FROM people p WHERE (SELECT count(*) FROM conversations WHERE owner = p.id AND place = '%[1]s')
		<> coalesce((SELECT n FROM place_counts WHERE owner = p.id AND place = '%[1]s'), 0)`, place)
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
