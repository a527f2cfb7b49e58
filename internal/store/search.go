package store

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// searching writes a query as conditions of SQL. The full-text index finds words; all else is told by the
// columns of a letter (l) and of its conversation.
type searching struct {
	tx   *Tx
	args []any
}

// holdsTrait are the traits by which the contents of with: are told.
var holdsTrait = map[string]sorting.Traits{"picture": sorting.Pictured, "link": sorting.Linked, "date": sorting.Dated, "amount": sorting.Sums}

func (s *searching) with(condition string, args ...any) string {
	s.args = append(s.args, args...)
	return condition
}

// condition is that of a query; it is never null.
func (s *searching) condition(q find.Query) (string, error) {
	if q.InText() {
		return s.with("l.row_key IN (SELECT rowid FROM letters_text WHERE letters_text MATCH ?)", q.Match()), nil
	}
	switch q.Op {
	case find.Is:
		return s.term(q.Term)
	case find.Not:
		c, err := s.condition(q.Of[0])
		return "NOT " + c, err
	}
	between, some := " AND ", q.Of
	if q.Op == find.Any {
		between = " OR "
	} else if text, rest := q.Apart(); !text.Empty() {
		some = append([]find.Query{text}, rest...)
	}
	parts := make([]string, len(some))
	for i, p := range some {
		var err error
		if parts[i], err = s.condition(p); err != nil {
			return "", err
		}
	}
	if len(parts) == 0 {
		return "true", nil
	}
	return "(" + strings.Join(parts, between) + ")", nil
}

// term is the condition of a term that is not in the text.
func (s *searching) term(t find.Term) (string, error) {
	inbox := s.tx.who.Inbox
	switch t.Field {
	case find.Note:
		return s.with("l.conversation_id IN (SELECT rowid FROM notes_text WHERE notes_text MATCH ?)", find.Query{Op: find.Is, Term: t}.Match()), nil
	case find.Label:
		labels, err := s.tx.Labels()
		if err != nil {
			return "", err
		}
		return s.with("l.conversation_id IN (SELECT conversation_id FROM conversation_labels WHERE owner = ? AND label IN (SELECT value FROM json_each(?)))", inbox, jsonOf(only(labels, t.Names))), nil
	case find.Account:
		accounts, err := s.tx.Accounts()
		var ids []int64
		for _, a := range accounts {
			if t.Names(a.Label) || t.Names(a.Address) {
				ids = append(ids, a.ID)
			}
		}
		return s.with("EXISTS (SELECT 1 FROM arrivals a WHERE a.letter_id = l.id AND a.account_id IN (SELECT value FROM json_each(?)))", jsonIDs(ids)), err
	case find.Kind:
		return s.with("l.kind = ?", t.Value), nil
	case find.At:
		if t.Value == find.Sent {
			return "l.own = 1", nil
		}
		return s.with("EXISTS (SELECT 1 FROM conversations c WHERE c.id = l.conversation_id AND c.place = ?)", t.Value), nil
	case find.Mark:
		return s.mark(t)
	case find.With:
		if trait, ok := holdsTrait[t.Value]; ok {
			return s.with("l.traits & ? <> 0", trait), nil
		}
		return "l.attachments > 0", nil
	case find.Size:
		sign := "<"
		if t.Over {
			sign = ">"
		}
		return s.with("coalesce((SELECT b.size FROM blobs b WHERE b.owner = l.owner AND b.sha = l.sha), 0) "+sign+" ?", t.Bytes), nil
	case find.Before, find.After, find.On:
		low, high := bounds(t)
		return s.with("(l.row_key >= ? AND l.row_key < ?)", low, high), nil
	default:
		return "", fmt.Errorf("search: there is no condition for %q", t.Field)
	}
}

// bounds are the rows of the index within the days of a term: they are numbered by time.
func bounds(t find.Term) (low, high int64) {
	high = 1 << 62
	if !t.Since.IsZero() {
		low = rowKey(t.Since)
	}
	if !t.Until.IsZero() {
		high = rowKey(t.Until)
	}
	return low, high
}

func (s *searching) mark(t find.Term) (string, error) {
	const of = "l.conversation_id IN ("
	switch t.Value {
	case "starred":
		return s.with(of+"SELECT conversation_id FROM personal_marks WHERE person = ? AND star = 1)", s.tx.who.Person), nil
	case "unread":
		return s.with(of+"SELECT c.id FROM conversations c"+marksOf+"WHERE c.owner = ? AND max(coalesce(m.seen, 0), c.decided) < c.last_letter)", s.tx.who.Person, s.tx.who.Inbox), nil
	case "asks":
		return "l.asks = 1", nil
	case "waits":
		return s.with(of+"SELECT conversation_id FROM expectations WHERE owner = ? AND alive = 1 AND state = 'open')", s.tx.who.Inbox), nil
	}
	const tracked = of + `SELECT m.conversation_id FROM followups f JOIN followup_letters x ON x.followup_id = f.id JOIN letters m ON m.id = x.letter_id
			WHERE f.owner = ? AND f.alive = 1 AND f.done_at IS NULL AND `
	switch t.Value {
	case "tracked":
		return s.with(tracked+"true)", s.tx.who.Inbox), nil
	case "flagged":
		return s.with(tracked+"f.flag = 1)", s.tx.who.Inbox), nil
	}
	return s.with(tracked+"f.due_at < ?)", s.tx.who.Inbox, millis(t.Until)), nil
}

// Found is a conversation in which a search has found something.
type Found struct {
	// LetterID is the newest letter that was found; 0 where it was found by its note.
	LetterID int64
	// Hits are the letters that were found, the newest first, as far as they were looked through.
	Hits []int64
	Row
}

// hit is a letter that was found.
type hit struct{ RowKey, ID, ConversationID int64 }

// query writes the statement that finds letters; columns are of l, and of t, the index, where it drives.
//
// By hand: full text and marks in one statement.
func (tx *Tx) finding(columns string, q find.Query, before int64, order string, most int) (text string, args []any, err error) {
	low, high := int64(0), int64(1)<<62
	if before != 0 {
		high = before
	}
	inText, rest := q.Apart()
	var others []find.Query
	for _, p := range rest {
		if p.Op == find.Is && (p.Term.Field == find.Before || p.Term.Field == find.After || p.Term.Field == find.On) {
			from, to := bounds(p.Term)
			low, high = max(low, from), min(high, to)
		} else {
			others = append(others, p)
		}
	}
	s := searching{tx: tx}
	conditions, err := s.condition(find.Query{Of: others})
	if err != nil {
		return "", nil, err
	}
	from, key := "FROM letters l WHERE ", "l.row_key"
	if !inText.Empty() {
		from, key = "FROM letters_text t CROSS JOIN letters l ON l.row_key = t.rowid WHERE t.letters_text MATCH ? AND ", "t.rowid"
		args = append(args, inText.Match())
	}
	noted := ""
	args = append(args, low, high, tx.who.Inbox)
	args = append(args, s.args...)
	if q.InNotes() {
		noted = " AND l.conversation_id NOT IN (SELECT rowid FROM notes_text WHERE notes_text MATCH ?)"
		args = append(args, q.Match())
	}
	if order == "" {
		order = key + " DESC"
	}
	return fmt.Sprintf("SELECT %s %s %s >= ? AND %[3]s < ? AND l.owner = ? AND l.in_at IS NOT NULL AND %s%s ORDER BY %s LIMIT ?", columns, from, key, conditions, noted, order), append(args, most), nil
}

// hits are the letters that are found, the newest first, from before one, at most so many.
//
// By hand: see finding.
func (tx *Tx) hits(q find.Query, before int64, most int) ([]hit, error) {
	text, args, err := tx.finding("l.row_key, l.id, l.conversation_id", q, before, "", most)
	if err != nil {
		return nil, err
	}
	return tx.allHits(text, args)
}

// allHits reads hits.
//
// By hand: it is asked at each key.
func (tx *Tx) allHits(text string, args []any) (out []hit, err error) {
	err = tx.eachRow(func(rows *sql.Rows) error {
		var h hit
		err := rows.Scan(&h.RowKey, &h.ID, &h.ConversationID)
		out = append(out, h)
		return err
	}, text, args...)
	return out, err
}

// ranked is how many of the newest letters that are found the best are chosen from.
const ranked = 5000

// best are the letters of the newest ones that are found that fit best: where what is looked for is rare,
// and stands in the subject or the sender's name. Without words they are the newest.
//
// By hand: full text; the rank is that of Okapi BM25, as FTS5 weighs it.
func (tx *Tx) best(q find.Query) ([]hit, error) {
	inText, _ := q.Apart()
	if inText.Empty() {
		return tx.hits(q, 0, ranked)
	}
	text, args, err := tx.finding("l.row_key, l.id, l.conversation_id, bm25(letters_text, 8, 6, 2, 1, 1, 2) AS fits", q, 0, "", ranked)
	if err != nil {
		return nil, err
	}
	return tx.allHits("SELECT row_key, id, conversation_id FROM ("+text+") ORDER BY fits, row_key DESC", args)
}

// Search finds let-in letters, the newest first, one row for each conversation, which stands where its
// newest find does. before is the full-text row to go on from, 0 for the start; next is 0 at the end.
func (tx *Tx) Search(q find.Query, before int64, most int) (found []Found, next int64, err error) {
	if q.InNotes() && before == 0 {
		if found, err = tx.foundByNote(q.Match()); err != nil {
			return nil, 0, err
		}
	}
	first, some := len(found), most+most/2
	for from := before; len(found)-first < most; {
		hits, err := tx.hits(q, from, some)
		if err != nil {
			return nil, 0, err
		}
		shown, err := tx.shownBefore(q, hits, before)
		if err != nil {
			return nil, 0, err
		}
		at := map[int64]int{}
		for i := first; i < len(found); i++ {
			at[found[i].Row.ID] = i
		}
		next = 0
		for i, h := range hits {
			if shown[h.ConversationID] {
				continue
			}
			if _, ok := at[h.ConversationID]; !ok {
				if len(found)-first == most {
					next = hits[i-1].RowKey
					break
				}
				at[h.ConversationID] = len(found)
				found = append(found, Found{LetterID: h.ID, Row: Row{ID: h.ConversationID}})
			}
			f := &found[at[h.ConversationID]]
			f.Hits = append(f.Hits, h.ID)
		}
		if len(hits) < some || next != 0 {
			break
		}
		from = hits[len(hits)-1].RowKey
		next = from
	}
	return found, next, tx.fill(found[first:])
}

// SearchBest finds the conversations that fit best, from a place of their order on.
func (tx *Tx) SearchBest(q find.Query, from, most int) (found []Found, next int, err error) {
	hits, err := tx.best(q)
	if err != nil {
		return nil, 0, err
	}
	at := map[int64]int{}
	var every []Found
	for _, h := range hits {
		i, ok := at[h.ConversationID]
		if !ok {
			i = len(every)
			at[h.ConversationID] = i
			every = append(every, Found{LetterID: h.ID, Row: Row{ID: h.ConversationID}})
		}
		every[i].Hits = append(every[i].Hits, h.ID)
	}
	from = min(from, len(every))
	found = every[from:min(from+most, len(every))]
	if from+most < len(every) {
		next = from + most
	}
	return found, next, tx.fill(found)
}

// fill reads the rows of what was found.
func (tx *Tx) fill(found []Found) error {
	ids, at := make([]int64, len(found)), make(map[int64]int, len(found))
	for i, f := range found {
		ids[i], at[f.Row.ID] = f.Row.ID, i
	}
	rows, err := tx.Conversations(ids)
	for _, r := range rows {
		found[at[r.ID]].Row = r
	}
	return err
}

// shownBefore are the conversations of some finds that have a newer one, which an earlier page shows.
//
// By hand: it asks only of those with a newer letter.
func (tx *Tx) shownBefore(q find.Query, hits []hit, before int64) (map[int64]bool, error) {
	if before == 0 || len(hits) == 0 {
		return nil, nil
	}
	ids := map[int64]bool{}
	for _, h := range hits {
		ids[h.ConversationID] = true
	}
	newer, err := all[hit](tx.db.Raw("SELECT l.row_key, l.id, l.conversation_id FROM json_each(?) j CROSS JOIN letters l ON l.conversation_id = j.value WHERE +l.owner = ? AND l.row_key >= ?",
		jsonIDs(slices.Collect(maps.Keys(ids))), tx.who.Inbox, before))
	if err != nil || len(newer) == 0 {
		return nil, err
	}
	s := searching{tx: tx}
	conditions, err := s.condition(q)
	if err != nil {
		return nil, err
	}
	letters := make([]int64, len(newer))
	for i, h := range newer {
		letters[i] = h.ID
	}
	list, err := all[int64](tx.db.Raw("SELECT DISTINCT l.conversation_id FROM json_each(?) j CROSS JOIN letters l ON l.id = j.value WHERE +l.owner = ? AND l.in_at IS NOT NULL AND "+conditions,
		append([]any{jsonIDs(letters), tx.who.Inbox}, s.args...)...))
	out := make(map[int64]bool, len(list))
	for _, id := range list {
		out[id] = true
	}
	return out, err
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

// About is a letter that was found, as finds are counted.
type About struct {
	RowKey                           int64
	Place, FromName, FromEmail, Kind string
}

// FoundAbout tells of the newest letters that are found, at most so many, what they are counted by; those
// of the owner (see finding).
//
// By hand: it reads a column of each of all finds.
func (tx *Tx) FoundAbout(q find.Query, most int) ([]About, error) {
	text, args, err := tx.finding("l.row_key, (SELECT c.place FROM conversations c WHERE c.owner = l.owner AND c.id = l.conversation_id) AS place, l.from_name, l.from_email, l.kind", q, 0, "", most)
	if err != nil {
		return nil, err
	}
	var out []About
	known := map[string]string{} // most of it is the same again and again
	same := func(b sql.RawBytes) string {
		s, ok := known[string(b)]
		if !ok {
			s = string(b)
			known[s] = s
		}
		return s
	}
	var place, name, email, kind sql.RawBytes
	err = tx.eachRow(func(rows *sql.Rows) error {
		var a About
		err := rows.Scan(&a.RowKey, &place, &name, &email, &kind)
		a.Place, a.FromName, a.FromEmail, a.Kind = same(place), same(name), same(email), same(kind)
		out = append(out, a)
		return err
	}, text, args...)
	return out, err
}

func jsonOf(list []string) string {
	b, _ := json.Marshal(list) // of strings it can't fail
	return string(b)
}

// only are those of a list for which something holds.
func only[T any](list []T, holds func(T) bool) (out []T) {
	for _, one := range list {
		if holds(one) {
			out = append(out, one)
		}
	}
	return out
}

// At is when it came, to the second.
func (a About) At() time.Time { return time.Unix(a.RowKey>>20, 0) }

// mostNear bounds the words among which one that is spelt otherwise is looked for.
const mostNear = 20_000

// SpeltNear is the word of the index that is spelt nearly as one that stands in no letter; "" where it
// stands in one, or none is near. It may stand in somebody else's letters only.
//
// By hand: the words of the full text.
func (tx *Tx) SpeltNear(word string) (string, error) {
	folded := letter.Words(word)
	if len(folded) != 1 || len([]rune(folded[0])) < 3 {
		return "", nil
	}
	w := []rune(folded[0])
	there, err := all[string](tx.db.Raw("SELECT term FROM letters_text_words WHERE term >= ? AND term < ? LIMIT 1", folded[0], folded[0]+"\U0010FFFF"))
	if err != nil || len(there) > 0 {
		return "", err
	}
	first := string(w[:1])
	terms, err := all[string](tx.db.Raw("SELECT term FROM letters_text_words WHERE term >= ? AND term < ? AND length(term) BETWEEN ? AND ? ORDER BY doc DESC LIMIT ?",
		first, first+"\U0010FFFF", len(w)-2, len(w)+2, mostNear))
	return find.Near(folded[0], terms), err
}

// SeenLetters are those of some letters that were let in.
func (tx *Tx) SeenLetters(ids []int64) ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[letterRow](tx.few()).Where(inNumbers("id", ids)).Where("in_at IS NOT NULL").Order("id"), "id")
}

// FileNames are names of attached files with words that begin as they are typed, the newest first.
func (tx *Tx) FileNames(typed string, most int) ([]string, error) {
	t := find.Term{Field: find.With, Value: typed, File: true}
	if list, _ := t.Phrases(); list == nil {
		return nil, nil
	}
	hits, err := tx.hits(find.Query{Op: find.Is, Term: t}, 0, most*3)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(hits))
	for i, h := range hits {
		ids[i] = h.ID
	}
	rows, err := gorm.G[letterRow](tx.few()).Select("id, parts").Where(inNumbers("id", ids)).Order("id DESC").Find(tx.ctx())
	var out []string
	for _, r := range rows {
		for _, p := range r.Parts.V {
			if !p.Inline && t.In(p.Name) && !slices.Contains(out, p.Name) && len(out) < most {
				out = append(out, p.Name)
			}
		}
	}
	return out, err
}
