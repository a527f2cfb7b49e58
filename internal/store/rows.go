// By hand: what rows show is asked and written with every letter that comes, and for
// thousands of conversations at once; by models that takes three times as long.

package store

import (
	"database/sql"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/thread"
)

// What the rows of lists show of a conversation is read off its letters by the
// core (thread.Row) and kept in its columns.

type memberRow struct {
	ID, ConversationID, ReceivedAt, RoundAt    int64
	Own, Asks                                  bool
	FromName, FromEmail, Subject, Ask, Through string
	Attachments                                int
	Kind                                       sorting.Kind
	SortedOut                                  bool
}

const memberColumns = "l.id, l.conversation_id, l.received_at, l.round_at, l.own, l.asks, l.from_name, l.from_email, l.subject, l.ask, l.through, l.attachments, l.kind, l.sorted_out"

func (r memberRow) member() thread.Member {
	return thread.Member{
		ID: r.ID, Own: r.Own, From: letter.Address{Name: r.FromName, Email: r.FromEmail}, Subject: r.Subject, Ask: r.Ask, Asks: r.Asks,
		Attachments: r.Attachments, ReceivedAt: fromMillis(r.ReceivedAt), Round: fromMillis(r.RoundAt), Through: r.Through, Kind: r.Kind, Sorted: r.SortedOut,
	}
}

// members reads letters by memberColumns: past GORM, since ten thousand come at once.
func (tx *Tx) members(query string, args ...any) (out []memberRow, err error) {
	rows, err := tx.query("SELECT "+memberColumns+query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var r memberRow
	for rows.Next() {
		if err := rows.Scan(&r.ID, &r.ConversationID, &r.ReceivedAt, &r.RoundAt, &r.Own, &r.Asks, &r.FromName, &r.FromEmail, &r.Subject, &r.Ask, &r.Through, &r.Attachments, &r.Kind, &r.SortedOut); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// rowsOfLetters gives the rows of conversations as their letters say.
func (tx *Tx) rowsOfLetters(conversations []int64) (map[int64]thread.Row, error) {
	rows, err := tx.members(` FROM letters l WHERE +l.owner = ? AND l.conversation_id IN (SELECT value FROM json_each(?))
		AND l.in_at IS NOT NULL`, tx.who.Inbox, jsonIDs(conversations))
	out := make(map[int64]thread.Row, len(conversations))
	for _, r := range rows {
		out[r.ConversationID] = out[r.ConversationID].With(r.member())
	}
	return out, err
}

// keptRows gives the rows of conversations as they are kept: enough of them to
// add a letter to.
func (tx *Tx) keptRows(conversations []int64) (map[int64]thread.Row, error) {
	list := jsonIDs(conversations)
	rows, err := all[struct {
		ID, LastLetter, LastAt, Speaker, Opener int64
		Letters, Attachments, Unsorted          int
	}](tx.db.Raw("SELECT id, letters, attachments, unsorted, last_letter, last_at, speaker, opener FROM conversations WHERE +owner = ? AND id IN (SELECT value FROM json_each(?))", tx.who.Inbox, list))
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, r := range rows {
		ids = append(ids, r.Speaker, r.Opener)
	}
	found, err := tx.members(" FROM letters l WHERE +l.owner = ? AND l.id IN (SELECT value FROM json_each(?))", tx.who.Inbox, jsonIDs(ids))
	if err != nil {
		return nil, err
	}
	members := make(map[int64]thread.Member, len(found))
	for _, m := range found {
		members[m.ID] = m.member()
	}
	out := make(map[int64]thread.Row, len(rows))
	for _, r := range rows {
		out[r.ID] = thread.Row{
			Letters: r.Letters, Attachments: r.Attachments, Unsorted: r.Unsorted, Last: r.LastLetter, LastAt: fromMillis(r.LastAt), Speaker: members[r.Speaker], Opener: members[r.Opener],
		}
	}
	return out, nil
}

// keptRow is the row of one conversation as it is kept. It is asked for with
// every letter that comes, so it goes past GORM.
func (tx *Tx) keptRow(conversation int64) (thread.Row, error) {
	var r thread.Row
	rows, err := tx.query(`SELECT c.letters, c.attachments, c.unsorted, c.last_letter, c.last_at,
			s.id, s.received_at, s.round_at, s.own, s.asks, s.from_name, s.from_email, s.subject, s.ask, s.through, s.attachments, s.kind, s.sorted_out, o.id, o.received_at, o.subject
		FROM conversations c LEFT JOIN letters s ON s.id = c.speaker LEFT JOIN letters o ON o.id = c.opener WHERE c.id = ? AND +c.owner = ?`, conversation, tx.who.Inbox)
	if err != nil {
		return r, err
	}
	defer rows.Close()
	if !rows.Next() {
		return r, rows.Err()
	}
	var lastAt int64
	var speaker, opener struct {
		id, receivedAt, roundAt, attachments sql.NullInt64
		own, asks, sorted                    sql.NullBool
		name, email, subject, ask, through   sql.NullString
		kind                                 sql.NullString
	}
	if err := rows.Scan(&r.Letters, &r.Attachments, &r.Unsorted, &r.Last, &lastAt, &speaker.id, &speaker.receivedAt, &speaker.roundAt, &speaker.own, &speaker.asks,
		&speaker.name, &speaker.email, &speaker.subject, &speaker.ask, &speaker.through, &speaker.attachments, &speaker.kind, &speaker.sorted, &opener.id, &opener.receivedAt, &opener.subject); err != nil {
		return r, err
	}
	r.LastAt = fromMillis(lastAt)
	if speaker.id.Valid {
		r.Speaker = thread.Member{
			ID: speaker.id.Int64, Own: speaker.own.Bool, From: letter.Address{Name: speaker.name.String, Email: speaker.email.String}, Subject: speaker.subject.String,
			Ask: speaker.ask.String, Asks: speaker.asks.Bool, Attachments: int(speaker.attachments.Int64), ReceivedAt: fromMillis(speaker.receivedAt.Int64),
			Round: fromMillis(speaker.roundAt.Int64), Through: speaker.through.String, Kind: sorting.Kind(speaker.kind.String), Sorted: speaker.sorted.Bool,
		}
	}
	if opener.id.Valid { // of the opener only its subject and when it came matter
		r.Opener = thread.Member{ID: opener.id.Int64, ReceivedAt: fromMillis(opener.receivedAt.Int64), Subject: opener.subject.String}
	}
	return r, rows.Err()
}

// keepRow writes one row down; queue is its new place in the queue, zero to
// leave that.
func (tx *Tx) keepRow(id int64, r thread.Row, queue time.Time) error {
	var at any
	if !queue.IsZero() {
		at = millis(queue)
	}
	s := r.Speaker
	return tx.exec(`UPDATE conversations SET letters = ?, attachments = ?, last_letter = ?, last_at = ?, subject = ?, from_name = ?, from_email = ?, ask = ?, asks = ?,
		round_at = ?, through = ?, speaker = ?, opener = ?, kind = ?, unsorted = ?, queue_at = coalesce(?, queue_at) WHERE id = ? AND +owner = ?`,
		r.Letters, r.Attachments, r.Last, millis(r.LastAt), r.Opener.Subject, s.From.Name, s.From.Email, s.Ask, s.Asks,
		millis(s.Round), s.Through, s.ID, r.Opener.ID, s.Kind, r.Unsorted, at, id, tx.who.Inbox)
}

// keepRows writes rows down. Queued are the conversations whose place in the
// queue follows the letter that speaks, with the moment at which it was let in.
func (tx *Tx) keepRows(rows map[int64]thread.Row, queued map[int64]time.Time) error {
	if len(rows) <= fewValues {
		for id, r := range rows {
			if err := tx.keepRow(id, r, queued[id]); err != nil {
				return err
			}
		}
		return nil
	}
	if err := tx.execAll(
		`CREATE TEMP TABLE IF NOT EXISTS kept (id INTEGER PRIMARY KEY, letters, attachments, last_letter, last_at, subject, from_name, from_email, ask, asks,
			round_at, through, speaker, opener, kind, unsorted, queue_at)`,
		"DELETE FROM temp.kept",
	); err != nil {
		return err
	}
	kept := tx.bulk()
	for _, id := range slices.Sorted(maps.Keys(rows)) {
		var queue any
		if at, ok := queued[id]; ok {
			queue = millis(at)
		}
		r := rows[id]
		s := r.Speaker
		kept.add(id, r.Letters, r.Attachments, r.Last, millis(r.LastAt), r.Opener.Subject, s.From.Name, s.From.Email, s.Ask, s.Asks,
			millis(s.Round), s.Through, s.ID, r.Opener.ID, string(s.Kind), r.Unsorted, queue)
	}
	if err := kept.flush("INSERT INTO temp.kept VALUES ", ""); err != nil {
		return err
	}
	return tx.exec(`UPDATE conversations SET letters = k.letters, attachments = k.attachments, last_letter = k.last_letter, last_at = k.last_at, subject = k.subject,
		from_name = k.from_name, from_email = k.from_email, ask = k.ask, asks = k.asks, round_at = k.round_at, through = k.through,
		speaker = k.speaker, opener = k.opener, kind = k.kind, unsorted = k.unsorted, queue_at = coalesce(k.queue_at, conversations.queue_at)
		FROM temp.kept k WHERE conversations.id = k.id AND +conversations.owner = ?`, tx.who.Inbox)
}

// recompute reads the rows of conversations off their letters again, after
// letters have moved between them. One that no letter is left in keeps its row.
func (tx *Tx) recompute(conversations []int64) error {
	rows, err := tx.rowsOfLetters(conversations)
	if err != nil {
		return err
	}
	if err := tx.keepRows(rows, nil); err != nil {
		return err
	}
	about, err := tx.aboutLetters(conversations)
	if err != nil {
		return err
	}
	these := inNumbers("conversation_id", conversations)
	if _, err := gorm.G[conversationAccountRow](tx.few()).Where(these).Delete(tx.ctx()); err != nil {
		return err
	}
	if _, err := gorm.G[conversationPersonRow](tx.few()).Where(these).Delete(tx.ctx()); err != nil {
		return err
	}
	accounts, persons := tx.bulk(), tx.bulk()
	for id, a := range about {
		for _, account := range a.accounts {
			accounts.add(id, account, tx.who.Inbox)
		}
		for _, person := range a.persons {
			persons.add(id, person, tx.who.Inbox)
		}
	}
	if err := accounts.flush("INSERT INTO conversation_accounts (conversation_id, account_id, owner) VALUES ", ""); err != nil {
		return err
	}
	return persons.flush("INSERT INTO conversation_persons (conversation_id, person, owner) VALUES ", "")
}

// about are the accounts at which the letters of a conversation arrived, and
// the people in it besides its owner, each once and in order.
type about struct {
	accounts []int64
	persons  []string
}

func (tx *Tx) aboutLetters(conversations []int64) (map[int64]about, error) {
	out := map[int64]about{}
	own, err := tx.OwnAddresses()
	if err != nil {
		return nil, err
	}
	letters, err := tx.ThreadOf(conversations, slices.Sorted(maps.Keys(own)))
	if err != nil {
		return nil, err
	}
	for _, l := range letters {
		a := out[l.Conversation]
		a.persons = append(a.persons, l.Persons...)
		out[l.Conversation] = a
	}
	arrived, err := all[struct{ ConversationID, AccountID int64 }](tx.db.Raw(`SELECT DISTINCT l.conversation_id, a.account_id FROM letters l JOIN arrivals a ON a.letter_id = l.id
		WHERE +l.owner = ? AND l.conversation_id IN (SELECT value FROM json_each(?)) AND l.in_at IS NOT NULL AND a.state = 'in' AND a.account_id IS NOT NULL
		ORDER BY 1, 2`, tx.who.Inbox, jsonIDs(conversations)))
	for _, r := range arrived {
		a := out[r.ConversationID]
		a.accounts = append(a.accounts, r.AccountID)
		out[r.ConversationID] = a
	}
	for id, a := range out {
		slices.Sort(a.persons)
		a.persons = slices.Compact(a.persons)
		out[id] = a
	}
	return out, err
}

// keptAbout is what is kept of them.
func (tx *Tx) keptAbout(conversations []int64) (map[int64]about, error) {
	out := map[int64]about{}
	rows, err := all[struct {
		ConversationID, AccountID int64
		Person                    string
	}](tx.db.Raw(`SELECT conversation_id, account_id, '' AS person FROM conversation_accounts WHERE +owner = ?1 AND conversation_id IN (SELECT value FROM json_each(?2))
		UNION ALL SELECT conversation_id, 0, person FROM conversation_persons WHERE +owner = ?1 AND conversation_id IN (SELECT value FROM json_each(?2)) ORDER BY 1, 2, 3`,
		tx.who.Inbox, jsonIDs(conversations)))
	for _, r := range rows {
		a := out[r.ConversationID]
		if r.Person == "" {
			a.accounts = append(a.accounts, r.AccountID)
		} else {
			a.persons = append(a.persons, r.Person)
		}
		out[r.ConversationID] = a
	}
	return out, err
}

// differingAbout lists conversations of which other accounts or people are kept
// than their letters say. An own address that came or went since is neither.
func (tx *Tx) differingAbout(conversations []int64) (wrong []string, err error) {
	kept, err := tx.keptAbout(conversations)
	if err != nil {
		return nil, err
	}
	told, err := tx.aboutLetters(conversations)
	if err != nil {
		return nil, err
	}
	own, err := pluck[string](tx.ctx(), gorm.G[ownAddressRow](tx.db).Where("true"), "address")
	if err != nil {
		return nil, err
	}
	others := func(persons []string) []string {
		return slices.DeleteFunc(slices.Clone(persons), func(p string) bool { return slices.Contains(own, p) })
	}
	for _, id := range conversations {
		if k, t := kept[id], told[id]; !slices.Equal(k.accounts, t.accounts) {
			wrong = append(wrong, fmt.Sprintf("the accounts in the row of conversation %d are not those of its letters: %v, not %v", id, k.accounts, t.accounts))
		} else if !slices.Equal(others(k.persons), others(t.persons)) {
			wrong = append(wrong, fmt.Sprintf("the people of conversation %d are not those of its letters: %q, not %q", id, k.persons, t.persons))
		}
	}
	return wrong, nil
}

// checkedAtOnce is how many conversations are compared with their letters at
// once.
const checkedAtOnce = 1000

// differingRows lists conversations whose rows are not what their letters say.
func (tx *Tx) differingRows() (wrong []string, err error) {
	for last := int64(0); ; {
		kept, err := all[struct {
			ID, Owner, LastLetter, LastAt, RoundAt, Speaker, Opener int64
			Letters, Attachments, Unsorted                          int
			Kind                                                    sorting.Kind
			Subject, FromName, FromEmail, Ask, Through              string
			Asks                                                    bool
		}](tx.db.Raw(`SELECT id, owner, letters, attachments, unsorted, kind, last_letter, last_at, round_at, speaker, opener, subject, from_name, from_email, ask, through, asks
			FROM conversations WHERE id > ? AND letters > 0 AND place <> '' ORDER BY id LIMIT ?`, last, checkedAtOnce))
		if err != nil || len(kept) == 0 {
			return wrong, err
		}
		ids := map[int64][]int64{}
		for _, k := range kept {
			ids[k.Owner] = append(ids[k.Owner], k.ID)
		}
		told := map[int64]thread.Row{}
		for _, owner := range slices.Sorted(maps.Keys(ids)) {
			theirs := tx.at(owner)
			rows, err := theirs.rowsOfLetters(ids[owner])
			if err != nil {
				return wrong, err
			}
			maps.Copy(told, rows)
			more, err := theirs.differingAbout(ids[owner])
			if err != nil {
				return wrong, err
			}
			wrong = append(wrong, more...)
		}
		for _, k := range kept {
			last = k.ID
			r := told[k.ID]
			s := r.Speaker
			for _, c := range []struct {
				what      string
				kept, own any
			}{
				{"number of letters", k.Letters, r.Letters}, {"number of attachments", k.Attachments, r.Attachments}, {"last letter", k.LastLetter, r.Last}, {"time", k.LastAt, millis(r.LastAt)},
				{"subject", k.Subject, r.Opener.Subject}, {"sender", k.FromName + "<" + k.FromEmail, s.From.Name + "<" + s.From.Email}, {"ask", k.Ask, s.Ask}, {"asking", k.Asks, s.Asks},
				{"round", k.RoundAt, millis(s.Round)}, {"reason", k.Through, s.Through}, {"speaker", k.Speaker, s.ID}, {"opener", k.Opener, r.Opener.ID},
				{"kind", k.Kind, s.Kind}, {"number of letters that are not sorted out", k.Unsorted, r.Unsorted},
			} {
				if c.kept != c.own {
					wrong = append(wrong, fmt.Sprintf("the %s in the row of conversation %d is not what its letters say: “%v”, not “%v”", c.what, k.ID, c.kept, c.own))
				}
			}
		}
	}
}
