package store

import (
	"maps"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Undone is a letter of a backlog, to be decided on.
type Undone struct {
	backlog.Letter
	Seen
	Title string
}

// Backlog are all undecided conversations of the inbox, the newest first. today is 2006-01-02.
//
// By hand: thousands at once, with their versions.
func (tx *Tx) Backlog(today string) ([]Undone, error) {
	rows, err := tx.query(`SELECT c.id, c.last_letter, `+versionColumn+`, coalesce(nullif(c.working_title, ''), c.subject), l.from_name, l.from_email, l.list_id, l.automatic, c.kind, c.last_at,
			coalesce(m.star, 0), c.asks, l.due >= ?
		FROM conversations c JOIN letters l ON l.id = c.speaker`+marksOf+`WHERE c.owner = ? AND c.place = 'inbox' ORDER BY c.last_at DESC, c.id DESC`, today, tx.who.Person, tx.who.Inbox)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Undone
	senders := map[string]bool{}
	for rows.Next() {
		var u Undone
		var version, at int64
		var email string
		var automatic letter.Automatic
		var kind sorting.Kind
		if err := rows.Scan(&u.Seen.ID, &u.Last, &version, &u.Title, &u.Name, &email, &u.List, &automatic, &kind, &at, &u.Starred, &u.Asks, &u.Ahead); err != nil {
			return nil, err
		}
		_, sorted := kind.About()
		u.Letter.ID, u.Version, u.At = u.Seen.ID, &version, fromMillis(at)
		u.Sender, u.Machine = letter.Address{Email: email}.Key(), automatic.Is() || sorted
		senders[u.Sender] = true
		out = append(out, u)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	known, err := tx.writtenTo(slices.Collect(maps.Keys(senders)))
	for i, u := range out {
		out[i].Asks = u.Asks && !u.Machine && known[u.Sender]
	}
	return out, err
}

// DecidedOf counts the conversations that came by a time and have left the inbox since another.
//
// By hand: along the index of what moved.
func (tx *Tx) DecidedOf(came, since time.Time) (n int, err error) {
	return n, tx.db.Raw(`SELECT count(DISTINCT h.conversation_id) FROM place_history h JOIN conversations c ON c.id = h.conversation_id
		WHERE h.owner = ? AND h.at >= ? AND h.was = ? AND c.place <> ? AND c.last_at <= ?`, tx.who.Inbox, millis(since), decide.Inbox, decide.Inbox, millis(came)).Scan(&n).Error
}
