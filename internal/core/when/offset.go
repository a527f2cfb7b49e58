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
		_, end := at.ZoneBounds()
		if end.IsZero() || end.After(to) {
			end = to
		}
		_, seconds := at.Zone()
		out = append(out, Offset{From: at, To: end.In(zone), Minutes: seconds / 60})
		at = end.In(zone)
	}
	return out
}
