// By hand: where events stand is said by a table of queries, each answered from the top of
// an index.

package store

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/core/sending"
)

// dueQuery says where events of a kind stand: their owner, id and due columns,
// and the condition that one is to happen at all. The first is answered from
// the top of an index.
type dueQuery struct{ owner, id, due, from, where string }

var dueQueries = map[schedule.Kind]dueQuery{
	schedule.Delivery: {"id", "id", "deliver_at", "people", "deliver_at IS NOT NULL"},
	schedule.Limit:    {"owner", "id", "until_at", "expectations", "alive = 1 AND state = 'open' AND late = 0 AND until_at IS NOT NULL"},
	schedule.Return:   {"owner", "conversation_id", "due", "returns", "waits = 0 AND due IS NOT NULL"},
	schedule.Reminder: {"owner", "id", "at", "reminders", "alive = 1 AND state = 'set' AND at IS NOT NULL"},
	schedule.Look:     {"id", "id", "coalesce(look_at, 0)", "people", "look_count > 0"},
	schedule.Alarm:    {"owner", "id", "start_at - remind * 60000", "appointments", "alive = 1 AND cancelled = 0 AND remind >= 0 AND remind_state = 'set'"},
	schedule.Send:     {"owner", "id", "send_at", "outbox", among("state", sending.UnderWay)},
	schedule.Post:     {"0", "id", "due", "post_bag", "taken = 0"},
	// A binned letter falls due a fixed time after it was binned.
	schedule.Purge:   {"owner", "id", "place_since", "(SELECT c.* FROM people p JOIN conversations c ON c.owner = p.id AND c.place = 'bin')", "NOT EXISTS (" + openFollowUp + ")"},
	schedule.Series:  {"owner", "id", "extend_at", "series", "alive = 1 AND extend_at IS NOT NULL"},
	schedule.Surface: {"id", "id", "surface_at", "people", "surface_at IS NOT NULL"},
	schedule.LetIn:   {"owner", "id", "received_at", "letters", "in_at IS NULL AND conversation_id IS NULL"},
}

// NextDue is what falls due first, whoever's it is, but for events that are
// stuck and for letters that are just being sent. A system query. Where the
// events of one kind can't be looked for, the others still are: next is then
// given along with the error.
func (s *Store) NextDue(ctx context.Context, sending []int64) (next schedule.Event, ok bool, err error) {
	var events []schedule.Event
	var errs []error
	for kind := range schedule.LetIn { // that one falls due only by having failed
		found, err := s.due(ctx, kind, "AND NOT EXISTS (SELECT 1 FROM stuck WHERE kind = ?1 AND object_id = %[1]s) AND (?2 = '[]' OR %[1]s NOT IN (SELECT value FROM json_each(?2))) ORDER BY %[2]s, %[1]s LIMIT 1",
			kind.String(), sendingIDs(kind, sending))
		if err != nil {
			errs = append(errs, fmt.Errorf("look for what is due of %s: %w", kind, err))
		}
		events = append(events, found...)
	}
	next, ok = schedule.First(events)
	return next, ok, errors.Join(errs...)
}

func sendingIDs(kind schedule.Kind, sending []int64) string {
	if kind != schedule.Send || len(sending) == 0 {
		return "[]"
	}
	return jsonIDs(sending)
}

// StillDue finds an event that was stuck, if it is still to happen. A system
// query.
func (s *Store) StillDue(ctx context.Context, kind schedule.Kind, id int64) (schedule.Event, bool, error) {
	found, err := s.due(ctx, kind, "AND %[1]s = ?1", id)
	if err != nil || len(found) == 0 {
		return schedule.Event{}, false, err
	}
	return found[0], true, nil
}

// due asks for events of a kind; in the further condition %[1]s is the column
// of their ids and %[2]s that of their times.
func (s *Store) due(ctx context.Context, kind schedule.Kind, further string, args ...any) ([]schedule.Event, error) {
	q := dueQueries[kind]
	tx := &Tx{db: s.writer.WithContext(ctx)}
	rows, err := tx.query("SELECT "+q.owner+", "+q.id+", "+q.due+" FROM "+q.from+" AS c WHERE "+q.where+" "+fmt.Sprintf(further, "c."+q.id, q.due), args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []schedule.Event
	for rows.Next() {
		ev := schedule.Event{Kind: kind}
		var due int64
		if err := rows.Scan(&ev.Owner, &ev.ID, &due); err != nil {
			return nil, err
		}
		if ev.Due = fromMillis(due); kind == schedule.Purge {
			ev.Due = ev.Due.AddDate(0, 0, decide.BinDays)
		}
		out = append(out, ev)
	}
	return out, rows.Err()
}

// openFollowUp keeps a binned letter from being purged.
const openFollowUp = `SELECT 1 FROM letters l JOIN followup_letters x ON x.letter_id = l.id JOIN followups f ON f.id = x.followup_id
	WHERE l.conversation_id = c.id AND f.alive = 1 AND f.done_at IS NULL`

// Await leaves a return of day precision, which came due under a hold, to the
// next delivery.
func (tx *Tx) Await(conversation int64) error {
	return tx.setWaits(conversation, true)
}

// AwaitNoMore lets a return fall due by itself again.
func (tx *Tx) AwaitNoMore(conversation int64) error {
	return tx.setWaits(conversation, false)
}

func (tx *Tx) setWaits(conversation int64, waits bool) error {
	_, err := gorm.G[returnRow](tx.db).Where("conversation_id = ?", conversation).Update(tx.ctx(), "waits", waits)
	return err
}

// ReminderAwaitsNoMore lets a reminder fall due by itself again.
func (tx *Tx) ReminderAwaitsNoMore(id int64) error {
	_, err := gorm.G[reminderRow](tx.db).Where("id = ?", id).Update(tx.ctx(), "state", "set")
	return err
}

// Awaiting lists the returns that the next delivery brings, in due order.
func (tx *Tx) Awaiting() ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[returnRow](tx.db).Where("waits = 1").Order("due, conversation_id"), "conversation_id")
}

// Purge removes a binned conversation for good. Follow-ups that came from its
// letters keep what their links hold. It says whether there was anything to
// remove.
func (tx *Tx) Purge(conversation int64) error {
	if err := tx.touchDays(conversation); err != nil {
		return err
	}
	for _, step := range []string{
		"UPDATE followup_letters SET purged = 1 WHERE owner = ?1 AND letter_id IN (SELECT id FROM letters WHERE conversation_id = ?2)",
		"UPDATE expectations SET alive = 0 WHERE owner = ?1 AND conversation_id = ?2",
		"DELETE FROM letters_text WHERE rowid IN (SELECT row_key FROM letters WHERE owner = ?1 AND conversation_id = ?2)",
		"DELETE FROM notes_text WHERE rowid = ?2 AND ?1 <> 0",
		"UPDATE kept_files SET alive = 0 WHERE owner = ?1 AND conversation_id = ?2",
		purgedBlobs("(SELECT id FROM letters WHERE conversation_id = ?2)"),
		purgedCounts("(SELECT id FROM letters WHERE conversation_id = ?2)"),
		"DELETE FROM letters WHERE owner = ?1 AND conversation_id = ?2",
		"DELETE FROM conversations WHERE owner = ?1 AND id = ?2",
	} {
		if err := tx.exec(step, tx.who.Inbox, conversation); err != nil {
			return err
		}
	}
	return nil
}

// purgedBlobs lets go of the originals of letters. The same bytes are the same letter; only the outbox shares them.
func purgedBlobs(letters string) string {
	return `DELETE FROM blobs WHERE owner = ?1 AND sha IN (SELECT sha FROM arrivals WHERE letter_id IN ` + letters + ` UNION SELECT sha FROM letters WHERE id IN ` + letters + `)
		AND sha NOT IN (SELECT sha FROM outbox WHERE owner = ?1 AND state <> 'sent')`
}

// purgedCounts counts letters that go, for the accounts of the days on which they came.
func purgedCounts(letters string) string {
	return `INSERT INTO purged (owner, quarter, letters)
		SELECT owner, in_at / ` + fmt.Sprint(quarterMillis) + `, count(*) FROM letters WHERE owner = ?1 AND id IN ` + letters + ` AND own = 0 AND quietly = 0 AND in_at IS NOT NULL GROUP BY 2
		ON CONFLICT DO UPDATE SET letters = letters + excluded.letters`
}
