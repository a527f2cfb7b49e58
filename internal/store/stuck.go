package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/mattn/go-sqlite3"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/schedule"
)

// Stuck is a due event that failed. It stands out of the way of the others and
// is tried again; what it would do it does once, when it succeeds.
type Stuck struct {
	ID     int64
	Owner  int64
	Kind   schedule.Kind
	Object int64
	// Title says in words what does not happen, Reason why.
	Title, Reason  string
	Tries          int
	Since, AgainAt time.Time
}

func (r stuckRow) stuck() (Stuck, bool) {
	kind, ok := schedule.KindOf(r.Kind)
	return Stuck{
		ID: r.ID, Owner: int64(r.Owner), Kind: kind, Object: r.ObjectID, Title: r.Title, Reason: r.Reason, Tries: r.Tries,
		Since: r.Since.Time, AgainAt: r.AgainAt.Time,
	}, ok
}

func stucks(rows []stuckRow) []Stuck {
	out := make([]Stuck, 0, len(rows))
	for _, r := range rows {
		if s, ok := r.stuck(); ok {
			out = append(out, s)
		}
	}
	return out
}

// StuckOf is what is kept of a stuck event; ErrNotFound if it is not stuck. A
// system query.
func (s *Store) StuckOf(ctx context.Context, kind schedule.Kind, object int64) (Stuck, error) {
	r, err := gorm.G[stuckRow](everybody(s.writer)).Where("kind = ? AND object_id = ?", kind.String(), object).Take(ctx)
	out, _ := r.stuck()
	return out, err
}

// NextStuck is the stuck event that is tried again first, but for letters that
// are just being sent; ErrNotFound if none is stuck. A system query.
func (s *Store) NextStuck(ctx context.Context, sending []int64) (Stuck, error) {
	rows, err := gorm.G[stuckRow](everybody(s.writer)).Where("kind <> ? OR NOT ?", schedule.Send.String(), inNumbers("object_id", sending)).
		Order("again_at, id").Limit(1).Find(ctx)
	if list := stucks(rows); err == nil && len(list) > 0 {
		return list[0], nil
	}
	return Stuck{}, errors.Join(err, ErrNotFound)
}

// SetStuck takes an event out of the way, or keeps another failed try of it.
func (s *Store) SetStuck(ctx context.Context, e Stuck) error {
	again := clause.OnConflict{
		Columns:   []clause.Column{{Name: "kind"}, {Name: "object_id"}},
		DoUpdates: clause.AssignmentColumns([]string{"title", "reason", "tries", "again_at"}),
	}
	return gorm.G[stuckRow](limited(s.writer, e.Owner), again).Create(ctx, &stuckRow{
		Kind: e.Kind.String(), ObjectID: e.Object, Title: e.Title, Reason: e.Reason, Tries: e.Tries, Since: at(e.Since), AgainAt: at(e.AgainAt),
	})
}

// FreeStuck forgets that an event was stuck: it has happened, or is not to
// happen any more.
func (s *Store) FreeStuck(ctx context.Context, kind schedule.Kind, object int64) error {
	_, err := gorm.G[stuckRow](everybody(s.writer)).Where("kind = ? AND object_id = ?", kind.String(), object).Delete(ctx)
	return err
}

// Stuck lists the owner's stuck events, the latest first.
func (tx *Tx) Stuck() ([]Stuck, error) {
	rows, err := gorm.G[stuckRow](tx.db).Order("since DESC, id DESC").Find(tx.ctx())
	return stucks(rows), err
}

// RetryStuck lets a stuck event of the owner be tried again at once.
func (tx *Tx) RetryStuck(id int64, now time.Time) error {
	n, err := gorm.G[stuckRow](tx.db).Where("id = ?", id).Update(tx.ctx(), "again_at", at(now))
	if err == nil && n == 0 {
		err = ErrNotFound
	}
	return err
}

// Unavailable tells that an error is the database file's and not of what was
// to be done with it, and says which: the disk is full, the file is locked,
// read-only, gone or unreadable. "" for any other error.
func Unavailable(err error) string {
	var e sqlite3.Error
	if !errors.As(err, &e) {
		return ""
	}
	switch e.Code {
	case sqlite3.ErrFull:
		return "The disk is full."
	case sqlite3.ErrBusy, sqlite3.ErrLocked:
		return "The database is locked by another program."
	case sqlite3.ErrReadonly:
		return "The database can't be written: it is read-only."
	case sqlite3.ErrCantOpen:
		return "The database file can't be opened; it may have been moved or deleted."
	case sqlite3.ErrIoErr:
		return "The disk reported an error."
	case sqlite3.ErrCorrupt, sqlite3.ErrNotADB:
		return "The database file is damaged."
	default:
		return ""
	}
}

// titles are how the object of an event is called.
var titles = map[schedule.Kind]string{
	schedule.Limit:    "SELECT c.subject FROM expectations e JOIN conversations c ON c.id = e.conversation_id WHERE e.id = ?",
	schedule.Return:   "SELECT subject FROM conversations WHERE id = ?",
	schedule.Reminder: "SELECT f.title FROM reminders r JOIN followups f ON f.id = r.followup_id WHERE r.id = ?",
	schedule.Alarm:    "SELECT title FROM appointments WHERE id = ?",
	schedule.Send:     "SELECT subject FROM outbox WHERE id = ?",
	schedule.Purge:    "SELECT subject FROM conversations WHERE id = ?",
	schedule.Series:   "SELECT json_extract(value, '$.Title') FROM series WHERE id = ? AND json_valid(value)",
	schedule.LetIn:    "SELECT subject FROM letters WHERE id = ?",
}

// TitleOf is how the object of an event is called; "" where that can't be told.
// A system query.
//
// By hand: the table of an object is known by its kind only.
func (s *Store) TitleOf(ctx context.Context, kind schedule.Kind, object int64) string {
	query, ok := titles[kind]
	if !ok {
		return ""
	}
	list, err := all[string](s.writer.WithContext(ctx).Raw(query, object))
	if err != nil || len(list) == 0 {
		return ""
	}
	return list[0]
}

// Garbled tells that an error comes from a kept value that can't be read.
func Garbled(err error) bool {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	return errors.As(err, &syntax) || errors.As(err, &kind)
}
