package store

import (
	"encoding/json"
	"errors"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
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

func (r expectationRow) expectation() (Expectation, error) {
	return Expectation{
		Expectation: waiting.Expectation{
			ID: r.ID, Conversation: r.ConversationID, Persons: r.Persons.V, All: r.AllOf, Answered: r.Answered.V, StartID: r.StartID, Since: r.Since.Time,
		},
		Until: r.Until.V, State: r.State, Late: r.Late, Offered: int64(r.Offered), Away: r.Away, AwayUntil: r.AwayUntil, ForReturn: r.ForReturn,
		FollowUp: r.FollowupID, MetBy: int64(r.MetBy),
	}, errors.Join(r.Persons.Err, r.Answered.Err, r.Until.Err)
}

func (tx *Tx) expectations(which gorm.ChainInterface[expectationRow]) ([]Expectation, error) {
	rows, err := which.Where("alive = 1").Find(tx.ctx())
	return readable(tx, "waiting", rows, func(r expectationRow) int64 { return r.ID }, expectationRow.expectation), err
}

// awaited are the expectations that are waited for.
func awaited(db *gorm.DB) gorm.ChainInterface[expectationRow] {
	return gorm.G[expectationRow](db).Where("state = ?", waiting.Open)
}

// Waiting lists the open expectations by their limit.
func (tx *Tx) Waiting() ([]Expectation, error) {
	return tx.expectations(awaited(tx.db).Order("until_at IS NULL, until_at, id"))
}

// Settled lists the expectations that were met or dropped, the latest first.
func (tx *Tx) Settled(most int) ([]Expectation, error) {
	return tx.expectations(gorm.G[expectationRow](tx.db).Where("state <> ?", waiting.Open).Order("id DESC").Limit(most))
}

// ExpectationsByID are the expectations of these ids.
func (tx *Tx) ExpectationsByID(ids []int64) ([]Expectation, error) {
	return tx.expectations(gorm.G[expectationRow](tx.few()).Where(inNumbers("id", ids)))
}

// Expectation is one expectation by its id.
func (tx *Tx) Expectation(id int64) (Expectation, error) {
	row, err := gorm.G[expectationRow](tx.db).Where("id = ? AND alive = 1", id).Take(tx.ctx())
	if err != nil {
		return Expectation{}, err
	}
	return row.expectation()
}

// OpenFor lists open expectations that an arriving letter could concern: those
// of these conversations, and those whose letter it answers.
func (tx *Tx) OpenFor(conversations []int64, answers []string) ([]Expectation, error) {
	refs, err := json.Marshal(answers)
	if err != nil {
		return nil, err
	}
	return tx.expectations(awaited(tx.db).Where("conversation_id IN (SELECT value FROM json_each(?)) OR start_id <> '' AND start_id IN (SELECT value FROM json_each(?))",
		jsonIDs(conversations), string(refs)))
}

// MetForReturns lists the expectations that letters have met and that put-off
// conversations waited for.
//
// By hand: it begins with the few that letters met, whosoever; they are asked for again
// by the model.
func (tx *Tx) MetForReturns(letters []int64) ([]Expectation, error) {
	// Asked with every letter that comes, so it begins with the few that letters met.
	ids, err := tx.ids(metForReturns, jsonIDs(letters))
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return tx.expectations(gorm.G[expectationRow](tx.few()).Where(inNumbers("id", ids)).Where("state = ?", waiting.Met).Order("id"))
}

const metForReturns = "SELECT id FROM expectations WHERE met_by IN (SELECT value FROM json_each(?)) AND for_return = 1"

// ForReturns lists the open expectations that put-off conversations wait for.
func (tx *Tx) ForReturns(conversations []int64) ([]Expectation, error) {
	return tx.expectations(awaited(tx.db).Where("for_return = 1").Where(inNumbers("conversation_id", conversations)))
}

// Stranded are those of some conversations that are put off until somebody answers while nothing waits for that:
// neither an open expectation nor an answer that is still held.
func (tx *Tx) Stranded(conversations []int64) ([]int64, error) {
	return tx.stranded("r.owner = ?1 AND r.conversation_id IN (SELECT value FROM json_each(?2))", tx.who.Inbox, jsonIDs(conversations))
}

// By hand: whether a return awaits an answer is told by the core.
func (tx *Tx) stranded(which string, args ...any) (ids []int64, err error) {
	rows, err := all[struct {
		ID    int64
		Value kept[decide.Return]
	}](tx.db.Raw(`SELECT conversation_id AS id, value FROM returns r WHERE `+which+` AND NOT EXISTS (SELECT 1 FROM expectations e
		WHERE e.conversation_id = r.conversation_id AND e.alive = 1 AND e.for_return = 1
		AND (e.state = 'open' OR e.state = 'met' AND EXISTS (SELECT 1 FROM letters l WHERE l.id = e.met_by AND l.in_at IS NULL)))`, args...))
	for _, r := range rows {
		if r.Value.Err == nil && r.Value.V.If.Awaits() {
			ids = append(ids, r.ID)
		}
	}
	return ids, err
}

// AddExpectation writes an expectation that is not alive yet.
func (tx *Tx) AddExpectation(e Expectation) (int64, error) {
	row := expectationRow{
		ConversationID: e.Conversation, Persons: keep(e.Persons), AllOf: e.All, Answered: keep([]string{}), StartID: e.StartID, Since: at(e.Since),
		Until: maybe(e.Until), UntilAt: instantOf(e.Until), State: waiting.Open, ForReturn: e.ForReturn, FollowupID: e.FollowUp,
	}
	err := gorm.G[expectationRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// CountWaiting counts the open expectations.
func (tx *Tx) CountWaiting() (int, error) {
	n, err := awaited(tx.db).Where("alive = 1").Count(tx.ctx(), "*")
	return int(n), err
}
