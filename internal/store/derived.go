// By hand: what is kept is compared with what follows from it, column by column, whatever
// models say.

package store

import (
	"encoding/json"
	"fmt"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
)

// derived is a column that is kept beside a JSON value, to sort or search by:
// what it is in words, its query (id, value, column) and how it follows from
// the value; nil for NULL.
type derived struct {
	what, query string
	of          func(value []byte) (*int64, error)
}

func fromMoment(value []byte) (*int64, error) {
	var m *when.Moment
	err := json.Unmarshal(value, &m)
	return instantOf(m).number(), err
}

// number is the stamp as its column holds it; nil for NULL.
func (s maybeStamp) number() *int64 {
	if s.IsZero() {
		return nil
	}
	ms := millis(s.Time)
	return &ms
}

var deriveds = []derived{
	{"when conversation %d returns", "SELECT conversation_id AS id, value, due AS kept FROM returns", func(value []byte) (*int64, error) {
		var r decide.Return
		err := json.Unmarshal(value, &r)
		return dueOf(r).number(), err
	}},
	{"how exactly conversation %d returns", "SELECT conversation_id AS id, value, precise AS kept FROM returns", func(value []byte) (*int64, error) {
		var r decide.Return
		err := json.Unmarshal(value, &r)
		return flag(r.When.Precision == when.ToMinute), err
	}},
	{"whether follow-up %d is closed", "SELECT id, json_quote(status) AS value, done_at IS NOT NULL AS kept FROM followups", func(value []byte) (*int64, error) {
		var s followup.Status
		err := json.Unmarshal(value, &s)
		return flag(s.Closed()), err
	}},
	{"the place of conversation %d in the queue", "SELECT id, coalesce(back, 'null') AS value, back_rank AS kept FROM conversations", func(value []byte) (*int64, error) {
		var b *decide.Back
		err := json.Unmarshal(value, &b)
		rank := int64(b.Rank())
		return &rank, err
	}},
}

// momentsKept are the instants that are kept beside moments.
func momentsKept() (out []derived) {
	for _, m := range allMoments() {
		if m.instant != "" && m.path == "$" {
			out = append(out, derived{
				m.instant + " of %d in " + m.table,
				"SELECT " + m.id + " AS id, " + m.value + " AS value, " + m.instant + " AS kept FROM " + m.table + " WHERE " + m.value + " IS NOT NULL", fromMoment,
			})
		}
	}
	return out
}

// differingColumns lists columns that don't follow from the value beside them.
// A value that can't be read is named elsewhere.
func (tx *Tx) differingColumns() (wrong []string, err error) {
	for _, d := range append(momentsKept(), deriveds...) {
		rows, err := all[struct {
			ID    int64
			Value string
			Kept  *int64
		}](tx.db.Raw(d.query))
		if err != nil {
			return wrong, err
		}
		for _, r := range rows {
			own, err := d.of([]byte(r.Value))
			if err == nil && !same(own, r.Kept) {
				wrong = append(wrong, fmt.Sprintf(d.what+" is kept in two ways: %v, not %v", r.ID, show(r.Kept), show(own)))
			}
		}
	}
	return wrong, nil
}

// differingTallies lists where the counts of what went through the inbox are not those
// that follow from its history by the core's rule.
func (tx *Tx) differingTallies() (wrong []string, err error) {
	history, err := moves(tx.db, "1")
	if err != nil {
		return nil, err
	}
	tallies, minutes, _ := tally(nil, history)
	kept, err := all[tallyRow](tx.db.Raw("SELECT * FROM tallies"))
	if err != nil {
		return nil, err
	}
	for _, t := range kept {
		k := ownTime{int64(t.Owner), t.Quarter}
		if was := tallies[k]; was.Entered != t.Entered || was.Gone != t.Gone {
			wrong = append(wrong, fmt.Sprintf("what went through the inbox in quarter %d is counted as %d and %d, not %d and %d", t.Quarter, t.Entered, t.Gone, was.Entered, was.Gone))
		}
		delete(tallies, k)
	}
	for k := range tallies {
		wrong = append(wrong, fmt.Sprintf("what went through the inbox in quarter %d is not counted", k.number))
	}
	tides, err := all[tideRow](tx.db.Raw("SELECT * FROM tides"))
	for _, t := range tides {
		k := ownTime{int64(t.Owner), t.Minute}
		if own := minuteOf(minutes[k]); t.value() != own {
			wrong = append(wrong, fmt.Sprintf("the inbox of minute %d is kept as %v, not %v", t.Minute, t.value(), own))
		}
		delete(minutes, k)
	}
	for k := range minutes {
		wrong = append(wrong, fmt.Sprintf("the inbox of minute %d is not kept", k.number))
	}
	return wrong, err
}

// strandedReturns says what is put off until somebody answers while nothing waits for that.
func (tx *Tx) strandedReturns() (wrong []string, err error) {
	stranded, err := tx.stranded("1")
	for _, id := range stranded {
		wrong = append(wrong, fmt.Sprintf("conversation %d waits for an answer that nothing waits for", id))
	}
	return wrong, err
}

func flag(on bool) *int64 {
	n := int64(0)
	if on {
		n = 1
	}
	return &n
}

func same(a, b *int64) bool { return a == b || a != nil && b != nil && *a == *b }

func show(v *int64) any {
	if v == nil {
		return "none"
	}
	return *v
}
