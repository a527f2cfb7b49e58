package store

import (
	"context"
	"fmt"

	"gorm.io/gorm"
)

// checks are what must hold in every database. Each query lists what breaks it.
var checks = []struct{ what, query string }{
	{"a conversation is in a place that does not exist", "SELECT id FROM conversations WHERE place NOT IN ('', 'inbox', 'shallows', 'later', 'archive', 'bin', 'junk')"},
	{"a conversation is put off without a return", "SELECT c.id FROM conversations c WHERE c.place = 'later' AND NOT EXISTS (SELECT 1 FROM returns r WHERE r.conversation_id = c.id)"},
	{"a return belongs to a conversation that is not put off", "SELECT r.conversation_id FROM returns r JOIN conversations c ON c.id = r.conversation_id WHERE c.place <> 'later'"},
	{"a conversation's count of letters is wrong", "SELECT c.id FROM conversations c WHERE c.letters <> (SELECT count(*) FROM letters l WHERE l.conversation_id = c.id AND l.in_at IS NOT NULL) AND c.place <> ''"},
	{"a conversation's last letter is wrong", "SELECT c.id FROM conversations c WHERE c.place <> '' AND c.last_letter <> (SELECT coalesce(max(id), 0) FROM letters l WHERE l.conversation_id = c.id AND l.in_at IS NOT NULL)"},
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
		if err != nil {
			return nil, fmt.Errorf("check that no %s: %w", c.what, err)
		}
		if len(ids) > 0 {
			problems = append(problems, fmt.Sprintf("%s (%d, the first is %d)", c.what, len(ids), ids[0]))
		}
	}
	return problems, nil
}
