package app

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/work"
)

// regate keeps when the next delivery comes, after a change of what it follows
// from.
func (s *step) regate() error {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	up, _ := g.Common.NextKinds(s.At)
	return s.SetDelivery(g.Next(s.At), up)
}

// gateKinds are the objects from which the next delivery follows.
var gateKinds = []change.Kind{kinds.Person.Kind, kinds.Account.Kind, kinds.Hold.Kind}

// atTheGate is stale when something waits, or was let in.
var atTheGate = []work.Reading{work.ReadOverview, work.ReadDelivery}
