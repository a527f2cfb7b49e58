package store

import (
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Grouped is a conversation as far as grouping goes.
type Grouped struct {
	Seen
	group.Member
	Star, Unread bool
}

// Grouping are all conversations of a place, in the order of its queue.
func (tx *Tx) Grouping(place decide.Place, account int64) ([]Grouped, error) {
	where, args := tx.queued(place, account)
	return tx.grouping(where+inQueue, args...)
}

const inQueue = " ORDER BY c.back_rank DESC, c.queue_at DESC, c.id DESC"

// queued is a condition: that conversations are in a place, and in an account if one is meant.
func (tx *Tx) queued(place decide.Place, account int64) (where string, args []any) {
	where, args = "c.owner = ? AND "+is("c.place", place), []any{tx.who.Inbox}
	if account != 0 {
		where += " AND EXISTS (SELECT 1 FROM conversation_accounts a WHERE a.conversation_id = c.id AND a.account_id = ?)"
		args = append(args, account)
	}
	return where, args
}

// Queue are the conversations of a place in the order of its queue: only those that are starred, and those
// of a kind, if these are meant.
//
// By hand: ten thousand ids, along the index of the queue alone.
func (tx *Tx) Queue(place decide.Place, account int64, starred bool, kind sorting.Kind) ([]int64, error) {
	where, args := tx.queued(place, account)
	from := "conversations c WHERE "
	if starred {
		from, args = "conversations c"+marksOf+"WHERE m.star = 1 AND ", append([]any{tx.who.Person}, args...)
	}
	if kind != "" {
		where, args = where+" AND c.kind = ?", append(args, kind)
	}
	rows, err := tx.numbers("id", "(SELECT c.id FROM "+from+where+inQueue+")", args...)
	out := make([]int64, len(rows))
	for i, r := range rows {
		out[i] = r[0]
	}
	return out, err
}

// GroupingOf are some conversations, the newest first.
func (tx *Tx) GroupingOf(conversations []int64) ([]Grouped, error) {
	return tx.grouping("+c.owner = ? AND c.id IN (SELECT value FROM json_each(?)) ORDER BY c.last_at DESC, c.id DESC", tx.who.Inbox, jsonIDs(conversations))
}

// grouping reads conversations as far as grouping goes.
//
// By hand: ten thousand at once, with their versions.
func (tx *Tx) grouping(where string, args ...any) ([]Grouped, error) {
	query := `SELECT c.id, c.last_letter, ` + versionColumn + `, c.from_name, c.from_email, c.bare_subject, coalesce(nullif(c.working_title, ''), c.subject), c.kind, c.last_at,
			coalesce(m.star, 0), max(coalesce(m.seen, 0), c.decided) < c.last_letter,
			coalesce((SELECT min(label) FROM conversation_labels l WHERE l.conversation_id = c.id), ''),
			coalesce((SELECT n.label FROM conversation_accounts a JOIN accounts n ON n.id = a.account_id WHERE a.conversation_id = c.id ORDER BY n.position, n.id LIMIT 1), '')
		FROM conversations c` + marksOf + "WHERE " + where
	rows, err := tx.query(query, append([]any{tx.who.Person}, args...)...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Grouped
	for rows.Next() {
		var g Grouped
		var version, at int64
		var bare, title, kind string
		if err := rows.Scan(&g.ID, &g.Last, &version, &g.From.Name, &g.From.Email, &bare, &title, &kind, &at, &g.Star, &g.Unread, &g.Label, &g.Account); err != nil {
			return nil, err
		}
		g.Version, g.Kind, g.At = &version, sorting.Kind(kind), fromMillis(at)
		if g.Subject = letter.BareSubject(title); g.Subject == "" {
			g.Subject = bare
		}
		out = append(out, g)
	}
	return out, rows.Err()
}
