package store

import (
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/core/when"
)

// CountReturnsBetween counts the conversations that come back in [from, to).
func (tx *Tx) CountReturnsBetween(from, to time.Time) (int, error) {
	n, err := tx.returnsDue(from, to).Count(tx.ctx(), "*")
	return int(n), err
}

func (tx *Tx) returnsDue(from, to time.Time) gorm.ChainInterface[returnRow] {
	return gorm.G[returnRow](tx.db).Where("due >= ? AND due < ?", at(from), at(to))
}

// Tasks lists the open follow-ups due before an instant as far as the load of
// days goes.
//
// By hand: thousands of rows, each due of the same words decoded once.
func (tx *Tx) Tasks(before time.Time, c when.Calendar) ([]load.Task, error) {
	rows, err := tx.query("SELECT f.id, "+dueColumns+", f.estimate FROM followups f WHERE f.owner = ? AND f.alive = 1 AND f.done_at IS NULL AND f.due_at < ?", tx.who.Inbox, millis(before))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []load.Task
	at, dues := map[int64]int{}, dueReader{}
	for rows.Next() {
		var id int64
		var dueAt *int64
		var due *string
		var estimate int
		if err := rows.Scan(&id, &dueAt, &due, &estimate); err != nil {
			return nil, err
		}
		t := load.Task{Estimate: time.Duration(estimate) * time.Minute}
		if m := dues.moment(dueAt, due); m != nil {
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
//
// By hand: a join of three tables that have no other business together.
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
	return times(pluck[stamp](tx.ctx(), tx.ownDecisions().Where("at >= ?", at(since)).Order("at"), "at"))
}

// Tally is what happened in the quarter of an hour that begins At: letters
// from others came, conversations entered the inbox by them, and left it.
type Tally struct {
	At                  time.Time
	Came, Entered, Gone int
}

// Tallies lists what happened in [from, to).
//
// By hand: weeks in which something happened in every quarter of an hour are five
// thousand rows.
func (tx *Tx) Tallies(from, to time.Time) ([]Tally, error) {
	rows, err := tx.numbers("quarter, came, entered, gone", "(SELECT quarter, came, entered, gone FROM tallies WHERE owner = ? AND quarter >= ? AND quarter < ? ORDER BY quarter)",
		tx.who.Inbox, millis(from)/quarterMillis, millis(to)/quarterMillis)
	out := make([]Tally, len(rows))
	for i, r := range rows {
		out[i] = Tally{At: fromMillis(r[0] * quarterMillis), Came: int(r[1]), Entered: int(r[2]), Gone: int(r[3])}
	}
	return out, err
}

// ReturnTimes gives when conversations come back in [from, to), in order.
func (tx *Tx) ReturnTimes(from, to time.Time) ([]review.Returning, error) {
	rows, err := tx.returnsDue(from, to).Select("due", "precise").Order("due").Find(tx.ctx())
	out := make([]review.Returning, len(rows))
	for i, r := range rows {
		out[i] = review.Returning{At: r.Due.Time, Exact: r.Precise}
	}
	return out, err
}
