// By hand: what a day or a year comes to is grouped by SQLite before it is read, along an index of
// times each.

package store

import (
	"database/sql"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/review"
)

// Passed is what happened within [from, to), for the account of it.
func (tx *Tx) Passed(from, to time.Time) (review.Passed, error) {
	out, err := tx.PassedPlainly(from, to)
	if err != nil {
		return out, err
	}
	return out, tx.decidedIn(from, to, &out)
}

// PassedPlainly is the same without when each decision was taken, which accounts of several days don't say.
func (tx *Tx) PassedPlainly(from, to time.Time) (out review.Passed, err error) {
	for _, read := range []func(from, to time.Time, out *review.Passed) error{tx.cameIn, tx.movedIn, tx.putOffIn, tx.wroteIn, tx.waitedIn} {
		if err := read(from, to, &out); err != nil {
			return out, err
		}
	}
	return out, nil
}

// cameIn reads the letters that were let in, and those that got in at once.
func (tx *Tx) cameIn(from, to time.Time, out *review.Passed) error {
	err := tx.eachRow(func(rows *sql.Rows) error {
		var in, round int64
		var c review.Came
		if err := rows.Scan(&in, &round, &c.Through, &c.Sorted, &c.Kind, &c.N); err != nil {
			return err
		}
		c.At, c.Round = fromMillis(in), fromMillis(round)
		out.Came = append(out.Came, c)
		if how := c.How(); how == review.AtOnce || how == review.LetThrough {
			out.Broke = append(out.Broke, c.At)
		}
		return nil
	}, `SELECT in_at, round_at, through <> '', sorted_out, kind, count(*) FROM letters
		WHERE owner = ? AND own = 0 AND quietly = 0 AND in_at >= ? AND in_at < ? GROUP BY 1, 2, 3, 4, 5 ORDER BY 1`, tx.who.Inbox, millis(from), millis(to))
	if err != nil {
		return err
	}
	purged, err := all[purgedRow](tx.db.Raw("SELECT * FROM purged WHERE owner = ? AND quarter >= ? AND quarter < ?", tx.who.Inbox, millis(from)/quarterMillis, (millis(to)+quarterMillis-1)/quarterMillis))
	for _, r := range purged {
		out.Came = append(out.Came, review.Came{At: fromMillis(r.Quarter * quarterMillis), Purged: true, N: r.Letters})
	}
	slices.SortStableFunc(out.Came, func(a, b review.Came) int { return a.At.Compare(b.At) })
	return err
}

// movedIn reads the moves of what was there before, with the steps that made them.
func (tx *Tx) movedIn(from, to time.Time, out *review.Passed) error {
	return tx.eachRow(func(rows *sql.Rows) error {
		var minute int64
		var m review.Moved
		if err := rows.Scan(&minute, &m.Was, &m.Now, &m.Step, &m.ByHand, &m.Mine, &m.Stands, &m.N); err != nil {
			return err
		}
		m.At = fromMillis(max(minute*minuteMillis, millis(from)))
		out.Moved = append(out.Moved, m)
		return nil
	}, `SELECT h.at / ?4, h.was, h.now, j.kind, j.actor = 'person', j.actor = 'person' AND j.person = ?5, j.undo_of IS NULL AND j.undone_by IS NULL, count(*)
		FROM place_history h JOIN journal j ON j.id = h.journal_id WHERE h.owner = ?1 AND h.at >= ?2 AND h.at < ?3 AND h.was <> ?6 GROUP BY 1, 2, 3, 4, 5, 6, 7 ORDER BY 1`,
		tx.who.Inbox, millis(from), millis(to), minuteMillis, tx.who.Person, decide.Nowhere)
}

func (tx *Tx) decidedIn(from, to time.Time, out *review.Passed) (err error) {
	rows, err := tx.numbers("at", `(SELECT at FROM journal WHERE owner = ? AND at >= ? AND at < ? AND person = ? AND actor = 'person' AND kind LIKE 'decide:%'
		AND undo_of IS NULL AND undone_by IS NULL ORDER BY at, id)`, tx.who.Inbox, millis(from), millis(to), tx.who.Person)
	for _, r := range rows {
		out.Decisions = append(out.Decisions, fromMillis(r[0]))
	}
	return err
}

// putOffIn reads the put-offs that stand.
func (tx *Tx) putOffIn(from, to time.Time, out *review.Passed) error {
	rows, err := all[struct {
		At           stamp
		Conversation int64
		Times        int
	}](tx.db.Raw(`SELECT j.at, c.object_id AS conversation, CAST(c.now AS INTEGER) AS times FROM journal j
			JOIN changes c ON c.journal_id = j.id AND c.object = 'conversation' AND c.field = 'putOffs'
		WHERE j.owner = ? AND j.at >= ? AND j.at < ? AND j.actor = 'person' AND j.person = ? AND j.kind = ? AND j.undo_of IS NULL AND j.undone_by IS NULL AND CAST(c.now AS INTEGER) > CAST(c.was AS INTEGER)
		ORDER BY j.at, j.id, c.id`, tx.who.Inbox, millis(from), millis(to), tx.who.Person, "decide:"+string(decide.PutOff)))
	for _, r := range rows {
		out.PutOffs = append(out.PutOffs, review.PutOff{At: r.At.Time, Conversation: r.Conversation, Times: r.Times})
	}
	return err
}

// wroteIn reads the letters that were written or let in, with those before them.
func (tx *Tx) wroteIn(from, to time.Time, out *review.Passed) error {
	const before = ` JOIN letters p ON p.id = (SELECT q.id FROM letters q WHERE q.conversation_id = l.conversation_id AND (q.received_at, q.id) < (l.received_at, l.id)
			ORDER BY q.received_at DESC, q.id DESC LIMIT 1)`
	rows, err := tx.numbers("at, wait, own, before_own, machine", `(SELECT l.received_at AS at, l.received_at - p.received_at AS wait, l.own, p.own AS before_own, l.automatic <> '' OR p.automatic <> '' AS machine
			FROM letters l`+before+` WHERE l.owner = ?1 AND l.own = 1 AND l.quietly = 0 AND l.received_at >= ?2 AND l.received_at < ?3
		UNION ALL SELECT l.in_at, l.received_at - p.received_at, l.own, p.own, l.automatic <> '' OR p.automatic <> ''
			FROM letters l`+before+` WHERE l.owner = ?1 AND l.own = 0 AND l.quietly = 0 AND l.in_at >= ?2 AND l.in_at < ?3 AND p.own = 1 ORDER BY 1)`,
		tx.who.Inbox, millis(from), millis(to))
	for _, r := range rows {
		out.Exchanges = append(out.Exchanges, review.Exchange{At: fromMillis(r[0]), Wait: time.Duration(r[1]) * time.Millisecond, Own: r[2] != 0, BeforeOwn: r[3] != 0, Machine: r[4] != 0})
	}
	return err
}

// waitedIn reads when letters arrived that the gate held. They are found by their rows of the full-text
// index, which are numbered by the times of arrival: an index that begins with the owner would be gone
// through whole.
func (tx *Tx) waitedIn(from, to time.Time, out *review.Passed) error {
	rows, err := tx.numbers("received_at", `(SELECT received_at FROM letters
		WHERE row_key >= ? AND row_key < ? AND +owner = ? AND own = 0 AND quietly = 0 AND through = '' AND (in_at IS NULL OR round_at <> 0) AND received_at >= ? AND received_at < ? ORDER BY received_at)`,
		rowKey(from), rowKey(to.Add(time.Second)), tx.who.Inbox, millis(from), millis(to))
	for _, r := range rows {
		out.Waited = append(out.Waited, fromMillis(r[0]))
	}
	return err
}

// LongWaiting are the conversations that waited at that time for an answer of the person, of those in
// the inbox and put off: the last letter asks. The one that waits longest is first. Of the moves since
// then, those of conversations that began later are left out at once: they are the most.
func (tx *Tx) LongWaiting(until time.Time, most int) ([]LongWait, error) {
	return all[LongWait](tx.db.Raw(`WITH there AS (SELECT id FROM conversations c WHERE owner = ?1 AND place IN (?4, ?5)
				AND NOT EXISTS (SELECT 1 FROM place_history o WHERE o.conversation_id = c.id AND o.at >= ?2)
			UNION SELECT conversation_id FROM place_history h WHERE owner = ?1 AND at >= ?2 AND was IN (?4, ?5)
				AND conversation_id <= (SELECT max(conversation_id) FROM place_history WHERE owner = ?1 AND at < ?2)
				AND NOT EXISTS (SELECT 1 FROM place_history o WHERE o.conversation_id = h.conversation_id AND o.at >= ?2 AND (o.at, o.id) < (h.at, h.id)))
		SELECT l.conversation_id AS conversation, l.from_name AS name, l.from_email AS email, l.ask, l.subject, l.received_at AS since FROM there t
			JOIN letters l ON l.id = (SELECT q.id FROM letters q WHERE q.conversation_id = t.id AND coalesce(q.in_at, q.received_at) < ?2 ORDER BY q.received_at DESC, q.id DESC LIMIT 1)
		WHERE l.own = 0 AND l.asks = 1 ORDER BY l.received_at, l.id LIMIT ?3`, tx.who.Inbox, millis(until), most, decide.Inbox, decide.Later))
}

// LongWait is a conversation that waits for an answer.
type LongWait struct {
	Conversation              int64
	Name, Email, Ask, Subject string
	Since                     stamp
}

// SentBy counts the letters that were sent by themselves within [from, to), by what they are.
func (tx *Tx) SentBy(from, to time.Time) (map[string]int, error) {
	rows, err := all[struct {
		Kind string
		N    int
	}](tx.db.Raw("SELECT auto_kind AS kind, count(*) AS n FROM outbox WHERE owner = ? AND auto_kind <> '' AND state = 'sent' AND send_at >= ? AND send_at < ? GROUP BY 1", tx.who.Inbox, millis(from), millis(to)))
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.Kind] = r.N
	}
	return out, err
}

// ByTheClock counts what fell due within [from, to), by kind.
func (tx *Tx) ByTheClock(from, to time.Time) (map[string]int, error) {
	rows, err := all[struct {
		Kind string
		N    int
	}](tx.db.Raw("SELECT kind, count(*) AS n FROM journal WHERE owner = ? AND at >= ? AND at < ? AND actor = 'clock' AND undone_by IS NULL GROUP BY 1", tx.who.Inbox, millis(from), millis(to)))
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.Kind] = r.N
	}
	return out, err
}

// Began is when somebody first did something in the inbox; zero where nobody has.
func (tx *Tx) Began() (time.Time, error) {
	list, err := times(all[stamp](tx.db.Raw("SELECT at FROM journal WHERE owner = ? AND actor = 'person' ORDER BY at LIMIT 1", tx.who.Inbox)))
	if err != nil || len(list) == 0 {
		return time.Time{}, err
	}
	return list[0], nil
}
