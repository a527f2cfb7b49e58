package store

import (
	"time"

	"gorm.io/gorm"
)

// Titled is something beside letters that is found by its words.
type Titled struct {
	ID           int64
	Title, Notes string
	// At is when it is due, or begins; zero for no time. Closed tells of a follow-up that is done.
	At     time.Time
	Closed bool
}

// mostTitled bounds how many of a kind are looked through, the newest first.
const mostTitled = 20_000

// TitledFollowUps are the follow-ups, the open ones first.
func (tx *Tx) TitledFollowUps() ([]Titled, error) {
	rows, err := gorm.G[followUpRow](tx.db).Select("id, title, notes, due_at, done_at").Where("alive = 1").Order("done_at IS NOT NULL, id DESC").Limit(mostTitled).Find(tx.ctx())
	out := make([]Titled, len(rows))
	for i, r := range rows {
		out[i] = Titled{ID: r.ID, Title: r.Title, Notes: r.Notes, At: r.DueAt.Time, Closed: !r.DoneAt.IsZero()}
	}
	return out, err
}

// TitledAppointments are the appointments, the latest first.
func (tx *Tx) TitledAppointments() ([]Titled, error) {
	rows, err := tx.living().Select("id, title, place, notes, start_at").Order("start_at DESC").Limit(mostTitled).Find(tx.ctx())
	out := make([]Titled, len(rows))
	for i, r := range rows {
		out[i] = Titled{ID: r.ID, Title: r.Title, Notes: r.Place + "\n" + r.Notes, At: r.StartAt.Time}
	}
	return out, err
}
