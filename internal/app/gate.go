package app

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// gates are the plans in force and what was done by hand, for each account.
type gates struct {
	cal      when.Calendar
	common   *delivery.Gate
	own      map[int64]*delivery.Gate
	accounts []int64      // with 0, which stands for letters to no account
	holds    []store.Hold // not ended, the latest first
	byHand   []delivery.ByHand
}

// gatesOf reads how delivery is planned.
func gatesOf(tx *store.Tx) (gates, error) {
	p, err := tx.Person()
	if err != nil {
		return gates{}, err
	}
	g := gates{cal: p.Calendar(), own: map[int64]*delivery.Gate{}, accounts: []int64{0}}
	accounts, err := tx.Accounts()
	if err != nil {
		return g, err
	}
	ids := []int64{p.PlanID}
	for _, a := range accounts {
		g.accounts = append(g.accounts, a.ID)
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
				return delivery.NewGate(p.Value, g.cal)
			}
		}
		return delivery.NewGate(delivery.Plan{}, g.cal)
	}
	g.common = gate(p.PlanID)
	for _, a := range accounts {
		if a.PlanID >= 0 {
			g.own[a.ID] = gate(a.PlanID)
		}
	}
	g.holds, err = tx.OpenHolds()
	for _, h := range g.holds {
		g.byHand = append(g.byHand, h.ByHand())
	}
	return g, err
}

// gatesFor reads how delivery is planned, for an account of the person or for
// all (0).
func gatesFor(tx *store.Tx, account int64) (gates, error) {
	g, err := gatesOf(tx)
	if err == nil && !slices.Contains(g.accounts, account) {
		err = errNoAccount
	}
	return g, err
}

var errNoAccount = work.Gone("That account is no longer there.")

// under are the accounts whose letters are meant where an account's plan, or
// the common one (0), is looked at; nil for all.
func (g gates) under(account int64) []int64 {
	if account != 0 {
		return []int64{account}
	}
	if len(g.own) == 0 {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(g.accounts), func(a int64) bool { return g.own[a] != nil })
}

// of gives an account's gate and what was done by hand.
func (g gates) of(account int64) (*delivery.Gate, delivery.OneOff) {
	gate := g.common
	if own := g.own[account]; own != nil {
		gate = own
	}
	return gate, delivery.InForce(g.byHand, account)
}

func (g gates) state(account int64, at time.Time) delivery.State {
	gate, o := g.of(account)
	return gate.State(at, o)
}

// delivers tells whether mail to an account is let in at the very moment.
func (g gates) delivers(account int64, at time.Time) bool {
	gate, o := g.of(account)
	return gate.Delivers(at, o)
}

// reaches tells whether what waits for a delivery has one at the moment, or
// needs none.
func (g gates) reaches(account int64, at time.Time) bool {
	gate, o := g.of(account)
	return gate.Reaches(at, o)
}

// next is the first delivery after a moment, of any account.
func (g gates) next(at time.Time) (next time.Time) {
	for _, a := range g.accounts {
		if n := g.state(a, at).Next; !n.IsZero() && (next.IsZero() || n.Before(next)) {
			next = n
		}
	}
	return next
}

// bands are the held stretches of [from, to), by the common plan and by hand.
func (g gates) bands(tx *store.Tx, from, to time.Time) ([]Band, error) {
	past, err := tx.PlansSince(from)
	if err != nil {
		return nil, err
	}
	plans := make([]delivery.Since, len(past))
	for i, p := range past {
		plans[i] = delivery.Since{At: p.At, Gate: delivery.NewGate(p.Plan, g.cal)}
	}
	list, err := tx.HoldsSince(from)
	holds := make([]delivery.Hold, len(list))
	for i, h := range list {
		holds[i] = h.ByHand().Hold
	}
	out := []Band{}
	for _, b := range slices.Concat(delivery.BandsSince(plans, from, to), delivery.HoldBands(holds, from, to)) {
		out = append(out, Band{b.From, b.To, b.Cause})
	}
	return out, err
}

// rounds are the deliveries in [from, to): those that came, and those to come
// by the common plan, where it has rounds.
func (g gates) rounds(tx *store.Tx, from, now, to time.Time) ([]time.Time, error) {
	out, err := tx.Deliveries(from, to)
	if err != nil || !g.common.HasRounds() {
		return orEmpty(out), err
	}
	if from.Before(now) {
		from = now.Add(time.Nanosecond)
	}
	for t := from.Add(-time.Nanosecond); ; {
		next := g.state(0, t).Next
		if next.IsZero() || !next.Before(to) {
			return orEmpty(out), nil
		}
		out = append(out, next)
		t = next
	}
}

// regate keeps when the next delivery comes, after a change of what it follows
// from.
func (s *step) regate() error {
	g, err := gatesOf(s.Tx)
	if err != nil {
		return err
	}
	return s.SetDelivery(g.next(s.At))
}

// gateKinds are the objects from which the next delivery follows.
var gateKinds = []change.Kind{kinds.Person.Kind, kinds.Account.Kind, kinds.Hold.Kind}

// atTheGate is stale when something waits, or was let in.
var atTheGate = []work.Reading{work.ReadOverview, work.ReadDelivery}

// GateView is how delivery stands now.
type GateView struct {
	Open  bool           `json:"open"`
	Cause delivery.Cause `json:"cause" enum:"opened,hold,closed,quiet,between,open"`
	// Next is the next delivery, and Until when an open gate holds again.
	Next  *time.Time `json:"next,omitempty"`
	Until *time.Time `json:"until,omitempty"`
	Words string     `json:"words" doc:"Until when, in words; empty where nothing is known to come"`
	Asks  bool       `json:"asks" doc:"A hold has lasted so long that it may be forgotten"`
	All   bool       `json:"all,omitempty" doc:"Nothing is let through either"`
	// Planned tells that there is a plan.
	Planned  bool          `json:"planned"`
	Accounts []AccountGate `json:"accounts" doc:"Accounts for which it stands otherwise"`
}

// AccountGate is how delivery stands for one account.
type AccountGate struct {
	Account int64  `json:"account"`
	Label   string `json:"label"`
	Open    bool   `json:"open"`
	Words   string `json:"words"`
}

func (v viewer) gate(tx *store.Tx) (GateView, error) {
	g, err := gatesOf(tx)
	if err != nil {
		return GateView{}, err
	}
	out := v.gateView(g, 0)
	accounts, err := tx.Accounts()
	for _, a := range accounts {
		if one := v.gateView(g, a.ID); one.Open != out.Open || one.Words != out.Words {
			out.Accounts = append(out.Accounts, AccountGate{a.ID, a.Label, one.Open, one.Words})
		}
	}
	return out, err
}

func (v viewer) gateView(g gates, account int64) GateView {
	gate, o := g.of(account)
	s := gate.State(v.now, o)
	out := GateView{Open: s.Open, Cause: s.Cause, Planned: v.person.PlanID != 0 || len(g.own) > 0, Accounts: []AccountGate{}}
	if o.Hold.Covers(v.now) {
		out.Asks, out.All = o.Hold.Asks(v.now), o.Hold.All
	}
	if !s.Next.IsZero() {
		out.Next = &s.Next
	}
	switch {
	case !s.Open && s.Next.IsZero():
		out.Words = "until you let it in"
	case !s.Open:
		out.Words = "until " + v.short(s.Next)
	case !s.Until.IsZero():
		out.Until, out.Words = &s.Until, "until "+v.short(s.Until)
	}
	return out
}
