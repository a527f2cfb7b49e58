package store

import (
	"ebbe.example/ebbe/internal/core/find"
)

// Found is a letter that a search has found.
type Found struct {
	LetterID int64
	Row
}

// marked are the conditions of a search that no word of a letter says.
func (tx *Tx) marked(q find.Query) (conditions string, args []any) {
	add := func(condition string, values ...any) {
		conditions += " AND " + condition
		args = append(args, values...)
	}
	if without := q.Without(); without != "" {
		add("l.row_key NOT IN (SELECT rowid FROM letters_text WHERE letters_text MATCH ?)", without)
	}
	for _, label := range q.Labels {
		add("l.conversation_id IN (SELECT conversation_id FROM conversation_labels WHERE owner = ? AND label = ? COLLATE NOCASE)", tx.who.Inbox, label)
	}
	if q.Starred {
		add("l.conversation_id IN (SELECT conversation_id FROM personal_marks WHERE person = ? AND star = 1)", tx.who.Person)
	}
	if q.Flagged {
		add(`l.conversation_id IN (SELECT m.conversation_id FROM followups f JOIN followup_letters x ON x.followup_id = f.id JOIN letters m ON m.id = x.letter_id
			WHERE f.owner = ? AND f.alive = 1 AND f.flag = 1 AND f.done_at IS NULL)`, tx.who.Inbox)
	}
	if q.Files {
		add("l.attachments > 0")
	}
	return conditions, args
}

// Search finds let-in letters, newest first, one for each conversation.
// before is the full-text row to go on from, 0 for the start; next is 0 at
// the end.
//
// By hand: full text, by keyset.
func (tx *Tx) Search(q find.Query, before int64, most int) (found []Found, next int64, err error) {
	if q.InNotes() && before == 0 {
		if found, err = tx.foundByNote(q.Match()); err != nil {
			return nil, 0, err
		}
	}
	hits, err := tx.hits(q, before, most*3)
	if err != nil {
		return nil, 0, err
	}
	at := map[int64]int{}
	var ids []int64
	for i, h := range hits {
		if _, ok := at[h.ConversationID]; !ok {
			if len(ids) == most {
				next = hits[i-1].RowKey
				break
			}
			at[h.ConversationID] = len(found)
			ids = append(ids, h.ConversationID)
			found = append(found, Found{LetterID: h.ID})
		}
	}
	if next == 0 && len(hits) == most*3 {
		next = hits[len(hits)-1].RowKey
	}
	rows, err := tx.Conversations(ids)
	for _, r := range rows {
		found[at[r.ID]].Row = r
	}
	return found, next, err
}

// hit is a letter that was found.
type hit struct{ RowKey, ID, ConversationID int64 }

// hits are the letters that are found, the newest first, from before one, at most so many.
//
// By hand: full text and marks in one statement.
func (tx *Tx) hits(q find.Query, before int64, most int) ([]hit, error) {
	low, high := int64(0), int64(1)<<62
	if !q.After.IsZero() {
		low = rowKey(q.After)
	}
	if !q.Before.IsZero() {
		high = rowKey(q.Before)
	}
	if before != 0 {
		high = min(high, before)
	}
	match := q.Match()
	marks, marked := tx.marked(q)
	noted := ""
	if q.InNotes() {
		noted = " AND l.conversation_id NOT IN (SELECT rowid FROM notes_text WHERE notes_text MATCH ?)"
		marked = append(marked, match)
	}
	text := `SELECT l.row_key, l.id, l.conversation_id FROM letters_text t CROSS JOIN letters l ON l.row_key = t.rowid
		WHERE t.letters_text MATCH ? AND t.rowid >= ? AND t.rowid < ? AND l.owner = ? AND l.in_at IS NOT NULL` + marks + noted + ` ORDER BY t.rowid DESC LIMIT ?`
	args := append([]any{match, low, high, tx.who.Inbox}, append(marked, most)...)
	if match == "" {
		text = `SELECT l.row_key, l.id, l.conversation_id FROM letters l
			WHERE l.row_key >= ? AND l.row_key < ? AND l.owner = ? AND l.in_at IS NOT NULL` + marks + ` ORDER BY l.row_key DESC LIMIT ?`
		args = args[1:]
	}
	return all[hit](tx.db.Raw(text, args...))
}

// FoundIn are the conversations in which something is found, each once, of at most so many letters.
func (tx *Tx) FoundIn(q find.Query, most int) ([]int64, error) {
	var out []int64
	if q.InNotes() {
		found, err := tx.foundByNote(q.Match())
		if err != nil {
			return nil, err
		}
		for _, f := range found {
			out = append(out, f.Row.ID)
		}
	}
	hits, err := tx.hits(q, 0, most)
	seen := make(map[int64]bool, len(hits))
	for _, h := range hits {
		if !seen[h.ConversationID] {
			seen[h.ConversationID] = true
			out = append(out, h.ConversationID)
		}
	}
	return out, err
}
