package store

import (
	"encoding/json"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
)

// Expectation is an answer that is waited for.
type Expectation struct {
	waiting.Expectation
	Until   *when.Moment
	State   waiting.State
	Late    bool // the limit has passed
	Offered int64
	Away    string // subject of an automatic answer from the person
	// AwayUntil is the phrase of the day on which the person is back; "" if the
	// answer names none.
	AwayUntil string
	// ForReturn tells that a put-off letter waits for it, and takes it along.
	ForReturn bool
	// FollowUp waits along with it; 0 for none.
	FollowUp int64
	// MetBy is the letter that met it; 0 for none.
	MetBy int64
}

// Object names the expectation in changes.
func (e Expectation) Object() change.Object { return kinds.Expectation.Of(e.ID) }

type expectationRow struct {
	ID, ConversationID, Since         int64
	Persons, Answered, StartID, State string
	Away, AwayUntil                   string
	Until                             *string
	Offered, MetBy                    *int64
	AllOf, Late, ForReturn            bool
	FollowupID                        int64
}

const expectationColumns = "id, conversation_id, persons, all_of, answered, start_id, since, until, state, late, offered, away, away_until, for_return, followup_id, met_by"

func (r expectationRow) expectation() (Expectation, error) {
	e := Expectation{
		Expectation: waiting.Expectation{ID: r.ID, Conversation: r.ConversationID, All: r.AllOf, StartID: r.StartID, Since: fromMillis(r.Since)},
		State:       waiting.State(r.State), Late: r.Late, Away: r.Away, AwayUntil: r.AwayUntil, ForReturn: r.ForReturn, FollowUp: r.FollowupID,
	}
	if r.Offered != nil {
		e.Offered = *r.Offered
	}
	if r.MetBy != nil {
		e.MetBy = *r.MetBy
	}
	if err := json.Unmarshal([]byte(r.Persons), &e.Persons); err != nil {
		return e, err
	}
	if err := json.Unmarshal([]byte(r.Answered), &e.Answered); err != nil {
		return e, err
	}
	if r.Until != nil {
		return e, json.Unmarshal([]byte(*r.Until), &e.Until)
	}
	return e, nil
}

func (tx *Tx) expectations(where string, args ...any) ([]Expectation, error) {
	rows, err := all[expectationRow](tx.db.Raw("SELECT "+expectationColumns+" FROM expectations WHERE owner = ? AND alive = 1 AND "+where,
		append([]any{tx.who.Inbox}, args...)...))
	return readable(tx, "waiting", rows, func(r expectationRow) int64 { return r.ID }, expectationRow.expectation), err
}

// Waiting lists the open expectations by their limit.
func (tx *Tx) Waiting() ([]Expectation, error) {
	return tx.expectations("state = 'open' ORDER BY until_at IS NULL, until_at, id")
}

// Settled lists the expectations that were met or dropped, the latest first.
func (tx *Tx) Settled(most int) ([]Expectation, error) {
	return tx.expectations("state <> 'open' ORDER BY id DESC LIMIT ?", most)
}

// Expectation is one expectation by its id.
func (tx *Tx) Expectation(id int64) (Expectation, error) {
	before := len(tx.passed)
	list, err := tx.expectations("id = ?", id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
		if len(tx.passed) > before {
			err = tx.passed[before].Reason
		}
	}
	if err != nil {
		return Expectation{}, err
	}
	return list[0], nil
}

// OpenFor lists open expectations that an arriving letter could concern: those
// of these conversations, and those whose letter it answers.
func (tx *Tx) OpenFor(conversations []int64, answers []string) ([]Expectation, error) {
	refs, err := json.Marshal(answers)
	if err != nil {
		return nil, err
	}
	return tx.expectations("state = 'open' AND (conversation_id IN (SELECT value FROM json_each(?)) OR start_id <> '' AND start_id IN (SELECT value FROM json_each(?)))",
		jsonIDs(conversations), string(refs))
}

// MetForReturns lists the expectations that letters have met and that put-off
// conversations waited for.
func (tx *Tx) MetForReturns(letters []int64) ([]Expectation, error) {
	// Asked with every letter that comes, so it begins with the few that letters met.
	ids, err := tx.ids(metForReturns, jsonIDs(letters))
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return tx.expectations("id IN (SELECT value FROM json_each(?)) AND state = 'met' ORDER BY id", jsonIDs(ids))
}

const metForReturns = "SELECT id FROM expectations WHERE met_by IN (SELECT value FROM json_each(?)) AND for_return = 1"

// ForReturns lists the open expectations that put-off conversations wait for.
func (tx *Tx) ForReturns(conversations []int64) ([]Expectation, error) {
	return tx.expectations("state = 'open' AND for_return = 1 AND conversation_id IN (SELECT value FROM json_each(?))", jsonIDs(conversations))
}

// AddExpectation writes an expectation that is not alive yet.
func (tx *Tx) AddExpectation(e Expectation) (int64, error) {
	persons, err := json.Marshal(e.Persons)
	if err != nil {
		return 0, err
	}
	var until *string
	var untilAt *int64
	if e.Until != nil {
		text, err := json.Marshal(e.Until)
		if err != nil {
			return 0, err
		}
		s, ms := string(text), millis(e.Until.UTC)
		until = &s
		if e.Until.Precision != when.Open {
			untilAt = &ms
		}
	}
	return tx.insertReturning(`INSERT INTO expectations (owner, conversation_id, persons, all_of, start_id, since, until, until_at, for_return, followup_id)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, tx.who.Inbox, e.Conversation, string(persons), e.All, e.StartID, millis(e.Since), until, untilAt, e.ForReturn, e.FollowUp)
}

// CountWaiting counts the open expectations.
func (tx *Tx) CountWaiting() (n int, err error) {
	err = tx.db.Raw("SELECT count(*) FROM expectations WHERE owner = ? AND alive = 1 AND state = 'open'", tx.who.Inbox).Row().Scan(&n)
	return n, err
}
