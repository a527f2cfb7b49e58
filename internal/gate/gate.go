// Package gate is the state of delivery for an inbox, as it is planned and as it was
// changed by hand: read off the store, worked out by core/delivery.
package gate

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Gates are the plans in force and what was done by hand, for each account.
type Gates struct {
	// PlanID is the common plan; 0 for none.
	PlanID   int64
	Cal      when.Calendar
	Common   *delivery.Gate
	Own      map[int64]*delivery.Gate
	Accounts []int64      // with 0, which stands for letters to no account
	Holds    []store.Hold // not ended, the latest first
	byHand   []delivery.ByHand
}

// Of reads how delivery is planned.
func Of(tx *store.Tx) (Gates, error) {
	p, err := tx.InboxSettings()
	if err != nil {
		return Gates{}, err
	}
	g := Gates{PlanID: p.PlanID, Cal: p.Calendar(), Own: map[int64]*delivery.Gate{}, Accounts: []int64{0}}
	accounts, err := tx.Accounts()
	if err != nil {
		return g, err
	}
	ids := []int64{p.PlanID}
	for _, a := range accounts {
		g.Accounts = append(g.Accounts, a.ID)
		if a.PlanID > 0 {
			ids = append(ids, a.PlanID)
		}
	}
	plans, err := tx.Plans(len(ids), ids...)
	if err != nil {
		return g, err
	}
	gate := func(id int64) *delivery.Gate {
		for _, p := range plans {
			if p.ID == id {
				return delivery.NewGate(p.Value, g.Cal)
			}
		}
		return delivery.NewGate(delivery.Plan{}, g.Cal)
	}
	g.Common = gate(p.PlanID)
	for _, a := range accounts {
		if a.PlanID >= 0 {
			g.Own[a.ID] = gate(a.PlanID)
		}
	}
	g.Holds, err = tx.OpenHolds()
	for _, h := range g.Holds {
		g.byHand = append(g.byHand, h.ByHand())
	}
	return g, err
}

// For reads how delivery is planned, for an account of the person or for
// all (0).
func For(tx *store.Tx, account int64) (Gates, error) {
	g, err := Of(tx)
	if err == nil && !slices.Contains(g.Accounts, account) {
		err = ErrNoAccount
	}
	return g, err
}

var ErrNoAccount = work.Gone("That account is no longer there.")

// Under are the accounts whose letters are meant where an account's plan, or
// the common one (0), is looked at; nil for all.
func (g Gates) Under(account int64) []int64 {
	if account != 0 {
		return []int64{account}
	}
	if len(g.Own) == 0 {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(g.Accounts), func(a int64) bool { return g.Own[a] != nil })
}

// Of gives an account's gate and what was done by hand.
func (g Gates) Of(account int64) (*delivery.Gate, delivery.OneOff) {
	gate := g.Common
	if own := g.Own[account]; own != nil {
		gate = own
	}
	return gate, delivery.InForce(g.byHand, account)
}

// State is how delivery stands for an account at a moment.
func (g Gates) State(account int64, at time.Time) delivery.State {
	gate, o := g.Of(account)
	return gate.State(at, o)
}

// Delivers tells whether mail to an account is let in at the very moment.
func (g Gates) Delivers(account int64, at time.Time) bool {
	gate, o := g.Of(account)
	return gate.Delivers(at, o)
}

// Reaches tells whether what waits for a delivery has one at the moment, or
// needs none.
func (g Gates) Reaches(account int64, at time.Time) bool {
	gate, o := g.Of(account)
	return gate.Reaches(at, o)
}

// Next is the first delivery after a moment, of any account.
func (g Gates) Next(at time.Time) (next time.Time) {
	for _, a := range g.Accounts {
		if n := g.State(a, at).Next; !n.IsZero() && (next.IsZero() || n.Before(next)) {
			next = n
		}
	}
	return next
}

// Rounds are the deliveries in [from, to): those that came, and those to come
// by the common plan, where it has rounds.
func (g Gates) Rounds(tx *store.Tx, from, now, to time.Time) ([]time.Time, error) {
	out, err := tx.Deliveries(from, to)
	if err != nil || !g.Common.HasRounds() {
		return append([]time.Time{}, out...), err
	}
	if from.Before(now) {
		from = now.Add(time.Nanosecond)
	}
	for t := from.Add(-time.Nanosecond); ; {
		next := g.State(0, t).Next
		if next.IsZero() || !next.Before(to) {
			return append([]time.Time{}, out...), nil
		}
		out = append(out, next)
		t = next
	}
}
