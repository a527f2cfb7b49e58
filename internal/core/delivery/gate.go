package delivery

import (
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/when"
)

// Cause is why mail is held, or why it is open.
type Cause string

// The causes, the strongest first.
const (
	Opened  Cause = "opened"  // opened by hand
	Held    Cause = "hold"    // held by hand
	Closed  Cause = "closed"  // a closed block
	Quiet   Cause = "quiet"   // quiet hours
	Between Cause = "between" // between rounds
	Flowing Cause = "open"    // nothing holds it
)

// Hold keeps letters back from From until Until, or until let in by hand when
// Until is nil. With All, nothing is let through either.
type Hold struct {
	From  time.Time
	Until *time.Time
	All   bool
}

// Covers tells whether the hold is in force at t.
func (h *Hold) Covers(t time.Time) bool {
	return h != nil && !t.Before(h.From) && (h.Until == nil || t.Before(*h.Until))
}

// AskAfter is how long an indefinite hold lasts before Ebbe asks about it.
const AskAfter = 12 * time.Hour

// Asks tells whether it is time to ask whether the hold is still meant.
func (h *Hold) Asks(now time.Time) bool {
	return h.Covers(now) && h.Until == nil && now.Sub(h.From) >= AskAfter
}

// OneOff is what was done by hand beside the plan. A hold ends an opening, and
// an opening a hold.
type OneOff struct {
	Hold *Hold
	// Opened is since when delivery is open; zero if it is not.
	Opened time.Time
}

// State is the gate at a moment.
type State struct {
	Open  bool
	Cause Cause
	// Next is the next delivery after the moment: of what is held now, or
	// would be held next where mail flows. Zero if none is known.
	Next time.Time
	// Until is when an open gate begins to hold again; zero if that is not
	// known, or while it holds.
	Until time.Time
}

// Gate is a plan made ready to be asked.
type Gate struct {
	cal    when.Calendar
	rounds bool
	flows  bool // it never holds anything
	days   [7]ready
	except map[when.Date]*ready
	kinds  []KindRound
}

// ready is one day of a plan, with held time as one sorted list.
type ready struct {
	rounds []when.Minute
	closed []Span
	held   []Span // quiet or closed
}

// NewGate makes a plan ready in a calendar, whose zone it follows.
func NewGate(p Plan, c when.Calendar) *Gate {
	p = p.Tidy()
	g := &Gate{cal: c, rounds: p.HasRounds(), flows: p.Flows(), kinds: p.Kinds}
	for i, d := range p.Days {
		g.days[i] = makeReady(d)
	}
	if len(p.Exceptions) > 0 {
		g.except = make(map[when.Date]*ready, len(p.Exceptions))
		for _, e := range p.Exceptions {
			if date, ok := when.ReadDate(e.Date); ok {
				r := makeReady(e.DayPlan)
				g.except[date] = &r
			}
		}
	}
	return g
}

// HasRounds tells whether mail is let in only by rounds.
func (g *Gate) HasRounds() bool { return g.rounds }

func makeReady(d DayPlan) ready {
	return ready{rounds: d.Rounds, closed: merge(d.Closed), held: merge(slices.Concat(d.Quiet, d.Closed))}
}

// merge makes spans that meet or overlap one.
func merge(list []Span) []Span {
	list = slices.Clone(list)
	slices.SortFunc(list, func(a, b Span) int { return int(a.From) - int(b.From) })
	var out []Span
	for _, s := range list {
		if s.From >= s.To {
			continue
		}
		if n := len(out); n > 0 && s.From <= out[n-1].To {
			out[n-1].To = max(out[n-1].To, s.To)
			continue
		}
		out = append(out, s)
	}
	return out
}

// frame is a civil day with its plan. On days on which the clock does not jump
// a minute of it is found by adding.
type frame struct {
	*ready
	date  when.Date
	start time.Time
	plain bool
	gate  *Gate
}

func (g *Gate) frame(d when.Date) frame {
	f := frame{date: d, gate: g, start: g.cal.Boundary(d, 0)}
	f.plain = g.cal.Boundary(d, day).Sub(f.start) == 24*time.Hour
	if f.ready = g.except[d]; f.ready == nil {
		f.ready = &g.days[d.Weekday()]
	}
	return f
}

func (f frame) at(m when.Minute) time.Time {
	if f.plain {
		return f.start.Add(time.Duration(m) * time.Minute)
	}
	return f.gate.cal.Boundary(f.date, m)
}

// plannedAt is the end of the planned held time that covers t, within its day.
func (f frame) plannedAt(t time.Time, list []Span) (from, to time.Time, ok bool) {
	i, _ := slices.BinarySearchFunc(list, t, func(s Span, t time.Time) int {
		if f.at(s.To).After(t) {
			return 1
		}
		return -1
	})
	if i == len(list) {
		return from, to, false
	}
	from, to = f.at(list[i].From), f.at(list[i].To)
	return from, to, !t.Before(from) && t.Before(to)
}

func (g *Gate) dateOf(t time.Time) when.Date { return when.DateOf(t.In(g.cal.Zone)) }

// farDays bounds how far a stretch of held time is followed.
const farDays = ExceptionDays + WithinDays + 2

// heldUntil is the end of the union of adjoining held times that covers t;
// ok is false where t is not held by plan or hold, and the end is zero where
// none is known.
func (g *Gate) heldUntil(t time.Time, o OneOff) (end time.Time, ok bool) {
	end = t
	f := g.frame(g.dateOf(t))
	for range 4 * farDays {
		if o.Hold.Covers(end) {
			if o.Hold.Until == nil {
				return time.Time{}, true
			}
			end, ok = *o.Hold.Until, true
			f = g.frame(g.dateOf(end))
			continue
		}
		if d := g.dateOf(end); d != f.date {
			f = g.frame(d)
		}
		_, to, planned := f.plannedAt(end, f.held)
		if !planned {
			return end, ok
		}
		end, ok = to, true
	}
	return time.Time{}, true
}

// heldSince is the start of the union of adjoining held times that covers t.
func (g *Gate) heldSince(t time.Time, o OneOff) time.Time {
	start := t
	for range 4 * farDays {
		// What ends where this starts adjoins it.
		before := start.Add(-time.Nanosecond)
		if o.Hold.Covers(start) && o.Hold.From.Before(start) || o.Hold.Covers(before) {
			start = o.Hold.From
			continue
		}
		f := g.frame(g.dateOf(start))
		if from, _, ok := f.plannedAt(start, f.held); ok && from.Before(start) {
			start = from
			continue
		}
		f = g.frame(g.dateOf(before))
		from, _, ok := f.plannedAt(before, f.held)
		if !ok {
			return start
		}
		start = from
	}
	return start
}

// roundAfter is the first round of the plan after t, wherever it comes to lie;
// zero if there is none before the bound.
func (g *Gate) roundAfter(t time.Time, bound time.Time) time.Time {
	for d := g.dateOf(t); ; d = d.Add(1) {
		f := g.frame(d)
		if f.start.After(bound) {
			return time.Time{}
		}
		for _, r := range f.rounds {
			if at := f.at(r); at.After(t) {
				return at
			}
		}
	}
}

// after is the next delivery after t: a round, where there are rounds, else the
// end of held time. Rounds inside held time come at its end.
func (g *Gate) after(t time.Time, o OneOff) time.Time {
	end, held := g.heldUntil(t, o)
	if !g.rounds {
		if !held {
			if next := g.heldAfter(t, o); !next.IsZero() {
				end, _ = g.heldUntil(next, o)
				return end
			}
			return time.Time{}
		}
		return end
	}
	bound := t.AddDate(0, 0, farDays)
	if held {
		since := g.heldSince(t, o).Add(-time.Nanosecond)
		if r := g.roundAfter(since, bound); !r.IsZero() && (end.IsZero() || !r.After(end)) {
			return end // one was swallowed, or will be
		}
		if end.IsZero() {
			return end
		}
		t = end.Add(-time.Nanosecond)
	}
	r := g.roundAfter(t, bound)
	if r.IsZero() {
		return r
	}
	if to, ok := g.heldUntil(r, o); ok {
		return to
	}
	return r
}

// heldAfter is the first start of held time after t, where t is not held; zero
// if none comes within the bound.
func (g *Gate) heldAfter(t time.Time, o OneOff) time.Time {
	first := time.Time{}
	take := func(at time.Time) {
		if at.After(t) && (first.IsZero() || at.Before(first)) {
			first = at
		}
	}
	if o.Hold != nil {
		take(o.Hold.From)
	}
	if g.flows {
		return first
	}
	bound := t.AddDate(0, 0, farDays)
	for d := g.dateOf(t); ; d = d.Add(1) {
		f := g.frame(d)
		if f.start.After(bound) {
			return first
		}
		for _, s := range f.held {
			if at := f.at(s.From); at.After(t) && f.at(s.To).After(at) {
				take(at)
				return first
			}
		}
	}
}

// OpenUntil is when an opening made at from ends by itself: at the next start
// of quiet or closed time, or at the next round; zero if neither is known.
func (g *Gate) OpenUntil(from time.Time) time.Time {
	t := from
	if end, ok := g.heldUntil(from, OneOff{}); ok {
		t = end // the held time that it was opened in starts no more
	}
	until := g.heldAfter(t.Add(-time.Nanosecond), OneOff{})
	if g.rounds {
		if r := g.after(from, OneOff{}); !r.IsZero() && (until.IsZero() || r.Before(until)) {
			until = r
		}
	}
	return until
}

// State tells how the gate stands at t.
func (g *Gate) State(t time.Time, o OneOff) State {
	if !o.Opened.IsZero() && !t.Before(o.Opened) {
		if until := g.OpenUntil(o.Opened); until.IsZero() || t.Before(until) {
			return State{Open: true, Cause: Opened, Until: until, Next: g.after(t, OneOff{})}
		}
	}
	s := State{Next: g.after(t, o)}
	f := g.frame(g.dateOf(t))
	switch {
	case o.Hold.Covers(t):
		s.Cause = Held
	case covered(f, t, f.closed):
		s.Cause = Closed
	case covered(f, t, f.held):
		s.Cause = Quiet
	case g.rounds:
		s.Cause = Between
	default:
		s.Open, s.Cause, s.Until = true, Flowing, g.heldAfter(t, o)
	}
	return s
}

// Delivers tells whether what waited is let in at the very moment.
func (g *Gate) Delivers(t time.Time, o OneOff) bool {
	return g.State(t.Add(-time.Nanosecond), o).Next.Equal(t)
}

// Reaches tells whether what waits for a delivery has one at the moment, or
// needs none.
func (g *Gate) Reaches(t time.Time, o OneOff) bool {
	return g.State(t, o).Open || g.Delivers(t, o)
}

func covered(f frame, t time.Time, list []Span) bool {
	_, _, ok := f.plannedAt(t, list)
	return ok
}

// Deliveries lists the next n deliveries after t.
func (g *Gate) Deliveries(t time.Time, o OneOff, n int) []time.Time {
	var out []time.Time
	for len(out) < n {
		next := g.after(t, o)
		if next.IsZero() {
			break
		}
		out = append(out, next)
		t = next
	}
	return out
}

// Band is a stretch of held time.
type Band struct {
	From  time.Time
	To    time.Time
	Cause Cause
}

// Bands lists the held stretches of [from, to) by quiet and closed time, in
// order. Where both hold, it is closed.
func (g *Gate) Bands(from, to time.Time) []Band {
	var out []Band
	for d := g.dateOf(from); ; d = d.Add(1) {
		f := g.frame(d)
		if !f.start.Before(to) {
			return out
		}
		for _, h := range f.held {
			at := h.From
			for _, s := range f.closed {
				if s.From < h.From || s.To > h.To {
					continue
				}
				out = clip(out, Band{f.at(at), f.at(s.From), Quiet}, from, to)
				out = clip(out, Band{f.at(s.From), f.at(s.To), Closed}, from, to)
				at = s.To
			}
			out = clip(out, Band{f.at(at), f.at(h.To), Quiet}, from, to)
		}
	}
}

func clip(out []Band, b Band, from, to time.Time) []Band {
	if b.From.Before(from) {
		b.From = from
	}
	if b.To.After(to) {
		b.To = to
	}
	if !b.From.Before(b.To) {
		return out
	}
	return append(out, b)
}
