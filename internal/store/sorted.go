package store

import (
	"strconv"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/sorting"
)

// Sorted is of what kind a letter is, and the step of the Journal under which it was put there
// when it came; 0 where it was not put anywhere.
type Sorted struct {
	sorting.Verdict
	In int64
}

// SortedIn are the letters that were sorted under a step, in the order in which they came.
//
// By hand: it goes along the index of that step.
func (tx *Tx) SortedIn(step int64) ([]Undecided, error) {
	rows, err := all[letterRow](tx.db.Raw(`SELECT id, conversation_id, automatic, from_email, list_id, kind, kind_why, sorted_out FROM letters
		WHERE sorted_in = ? AND +owner = ? AND conversation_id IS NOT NULL ORDER BY id`, step, tx.who.Inbox))
	return undecided(rows), err
}

// SortedOf counts by kind what was sorted under steps within [from, to) and lies there still.
//
// By hand: it goes along the index of these steps.
func (tx *Tx) SortedOf(from, to time.Time) (map[sorting.Kind]int, error) {
	rows, err := all[struct {
		Kind sorting.Kind
		N    int
	}](tx.db.Raw(`SELECT l.kind, count(*) AS n FROM journal j CROSS JOIN letters l ON l.sorted_in = j.id
		WHERE j.owner = ?1 AND j.at >= ?2 AND j.at < ?3 AND j.actor = 'sorting' AND (l.sorted_out OR l.kind IN ('away', 'junk')) GROUP BY l.kind`,
		tx.who.Inbox, millis(from), millis(to)))
	out := make(map[sorting.Kind]int, len(rows))
	for _, r := range rows {
		out[r.Kind] = r.N
	}
	return out, err
}

// SettleSorted notes that what a step has sorted is undone with it, where nothing of that is left.
func (tx *Tx) SettleSorted(step, by int64) error {
	e, err := orNone(gorm.G[entryRow](tx.db).Where("command_id = ? AND actor = 'sorting'", SortedCommand(step)).Take(tx.ctx()))
	if err != nil || e.ID == 0 || e.UndoneBy != 0 {
		return err
	}
	left, err := tx.SortedIn(e.ID)
	if err != nil || len(left) > 0 {
		return err
	}
	return tx.SetUndone(e.ID, by)
}

// SortedCommand is the command under which a step sorts the letters that it lets in.
func SortedCommand(step int64) string { return "sorted:" + strconv.FormatInt(step, 10) }
