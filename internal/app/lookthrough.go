package app

import (
	"context"
	"fmt"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/schedule"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// lookThrough lets a few someday letters come up, those first that have waited
// longest. In a week without any nothing is written in the Journal.
func (a *App) lookThrough(ctx context.Context, ev schedule.Event) error {
	idle := false
	err := a.Store.Write(ctx, store.Nobody(ev.Owner), func(tx *store.Tx) error {
		p, err := tx.InboxSettings()
		if err != nil {
			return err
		}
		some, err := tx.Somedays(1)
		if idle = len(some) == 0 || ev.Due.UnixMilli() <= 0; err != nil || !idle {
			return err
		}
		return tx.SetLook(show.NextLook(p, a.Now()))
	})
	if err != nil || idle {
		return err
	}
	_, err = run(ctx, a, work.Command{ID: ev.Key(), Who: store.Nobody(ev.Owner), Actor: work.ByClock, Kind: ev.Kind.String(), At: ev.Due}, func(s *step) (int, error) {
		s.Final = true
		return s.lookThrough()
	})
	return err
}

func (s *step) lookThrough() (int, error) {
	p, err := s.InboxSettings()
	if err != nil {
		return 0, err
	}
	g, err := gate.Of(s.Tx)
	if err != nil {
		return 0, err
	}
	some, err := s.Somedays(p.LookCount)
	if err != nil {
		return 0, err
	}
	for _, id := range some {
		if _, err := s.alone(func() error {
			if delivery.Waits(true, g.Reaches(0, s.At)) {
				return s.Await(id)
			}
			return s.comeBack(id)
		}); err != nil {
			return 0, err
		}
	}
	s.Title = fmt.Sprintf("Someday letters to look through: %d", len(some))
	// After a long sleep one look-through is enough.
	return len(some), s.SetLook(show.NextLook(p, s.app.Now()))
}
