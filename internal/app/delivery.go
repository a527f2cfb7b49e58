package app

import (
	"context"
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Holding is a hold to be begun.
type Holding struct {
	// Until is a phrase; empty for until let in.
	Until   string
	Account int64 // 0 for all
	// Everything holds what would be let through as well.
	Everything bool
}

// Hold holds delivery back from now on. A hold in force is replaced.
func (a *App) Hold(ctx context.Context, who store.Who, command string, in Holding) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: show.HoldKind, Title: "Delivery held until you let it in"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		if _, err := gate.For(s.Tx, in.Account); err != nil {
			return Decided{}, err
		}
		moment, err := s.optional(&in.Until)
		if err != nil {
			return Decided{}, err
		}
		if moment != nil && moment.Precision == when.Open {
			moment = nil
		}
		if moment != nil && !moment.UTC.After(s.At) {
			return Decided{}, work.Invalid("until", "That has passed; a hold ends later than now.")
		}
		if err := s.endHolds(in.Account); err != nil {
			return Decided{}, err
		}
		if err := s.addHold(store.Hold{Account: in.Account, From: s.At, Until: moment, Everything: in.Everything}); err != nil {
			return Decided{}, err
		}
		if moment != nil {
			longer, err := s.heldOnBy(in.Account, moment.UTC)
			if err != nil {
				return Decided{}, err
			}
			s.Title = "Delivery held until " + s.speak(*moment) + longer
		} else if in.Until != "" {
			s.Title += ": “" + say.Shorten(in.Until, 40) + "” names no time"
		}
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

// heldOnBy says why letters still wait when a hold ends, and until when; "" if
// they come in then.
func (s *step) heldOnBy(account int64, end time.Time) (string, error) {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return "", err
	}
	after := g.State(account, end)
	cause := map[delivery.Cause]string{delivery.Closed: "a closed block", delivery.Quiet: "quiet hours"}[after.Cause]
	if after.Open || cause == "" || g.Delivers(account, end) {
		return "", nil
	}
	if after.Next.IsZero() {
		return "; then by " + cause + " of your plan", nil
	}
	p, err := s.Person()
	if err != nil {
		return "", err
	}
	return "; then by " + cause + " of your plan until " + s.speak(when.Exact(after.Next, p.Calendar())), nil
}

func (s *step) addHold(h store.Hold) error {
	id, err := s.AddHold(h)
	if err != nil {
		return err
	}
	var changes change.List
	kinds.Hold.Alive.Set(&changes, id, false, true)
	return s.Change(changes)
}

// endHolds ends the holds and openings of an account, or all of them (0).
func (s *step) endHolds(account int64) error {
	open, err := s.OpenHolds()
	if err != nil {
		return err
	}
	var changes change.List
	for _, h := range open {
		if account == 0 || h.Account == account {
			kinds.Hold.EndedAt.Set(&changes, h.ID, nil, millisOf(s.At))
		}
	}
	return s.Change(changes)
}

func millisOf(t time.Time) *int64 {
	ms := t.UnixMilli()
	return &ms
}

// LetIn is one round at this moment: it lets in everything that is held, for an
// account or for all (0), and the state stays. With open, delivery is open from
// now on as well: until a new hold, the next start of quiet or closed time, or
// the next round.
func (a *App) LetIn(ctx context.Context, who store.Who, command string, account int64, open bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "let-in"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		g, err := gate.For(s.Tx, account)
		if err != nil {
			return Decided{}, err
		}
		if state := g.State(account, s.At); !state.Open && state.Cause != delivery.Held {
			s.Kind = "let-in-early"
		}
		if open {
			if err := s.open(account); err != nil {
				return Decided{}, err
			}
		}
		b, err := s.round(g, func(a int64) bool { return account == 0 || a == account })
		if err != nil {
			return Decided{}, err
		}
		s.Title = b.letIn()
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}

// open ends holds, and opens delivery where the plan would still hold it.
func (s *step) open(account int64) error {
	if err := s.endHolds(account); err != nil {
		return err
	}
	g, err := gate.Of(s.Tx)
	if err != nil || g.State(account, s.At).Open {
		return err
	}
	return s.addHold(store.Hold{Account: account, From: s.At, Opens: true})
}

// letIn is what has been brought, as the title of a step.
func (b brought) letIn() string {
	if b == (brought{}) {
		return "Nothing was waiting"
	}
	return b.String() + " let in"
}

// deliver carries out the deliveries of this moment: a round of the plan, or
// the end of held time.
func (s *step) deliver() error {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	b, err := s.round(g, func(account int64) bool { return g.Delivers(account, s.At) })
	if err != nil {
		return err
	}
	s.Title = b.letIn()
	if !g.State(0, s.At).Open {
		s.Title = fmt.Sprintf("The %s round: %s", s.At.In(g.Cal.Zone).Format("15:04"), b)
	}
	var changes change.List
	for _, h := range g.Holds { // those that have run out
		if !h.Opens && h.Until != nil && !h.Until.UTC.After(s.At) {
			kinds.Hold.EndedAt.Set(&changes, h.ID, nil, millisOf(h.Until.UTC))
		}
	}
	if err := s.Change(changes); err != nil {
		return err
	}
	return s.regate()
}

// comeBack brings a put-off conversation back to the inbox.
func (s *step) comeBack(conversation int64) error {
	row, err := s.Conversation(conversation)
	if err != nil {
		return err
	}
	s.Title = "Came back: “" + say.Shorten(row.Title(), 60) + "”"
	if row.Return != nil && row.Return.When.Precision == when.Open && row.Return.If == when.Always {
		return s.Change(decide.LookThrough(row.State(), s.At))
	}
	return s.Change(decide.Due(row.State(), s.At))
}
