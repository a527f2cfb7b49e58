// Package demo makes the demo world: a garden on a northern island, its
// people and their letters, and a clock that can be moved by hand. All of it
// is made up.
package demo

import (
	"context"
	"sync/atomic"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/store"
)

// Clock is the demo's clock: the real one, moved by an offset that is kept in
// the database.
type Clock struct {
	clockwork.Clock
	store  *store.Store
	offset atomic.Int64
}

// NewClock makes the clock of a demo database.
func NewClock(ctx context.Context, s *store.Store) (*Clock, error) {
	offset, err := s.ClockOffset(ctx)
	c := &Clock{Clock: clockwork.NewRealClock(), store: s}
	c.offset.Store(int64(offset))
	return c, err
}

// Now is the demo's time.
func (c *Clock) Now() time.Time { return c.Clock.Now().Add(time.Duration(c.offset.Load())) }

// Set moves the clock.
func (c *Clock) Set(ctx context.Context, t time.Time) error {
	offset := t.Sub(c.Clock.Now())
	if err := c.store.SetClockOffset(ctx, offset); err != nil {
		return err
	}
	c.offset.Store(int64(offset))
	return nil
}
