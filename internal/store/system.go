package store

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe.example/ebbe/internal/core/sending"
)

// Fact reads a value kept for the whole installation; "" if it was never set.
func (s *Store) Fact(ctx context.Context, name string) (string, error) {
	f, err := orNone(gorm.G[factRow](s.reader).Where("name = ?", name).Take(ctx))
	return f.Value, err
}

// SetFact keeps a value for the whole installation.
func (s *Store) SetFact(ctx context.Context, name, value string) error {
	return gorm.G[factRow](s.writer, clause.OnConflict{UpdateAll: true}).Create(ctx, &factRow{Name: name, Value: value})
}

// Waits counts what waits, of everybody.
type Waits struct {
	Sends  int64 // letters to leave
	Sync   int64 // conversations that mail servers are to be told of
	Failed int64 // events that could not happen
}

// Waits counts what waits, of everybody. A system query.
func (s *Store) Waits(ctx context.Context) (w Waits, err error) {
	for _, x := range []struct {
		into  *int64
		count func() (int64, error)
	}{
		{&w.Sends, func() (int64, error) {
			return gorm.G[outgoingRow](everybody(s.reader)).Where("state IN ?", sending.UnderWay).Count(ctx, "*")
		}},
		{&w.Sync, func() (int64, error) { return gorm.G[remoteTaskRow](everybody(s.reader)).Count(ctx, "*") }},
		{&w.Failed, func() (int64, error) { return gorm.G[stuckRow](everybody(s.reader)).Count(ctx, "*") }},
	} {
		if *x.into, err = x.count(); err != nil {
			return w, err
		}
	}
	return w, nil
}

const clockFact = "demo clock offset in ms"

// ClockOffset is how far the demo's clock is ahead of the real one.
func (s *Store) ClockOffset(ctx context.Context) (time.Duration, error) {
	text, err := s.Fact(ctx, clockFact)
	if err != nil || text == "" {
		return 0, err
	}
	ms, err := strconv.ParseInt(text, 10, 64)
	return time.Duration(ms) * time.Millisecond, err
}

// SetClockOffset moves the demo's clock.
func (s *Store) SetClockOffset(ctx context.Context, d time.Duration) error {
	return s.SetFact(ctx, clockFact, strconv.FormatInt(d.Milliseconds(), 10))
}

// Bagged is a letter on its way through the stand-in post office.
type Bagged struct {
	ID         int64
	Due        time.Time
	Sender     string
	Recipients string // JSON list
	Data       []byte
}

// Bag keeps a letter until it is due.
func (s *Store) Bag(ctx context.Context, b Bagged) error {
	return gorm.G[bagRow](s.writer).Create(ctx, &bagRow{Due: at(b.Due), Sender: b.Sender, Recipients: b.Recipients, Data: b.Data})
}

// Bagged is one letter of the post bag.
func (s *Store) Bagged(ctx context.Context, id int64) (Bagged, error) {
	r, err := gorm.G[bagRow](s.writer).Where("id = ?", id).Take(ctx)
	return Bagged{ID: id, Due: r.Due.Time, Sender: r.Sender, Recipients: r.Recipients, Data: r.Data}, err
}

// TakeBagged marks a letter of the post bag as brought.
func (s *Store) TakeBagged(ctx context.Context, id int64) error {
	_, err := gorm.G[bagRow](s.writer).Where("id = ?", id).Select("taken", "data").Updates(ctx, bagRow{Taken: true, Data: []byte{}})
	return err
}

// FindCtx gives a session's data (it makes Store a store of scs).
func (s *Store) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	r, err := gorm.G[sessionRow](s.reader).Where("token = ? AND expires > ?", token, at(time.Now())).Take(ctx)
	if errors.Is(err, ErrNotFound) {
		return nil, false, nil
	}
	return r.Data, err == nil, err
}

// CommitCtx keeps a session's data, and drops what has expired.
func (s *Store) CommitCtx(ctx context.Context, token string, data []byte, expires time.Time) error {
	if _, err := gorm.G[sessionRow](s.writer).Where("expires < ?", at(time.Now())).Delete(ctx); err != nil {
		return err
	}
	return gorm.G[sessionRow](s.writer, clause.OnConflict{UpdateAll: true}).Create(ctx, &sessionRow{Token: token, Data: data, Expires: at(expires)})
}

// DeleteCtx ends a session.
func (s *Store) DeleteCtx(ctx context.Context, token string) error {
	_, err := gorm.G[sessionRow](s.writer).Where("token = ?", token).Delete(ctx)
	return err
}

// Find, Commit and Delete serve the older half of the scs interface.
func (s *Store) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

// Commit keeps a session's data.
func (s *Store) Commit(token string, data []byte, expires time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expires)
}

// Delete ends a session.
func (s *Store) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }

// Backup writes a consistent copy of the database to a new file.
//
// By hand: SQLite alone can say it.
func (s *Store) Backup(ctx context.Context, path string) error {
	if err := s.writer.WithContext(ctx).Exec("VACUUM INTO ?", path).Error; err != nil {
		return fmt.Errorf("write the copy: %w", err)
	}
	return nil
}

// Loading gives the writer more room while much is written, and what done gives back:
// pages of the index are changed again and again, so they are written when they are
// full rather than with each batch.
//
// By hand: they are pragmas.
func (s *Store) Loading() (done func()) {
	set := func(pragmas ...string) {
		for _, p := range pragmas {
			s.writer.Exec("PRAGMA " + p) // it is as good without, only slower
		}
	}
	set("cache_size = -64000", "wal_autocheckpoint = 16000")
	return func() { set("cache_size = -16000", "wal_autocheckpoint = 1000", "shrink_memory") }
}

// Relax stops waiting for the disk, keeps what it can in memory, and lets one
// connection do everything. It is for files that are made in one go by one
// goroutine and thrown away if that fails, such as the demo world.
//
// By hand: SQLite alone can say it.
func (s *Store) Relax(ctx context.Context) error {
	for _, pragma := range []string{"synchronous = OFF", "cache_size = -200000", "wal_autocheckpoint = 20000"} {
		if err := s.writer.WithContext(ctx).Exec("PRAGMA " + pragma).Error; err != nil {
			return err
		}
	}
	pool, err := s.reader.DB()
	if err == nil {
		err = pool.Close()
	}
	s.reader = s.writer
	return err
}
