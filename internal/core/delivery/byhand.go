package delivery

import "time"

// ByHand is what was done by hand beside the plan: a hold, or with Opens an
// opening, of one account or of all (0).
type ByHand struct {
	Hold
	Account int64
	Opens   bool
}

// InForce gives what counts for an account: the latest that concerns it. The
// list holds those that were not ended, the latest first.
func InForce(list []ByHand, account int64) OneOff {
	for _, h := range list {
		switch {
		case h.Account != 0 && h.Account != account:
		case h.Opens:
			return OneOff{Opened: h.From}
		default:
			hold := h.Hold
			return OneOff{Hold: &hold}
		}
	}
	return OneOff{}
}

// HoldBands are the stretches of [from, to) that holds cover.
func HoldBands(holds []Hold, from, to time.Time) []Band {
	var out []Band
	for _, h := range holds {
		b := Band{h.From, to, Held}
		if h.Until != nil {
			b.To = *h.Until
		}
		out = clip(out, b, from, to)
	}
	return out
}

// Since is a plan with the moment at which it came into force.
type Since struct {
	At   time.Time
	Gate *Gate
}

// BandsSince are the held stretches of [from, to) by the plan that was in force
// at each moment, or is. Plans stand in the order in which they came into
// force; before the first there was none.
func BandsSince(plans []Since, from, to time.Time) []Band {
	var out []Band
	for i, p := range plans {
		start, end := p.At, to
		if start.Before(from) {
			start = from
		}
		if i+1 < len(plans) && plans[i+1].At.Before(to) {
			end = plans[i+1].At
		}
		if start.Before(end) {
			out = append(out, p.Gate.Bands(start, end)...)
		}
	}
	return out
}
