package store

import (
	"context"
	"errors"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/schedule"
)

// dueQueries find, for each kind of event, the one that comes first. Each is
// answered from the top of an index.
var dueQueries = []struct {
	kind  schedule.Kind
	query string
}{
	{schedule.Delivery, "SELECT id AS owner, id, deliver_at AS due FROM people WHERE deliver_at IS NOT NULL ORDER BY deliver_at, id LIMIT 1"},
	{schedule.Limit, "SELECT owner, id, until_at AS due FROM expectations WHERE alive = 1 AND state = 'open' AND late = 0 AND until_at IS NOT NULL ORDER BY until_at, id LIMIT 1"},
	{schedule.Return, "SELECT owner, conversation_id AS id, due FROM returns WHERE waits = 0 AND due IS NOT NULL ORDER BY due, conversation_id LIMIT 1"},
	{schedule.Reminder, "SELECT owner, id, at AS due FROM reminders WHERE alive = 1 AND state = 'set' AND at IS NOT NULL ORDER BY at, id LIMIT 1"},
	{schedule.Look, "SELECT id AS owner, id, coalesce(look_at, 0) AS due FROM people WHERE look_count > 0 ORDER BY due, id LIMIT 1"},
	{schedule.Alarm, "SELECT owner, id, start_at - remind * 60000 AS due FROM appointments WHERE alive = 1 AND cancelled = 0 AND remind >= 0 AND remind_state = 'set' ORDER BY start_at - remind * 60000 LIMIT 1"},
	{schedule.Send, "SELECT owner, id, send_at AS due FROM outbox WHERE state IN ('waiting', 'sending') ORDER BY send_at, id LIMIT 1"},
	{schedule.Post, "SELECT 0 AS owner, id, due FROM post_bag WHERE taken = 0 ORDER BY due, id LIMIT 1"},
}

// NextDue is what falls due first, whoever's it is. A system query.
func (s *Store) NextDue(ctx context.Context) (schedule.Event, bool, error) {
	var events []schedule.Event
	tx := &Tx{db: s.writer.WithContext(ctx)}
	for _, q := range dueQueries {
		owner, id, due, err := tx.first(q.query)
		if err != nil {
			return schedule.Event{}, false, err
		}
		if id != 0 {
			events = append(events, schedule.Event{Kind: q.kind, Owner: owner, ID: id, Due: fromMillis(due)})
		}
	}
	owner, id, since, err := tx.first(`SELECT c.owner, c.id, c.place_since FROM people p
		JOIN conversations c ON c.owner = p.id AND c.place = 'bin' WHERE NOT EXISTS (` + openFollowUp + `)
		ORDER BY c.place_since, c.id LIMIT 1`)
	if err != nil {
		return schedule.Event{}, false, err
	}
	if id != 0 {
		events = append(events, schedule.Event{Kind: schedule.Purge, Owner: owner, ID: id, Due: fromMillis(since).AddDate(0, 0, decide.BinDays)})
	}
	first, ok := schedule.First(events)
	return first, ok, nil
}

// first is the first row of a query of three numbers; zeros if there is none.
func (tx *Tx) first(query string) (a, b, c int64, err error) {
	rows, err := tx.query(query)
	if err != nil {
		return 0, 0, 0, err
	}
	defer rows.Close()
	if rows.Next() {
		err = rows.Scan(&a, &b, &c)
	}
	return a, b, c, errors.Join(err, rows.Err())
}

// openFollowUp keeps a binned letter from being purged.
const openFollowUp = `SELECT 1 FROM letters l JOIN followup_letters x ON x.letter_id = l.id JOIN followups f ON f.id = x.followup_id
	WHERE l.conversation_id = c.id AND f.alive = 1 AND f.status NOT IN ('done', 'dropped')`

// Await leaves a return of day precision, which came due under a hold, to the
// next delivery.
func (tx *Tx) Await(conversation int64) error {
	return tx.exec("UPDATE returns SET waits = 1 WHERE owner = ? AND conversation_id = ?", tx.owner, conversation)
}

// Awaiting lists the returns that the next delivery brings, in due order.
func (tx *Tx) Awaiting() ([]int64, error) {
	return all[int64](tx.db.Raw("SELECT conversation_id FROM returns WHERE owner = ? AND waits = 1 ORDER BY due, conversation_id", tx.owner))
}

// Purge removes a binned conversation for good. Follow-ups that came from its
// letters keep what their links hold. It says whether there was anything to
// remove.
func (tx *Tx) Purge(conversation int64) error {
	for _, step := range []string{
		"UPDATE followup_letters SET purged = 1 WHERE owner = ?1 AND letter_id IN (SELECT id FROM letters WHERE conversation_id = ?2)",
		"UPDATE expectations SET alive = 0 WHERE owner = ?1 AND conversation_id = ?2",
		"DELETE FROM letters_text WHERE rowid IN (SELECT row_key FROM letters WHERE owner = ?1 AND conversation_id = ?2)",
		`DELETE FROM blobs WHERE owner = ?1
			AND sha IN (SELECT a.sha FROM arrivals a JOIN letters l ON l.id = a.letter_id WHERE l.conversation_id = ?2 UNION SELECT sha FROM letters WHERE conversation_id = ?2)
			AND sha NOT IN (SELECT sha FROM outbox WHERE owner = ?1 AND state <> 'sent')`, // the same bytes are the same letter; only the outbox shares them
		"DELETE FROM letters WHERE owner = ?1 AND conversation_id = ?2",
		"DELETE FROM conversations WHERE owner = ?1 AND id = ?2",
	} {
		if err := tx.exec(step, tx.owner, conversation); err != nil {
			return err
		}
	}
	return nil
}
