package when

import "time"

// Offset is how many minutes a zone's clocks are ahead of UTC from a moment to another,
// the later one not included.
type Offset struct {
	From    time.Time `json:"from"`
	To      time.Time `json:"to"`
	Minutes int       `json:"minutes"`
}

// Offsets gives the offsets of a zone between two moments, in order and without gaps: a
// zone that sets its clocks twice a year has up to three in a year, others one.
func Offsets(zone *time.Location, from, to time.Time) []Offset {
	var out []Offset
	for at := from.In(zone); at.Before(to); {
		end, changes := ChangeAfter(at)
		if !changes || end.After(to) {
			end = to
		}
		_, seconds := at.Zone()
		out = append(out, Offset{From: at, To: end.In(zone), Minutes: seconds / 60})
		at = end.In(zone)
	}
	return out
}

// ChangeAfter is the first moment after at from which the clocks of at's zone are set
// otherwise, and false where they are never set again. It asks the zone again wherever
// time.Time.ZoneBounds ends a stretch without a change: past the years that a zone lists,
// that ends each stretch with the year, and a leap year a day early, on a moment whose own
// stretch then ends before it begins.
func ChangeAfter(at time.Time) (time.Time, bool) {
	_, offset := at.Zone()
	// Two stretches a year at most end without a change, so that one in this many years is
	// found, and a zone that has ended its changes is not asked for ever.
	const stretches = 16
	for range stretches {
		_, end := at.ZoneBounds()
		if end.IsZero() {
			return time.Time{}, false
		}
		if !end.After(at) {
			at = at.Add(24 * time.Hour)
			continue
		}
		if _, then := end.Zone(); then != offset {
			return end, true
		}
		at = end
	}
	return time.Time{}, false
}
