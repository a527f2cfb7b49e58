package demo

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/post"
)

// Demo is what the demo bar does.
type Demo struct {
	app *app.App
	// Office is the address of the post office.
	Office string
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
		next, ok, err := d.app.Store.NextDue(ctx)
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

const sentInFact = "demo letters sent in"

// SendLetter sends the next of the demo's letters in, over SMTP, and gives its
// subject.
func (d *Demo) SendLetter(ctx context.Context, _ int64) (string, error) {
	text, err := d.app.Store.Fact(ctx, sentInFact)
	if err != nil {
		return "", err
	}
	n, _ := strconv.Atoi(text) // "" is none so far
	if err := d.app.Store.SetFact(ctx, sentInFact, strconv.Itoa(n+1)); err != nil {
		return "", err
	}
	m := walkIns[n%len(walkIns)]
	m.id = fmt.Sprintf("walk-in-%d", n)
	m.at = d.app.Now()
	raw, err := m.bytes(int64(n))
	if err != nil {
		return "", err
	}
	return m.subject, post.Relay{Addr: d.Office, Timeout: 10 * time.Second}.Send(ctx, m.from.Email, []string{m.to.Email}, raw)
}
