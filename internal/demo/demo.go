package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/postoffice/listserver"
	"ebbe.example/ebbe/internal/store"
)

// Demo is what the demo bar does.
type Demo struct {
	app *app.App
	// Office is the address of the post office.
	Office string
	// Outside is the mail server of the private address; nil for none.
	Outside *Outside
	// ListServer serves the mailing lists; nil for none.
	ListServer *listserver.Server
}

// New makes the demo bar of an App that runs on a demo Clock.
func New(a *app.App) *Demo { return &Demo{app: a} }

// MoveClock moves the clock forward, and lets everything happen that falls due
// on the way.
func (d *Demo) MoveClock(ctx context.Context, to string) error {
	clock, ok := d.app.Clock.(*Clock)
	if !ok {
		return errors.New("this is no demo")
	}
	now, c := d.app.Now(), calendar()
	var target time.Time
	switch to {
	case "10min":
		target = now.Add(10 * time.Minute)
	case "hour":
		target = now.Add(time.Hour)
	case "tomorrow":
		target = c.Instant(c.Today(now).Add(1), when.At(8, 20))
	case "next":
		next, ok, err := d.app.Store.NextDue(ctx, nil)
		if err != nil {
			return err
		}
		if !ok {
			return &app.Problem{Reason: "Nothing is due; the clock stays."}
		}
		target = next.Due.Add(time.Second)
		if target.Before(now) {
			target = now
		}
	default:
		return fmt.Errorf("the clock can't be moved to %q", to)
	}
	if err := Foresee(ctx, d.app.Store, target); err != nil {
		return err
	}
	if err := clock.Set(ctx, target); err != nil {
		return err
	}
	if _, err := d.app.RunDue(ctx); err != nil {
		return err
	}
	d.app.Wake()
	d.app.TellAll()
	return nil
}

// foreseen is how many days of letters lie in the post bag ahead of the clock.
const foreseen = 8

const foreseenFact = "demo letters foreseen until"

// Foresee puts the letters of the days to come into the post bag, so that
// people keep writing, and newsletters and alarms keep coming, as the clock
// moves. Letters that would have come already are left out.
func Foresee(ctx context.Context, s *store.Store, now time.Time) error {
	c := calendar()
	from := today
	if text, err := s.Fact(ctx, foreseenFact); err != nil {
		return err
	} else if d, ok := when.ReadDate(text); ok {
		from = d
	}
	until := c.Today(now).Add(foreseen)
	for d := from; d.Before(until); d = d.Add(1) {
		for _, a := range everyday(seed, d) {
			a.at = c.Instant(d, when.Minute(a.minute))
			if !a.at.After(now) {
				continue
			}
			raw, err := a.bytes(int64(a.minute))
			if err != nil {
				return err
			}
			to, err := json.Marshal([]string{a.to.Email})
			if err != nil {
				return err
			}
			if err := s.Bag(ctx, store.Bagged{Due: a.at, Sender: a.from.Email, Recipients: string(to), Data: raw}); err != nil {
				return err
			}
		}
		from = d.Add(1)
	}
	return s.SetFact(ctx, foreseenFact, from.String())
}
