package show

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/store"
)

// bands are the held stretches of [from, to), by the common plan and by hand.
func bands(tx *store.Tx, g gate.Gates, from, to time.Time) ([]Band, error) {
	past, err := tx.PlansSince(from)
	if err != nil {
		return nil, err
	}
	plans := make([]delivery.Since, len(past))
	for i, p := range past {
		plans[i] = delivery.Since{At: p.At, Gate: delivery.NewGate(p.Plan, g.Cal)}
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

func (v Viewer) gate(tx *store.Tx) (GateView, error) {
	g, err := gate.Of(tx)
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

func (v Viewer) gateView(g gate.Gates, account int64) GateView {
	gate, o := g.Of(account)
	s := gate.State(v.Now, o)
	out := GateView{Open: s.Open, Cause: s.Cause, Planned: g.PlanID != 0 || len(g.Own) > 0, Accounts: []AccountGate{}}
	if o.Hold.Covers(v.Now) {
		out.Asks, out.All = o.Hold.Asks(v.Now), o.Hold.All
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
