package meeting

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/ical"
	"ebbe.example/ebbe/internal/core/when"
)

// Series is how an appointment recurs (RFC 5545, 3.8.5).
type Series struct {
	// Wall is the first start by the clock of its zone, 20060102T150405; Days
	// tells that it takes whole days.
	Wall string `json:"wall"`
	Days bool   `json:"days,omitempty"`
	// Zone is the name of its zone, "" for UTC; Definition is the zone as the
	// file defines it (a VTIMEZONE), "" for one of the IANA database.
	Zone       string   `json:"zone,omitempty"`
	Definition string   `json:"definition,omitempty"`
	Rules      []string `json:"rules"`
	// Dates are added, Except are left out; milliseconds since 1970 UTC.
	Dates  []int64 `json:"dates,omitempty"`
	Except []int64 `json:"except,omitempty"`
}

func (s Series) zone(c when.Calendar) zone {
	if s.Days {
		return place{c.Zone}
	}
	if s.Definition != "" {
		top, _ := ical.Read(s.Definition)
		for _, z := range top.Named("VTIMEZONE") {
			if d := define(z); d != nil {
				return d
			}
		}
	}
	if s.Zone == "" {
		return place{time.UTC}
	}
	if z := zoneOf(s.Zone, nil); z != nil {
		return z
	}
	return place{c.Zone}
}

// Starts gives when it starts in [from, to), at most so many times, in order.
// Rules that can't be read are as if they weren't there.
func (s Series) Starts(c when.Calendar, from, to time.Time, most int) []time.Time {
	z := s.zone(c)
	first, err := time.Parse(wallForm, s.Wall)
	if err != nil {
		return nil
	}
	starts := map[int64]bool{z.instant(first).UnixMilli(): true}
	for _, text := range s.Rules {
		until := time.Time{}
		rule, limit := withoutUntil(text)
		if limit != "" {
			until = s.limit(limit, z)
		}
		r, err := floating(rule, first, 0)
		if err != nil {
			continue
		}
		next := r.Iterator()
		for range most + mostSkipped {
			wall, ok := next()
			if !ok {
				break
			}
			at := z.instant(wall)
			if !until.IsZero() && at.After(until) || !at.Before(to) {
				break
			}
			if !at.Before(from) {
				starts[at.UnixMilli()] = true
			}
			if len(starts) > most {
				break
			}
		}
	}
	for _, ms := range s.Dates {
		starts[ms] = true
	}
	for _, ms := range s.Except {
		delete(starts, ms)
	}
	var out []time.Time
	for ms := range starts {
		if at := time.UnixMilli(ms).UTC(); !at.Before(from) && at.Before(to) {
			out = append(out, at)
		}
	}
	slices.SortFunc(out, time.Time.Compare)
	return out[:min(len(out), most)]
}

// mostSkipped bounds how many starts before the stretch asked for are walked
// over.
const mostSkipped = 20_000

// withoutUntil takes the UNTIL out of a rule: it is an instant, while the rule
// is reckoned by the clock.
func withoutUntil(rule string) (rest, until string) {
	var parts []string
	for part := range strings.SplitSeq(rule, ";") {
		name, value, _ := strings.Cut(part, "=")
		if strings.EqualFold(strings.TrimSpace(name), "UNTIL") {
			until = strings.TrimSpace(value)
			continue
		}
		if strings.TrimSpace(part) != "" {
			parts = append(parts, strings.TrimSpace(part))
		}
	}
	return strings.Join(parts, ";"), until
}

// limit is the last instant of a series.
func (s Series) limit(until string, z zone) time.Time {
	if t, err := time.Parse(stamp, until); err == nil {
		return t
	}
	if t, err := time.Parse(wallForm, until); err == nil {
		return z.instant(t)
	}
	if t, err := time.Parse("20060102", until); err == nil {
		return z.instant(t.Add(24*time.Hour - time.Second))
	}
	return time.Time{}
}

// On is a series at one of its times, as an appointment by itself. It lasts as
// long as the first one; whole days go by the calendar, however long they are.
func (e Event) On(at time.Time, c when.Calendar) Event {
	length := e.End.Sub(e.Start.UTC)
	one := e
	one.Series, one.Recurrence = nil, at
	if e.Start.Precision == when.ToDay {
		days := max(1, int((length+12*time.Hour)/(24*time.Hour)))
		day := c.Today(at.Add(12 * time.Hour))
		one.Start = when.OnDay(day, c)
		one.Start.Wall = day.String() + "T00:00"
		one.Start = one.Start.In(c)
		one.End = c.Instant(day.Add(days), 0)
		return one
	}
	one.Start, one.End = when.Exact(at, c), at.Add(length)
	return one
}

// Means tells whether a message about an appointment means the one of it that
// stands at a time of its rules; the zero time for one that stands alone
// (RFC 5545, 3.8.4.4).
func (e Event) Means(at time.Time) bool {
	return e.Recurrence.IsZero() || at.Equal(e.Recurrence) || e.Following && !at.Before(e.Recurrence)
}

// Reach is how far ahead the times of a series are looked at and made.
const Reach = 18 * 30 * 24 * time.Hour
