// Package show holds all that pages read: rows, letters, the board, the day, what
// is ahead, search, export, and the words in which things are said. It reads
// within one transaction each, and cannot write.
package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Source is what is read: a store, of which nothing here can be changed.
type Source interface {
	Read(ctx context.Context, who store.Who, fn func(*store.Tx) error) error
	FeedOwner(ctx context.Context, secret string) (int64, error)
}

// Show reads for pages.
type Show struct {
	source Source
	now    func() time.Time
	about  About
	// Learned is what was learned of letters from what was done with them.
	Learned Learned
	// Pasts are what days came to that are over.
	Pasts Pasts
}

// About is what pages are told of the program itself.
type About interface {
	// Confined tells that letters reach only people of this Ebbe.
	Confined() bool
	// Failing says how events are called that failed.
	Failing() work.Dues
}

// New makes a Show that reads from a source, by a clock.
func New(source Source, now func() time.Time, about About) *Show {
	return &Show{source: source, now: now, about: about}
}

// read loads something for somebody, all of one moment.
func read[T any](ctx context.Context, a *Show, who store.Who, fn func(*store.Tx) (T, error)) (T, error) {
	var out T
	err := a.source.Read(ctx, who, func(tx *store.Tx) (err error) {
		out, err = fn(tx)
		return err
	})
	return out, err
}
