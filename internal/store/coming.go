package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/sending"
)

// ReturnsBetween lists conversations that come back in [from, to), in the
// order in which they do.
func (tx *Tx) ReturnsBetween(from, to time.Time, most int) ([]Row, error) {
	return tx.returning("r.due >= ? AND r.due < ? ORDER BY r.due, r.conversation_id LIMIT ?", millis(from), millis(to), most)
}

// ReturnsUndated lists put-off conversations that come back at no set time:
// someday, at a place, or with an answer.
func (tx *Tx) ReturnsUndated(most int) ([]Row, error) {
	return tx.returning("r.due IS NULL AND json_valid(r.value) AND json_extract(r.value, '$.if') IS NOT 'no-answer' ORDER BY r.conversation_id LIMIT ?", most)
}

func (tx *Tx) returning(where string, args ...any) ([]Row, error) {
	found, err := tx.conversationRows("SELECT "+conversationColumns+" FROM returns r JOIN conversations c ON c.id = r.conversation_id AND c.place IN ('later', 'shallows')"+marksOf+"WHERE r.owner = ? AND "+where,
		append([]any{tx.who.Person, tx.who.Inbox}, args...)...)
	if err != nil {
		return nil, err
	}
	return tx.rows(found)
}

// LimitsBetween lists the open expectations whose limit comes in [from, to).
func (tx *Tx) LimitsBetween(from, to time.Time, most int) ([]Expectation, error) {
	return tx.expectations(awaited(tx.db).Where("late = 0 AND until_at >= ? AND until_at < ?", at(from), at(to)).Order("until_at, id").Limit(most))
}

// SendsBetween lists the letters that leave at a time of their own in [from, to).
func (tx *Tx) SendsBetween(from, to time.Time, most int) ([]Outgoing, error) {
	return tx.outgoing(gorm.G[outgoingRow](tx.db).Where("later AND state = ? AND send_at >= ? AND send_at < ?", sending.Waiting, at(from), at(to)).Order("send_at, id").Limit(most).Find(tx.ctx()))
}

// DueBetween lists open follow-ups due in [from, to).
func (tx *Tx) DueBetween(from, to time.Time, most int) ([]FollowUp, error) {
	return tx.followUps(gorm.G[followUpRow](tx.db).Where(openFollowUps).Where("due_at >= ? AND due_at < ?", at(from), at(to)).Order("due_at").Limit(most))
}

// Ring is a reminder with its follow-up.
type Ring struct {
	ID       int64
	FollowUp int64
	Title    string
	At       time.Time // when it rings, or rang
	State    string
}

// RemindersBetween lists the reminders that are set for [from, to).
func (tx *Tx) RemindersBetween(from, to time.Time, most int) ([]Ring, error) {
	return tx.rings(gorm.G[reminderRow](tx.few()).Where("reminders.state = 'set' AND reminders.at >= ? AND reminders.at < ?", at(from), at(to)).
		Where("FollowUp.done_at IS NULL").Order("reminders.at").Limit(most))
}

// Rang lists the reminders that rang, the latest first.
func (tx *Tx) Rang(most int) ([]Ring, error) {
	return tx.rings(gorm.G[reminderRow](tx.db).Where("reminders.state IN ('rang', 'seen')").Order("reminders.at DESC").Limit(most))
}

// rings reads reminders with the living follow-ups that they belong to.
func (tx *Tx) rings(which gorm.ChainInterface[reminderRow]) ([]Ring, error) {
	rows, err := which.Joins(clause.Has("FollowUp"), nil).Where("reminders.alive = 1 AND FollowUp.alive = 1").Find(tx.ctx())
	out := make([]Ring, len(rows))
	for i, r := range rows {
		out[i] = Ring{ID: r.ID, FollowUp: r.FollowupID, Title: r.FollowUp.Title, At: r.At.Time, State: r.State}
	}
	return out, err
}

// Rung is a reminder that rang, with the moment at which it did.
type Rung struct {
	ID, FollowUp int64
	Title        string
	At           time.Time
	// Precise tells that it was set to a minute.
	Precise bool
}

// RangSince lists the reminders that rang since then and were not looked at.
//
// By hand: when it rang stands in the Journal, and the precision in its JSON.
func (tx *Tx) RangSince(since time.Time, most int) ([]Rung, error) {
	rows, err := all[struct {
		ID, FollowupID, At int64
		Title              string
		Precise            bool
	}](tx.db.Raw(`SELECT r.id, r.followup_id, f.title, j.at, json_valid(r.moment) AND r.moment ->> '$.precision' = 'minute' AS precise
		FROM reminders r JOIN followups f ON f.id = r.followup_id
		JOIN field_versions v ON v.object = 'reminder' AND v.object_id = r.id AND v.field = 'state' JOIN changes c ON c.id = v.version JOIN journal j ON j.id = c.journal_id
		WHERE r.owner = ? AND r.alive = 1 AND r.state = 'rang' AND f.alive = 1 AND f.done_at IS NULL AND j.at > ? ORDER BY j.at, r.id LIMIT ?`, tx.who.Inbox, millis(since), most))
	out := make([]Rung, len(rows))
	for i, r := range rows {
		out[i] = Rung{r.ID, r.FollowupID, r.Title, fromMillis(r.At), r.Precise}
	}
	return out, err
}

// RemindersWaiting lists the reminders that the next delivery lets ring.
func (tx *Tx) RemindersWaiting() ([]int64, error) {
	return pluck[int64](tx.ctx(), gorm.G[reminderRow](tx.db).Where("alive = 1 AND state = 'waits'").Order("at, id"), "id")
}

// CountAhead counts all that is to come after an instant.
//
// By hand: seven counts in one question, one of them by JSON.
func (tx *Tx) CountAhead(now time.Time) (n int, err error) {
	ms := millis(now)
	err = tx.db.Raw(`SELECT (SELECT count(*) FROM appointments WHERE owner = ?1 AND alive = 1 AND cancelled = 0 AND start_at >= ?2)
		+ (SELECT count(*) FROM returns WHERE owner = ?1 AND due IS NOT NULL)
		+ (SELECT count(*) FROM returns WHERE owner = ?1 AND due IS NULL AND json_valid(value) AND json_extract(value, '$.if') IS NOT 'no-answer')
		+ (SELECT count(*) FROM outbox WHERE owner = ?1 AND state = 'waiting' AND later = 1 AND send_at >= ?2)
		+ (SELECT count(*) FROM expectations WHERE owner = ?1 AND alive = 1 AND state = 'open' AND late = 0 AND until_at >= ?2)
		+ (SELECT count(*) FROM reminders r JOIN followups f ON f.id = r.followup_id WHERE r.owner = ?1 AND r.alive = 1 AND r.state = 'set' AND r.at >= ?2 AND f.alive = 1 AND f.done_at IS NULL)
		+ (SELECT count(*) FROM followups WHERE owner = ?1 AND alive = 1 AND done_at IS NULL AND due_at >= ?2)`, tx.who.Inbox, ms).Row().Scan(&n)
	return n, err
}

// Farthest is after everything that can be set.
var Farthest = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)

// LastDecision is when the person last decided anything; zero if never.
func (tx *Tx) LastDecision() (time.Time, error) {
	last, err := orNone(tx.ownDecisions().Where("at > 0").Order("at DESC").Take(tx.ctx()))
	return last.At.Time, err
}

// EnteredSince lists the conversations of the inbox that came into it after an
// instant.
func (tx *Tx) EnteredSince(since time.Time, most int) ([]Row, error) {
	found, err := tx.conversationRows("SELECT "+conversationColumns+conversationFrom+
		"WHERE c.owner = ? AND c.place = 'inbox' AND c.place_since > ? ORDER BY c.back_rank DESC, c.queue_at DESC LIMIT ?", tx.who.Person, tx.who.Inbox, millis(since), most)
	if err != nil {
		return nil, err
	}
	out := make([]Row, len(found))
	for i, f := range found {
		out[i] = f.shown()
	}
	return out, nil
}

// Somedays lists the letters put off to no time at all, longest first.
//
// By hand: their order stands in the JSON of the return.
func (tx *Tx) Somedays(most int) ([]int64, error) {
	return all[int64](tx.db.Raw(`SELECT conversation_id FROM returns WHERE owner = ? AND due IS NULL AND spot_id = 0 AND json_valid(value) AND json_extract(value, '$.if') IS NULL
		ORDER BY json_extract(value, '$.setAt'), conversation_id LIMIT ?`, tx.who.Inbox, most))
}

// SetLook says when someday letters come up next.
func (tx *Tx) SetLook(at time.Time) error {
	_, err := gorm.G[personRow](tx.db).Where("id = ?", tx.who.Inbox).Update(tx.ctx(), "look_at", maybeAt(at))
	return err
}
