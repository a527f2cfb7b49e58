package store

import (
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
)

// CountReturnsBetween counts the conversations that come back in [from, to).
func (tx *Tx) CountReturnsBetween(from, to time.Time) (n int, err error) {
	err = tx.db.Raw("SELECT count(*) FROM returns WHERE owner = ? AND due >= ? AND due < ?", tx.who.Inbox, millis(from), millis(to)).Row().Scan(&n)
	return n, err
}

// Tasks lists the open follow-ups due before an instant as far as the load of
// days goes.
func (tx *Tx) Tasks(before time.Time, c when.Calendar) ([]load.Task, error) {
	rows, err := tx.query("SELECT f.id, "+dueColumns+", f.estimate FROM followups f WHERE f.owner = ? AND f.alive = 1 AND f.done_at IS NULL AND f.due_at < ?", tx.who.Inbox, millis(before))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []load.Task
	at := map[int64]int{}
	for rows.Next() {
		var id int64
		var due dueScan
		var estimate int
		if err := rows.Scan(&id, &due.at, &due.precision, &due.wall, &estimate); err != nil {
			return nil, err
		}
		t := load.Task{Estimate: time.Duration(estimate) * time.Minute}
		if m := due.moment(); m != nil {
			t.Due = *m
		}
		at[id] = len(out)
		out = append(out, t)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	return out, tx.countTogether(out, at, before, c)
}

// countTogether finds the conversations that come back on the day on which a
// follow-up from them is due, each for one follow-up only.
func (tx *Tx) countTogether(tasks []load.Task, at map[int64]int, before time.Time, c when.Calendar) error {
	pairs, err := all[struct{ FollowupID, ConversationID, Due int64 }](tx.db.Raw(`SELECT DISTINCT x.followup_id, r.conversation_id, r.due
		FROM returns r JOIN letters l ON l.conversation_id = r.conversation_id JOIN followup_letters x ON x.letter_id = l.id
		WHERE r.owner = ? AND r.due < ? ORDER BY x.followup_id LIMIT ?`, tx.who.Inbox, millis(before), mostPairs))
	if err != nil {
		return err
	}
	counted := map[int64]bool{}
	for _, p := range pairs {
		i, ok := at[p.FollowupID]
		if ok && !counted[p.ConversationID] && tasks[i].Due.Day(c) == c.Today(fromMillis(p.Due)) {
			counted[p.ConversationID] = true
			tasks[i].Returns++
		}
	}
	return nil
}

// mostPairs bounds what is looked through for letters counted twice.
const mostPairs = 5000

// DecisionTimes gives when the person decided since an instant, in order.
func (tx *Tx) DecisionTimes(since time.Time) ([]time.Time, error) {
	at, err := all[int64](tx.db.Raw(`SELECT at FROM journal WHERE owner = ? AND at >= ? AND person = ? AND actor = 'person' AND kind LIKE 'decide:%' ORDER BY at`, tx.who.Inbox, millis(since), tx.who.Person))
	out := make([]time.Time, len(at))
	for i, ms := range at {
		out[i] = fromMillis(ms)
	}
	return out, err
}

// Tally is what happened in the quarter of an hour that begins At: letters
// from others came, conversations entered the inbox by them, and left it.
type Tally struct {
	At                  time.Time
	Came, Entered, Gone int
}

// Tallies lists what happened in [from, to).
func (tx *Tx) Tallies(from, to time.Time) ([]Tally, error) {
	quarter := review.Quarter.Milliseconds()
	rows, err := tx.query("SELECT quarter, came, entered, gone FROM tallies WHERE owner = ? AND quarter >= ? AND quarter < ?", tx.who.Inbox, millis(from)/quarter, millis(to)/quarter)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Tally
	for rows.Next() {
		var at int64
		var t Tally
		if err := rows.Scan(&at, &t.Came, &t.Entered, &t.Gone); err != nil {
			return nil, err
		}
		t.At = fromMillis(at * quarter)
		out = append(out, t)
	}
	return out, rows.Err()
}

// ReturnTimes gives when conversations come back in [from, to), in order.
func (tx *Tx) ReturnTimes(from, to time.Time) ([]review.Returning, error) {
	rows, err := all[struct {
		Due     int64
		Precise bool
	}](tx.db.Raw("SELECT due, precise FROM returns WHERE owner = ? AND due >= ? AND due < ? ORDER BY due", tx.who.Inbox, millis(from), millis(to)))
	out := make([]review.Returning, len(rows))
	for i, r := range rows {
		out[i] = review.Returning{At: fromMillis(r.Due), Exact: r.Precise}
	}
	return out, err
}
