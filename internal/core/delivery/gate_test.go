package delivery

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

func calendar(t require.TestingT, zone string) when.Calendar {
	z, err := time.LoadLocation(zone)
	require.NoError(t, err)
	return when.Standard(z)
}

func plan(t require.TestingT, text string) Plan {
	p, err := ReadPlan(text)
	require.NoError(t, err)
	return p
}

const week = `mon-thu 8:30, 13:00, 16:30; closed 9-11:30; quiet 17:30-8:30
fri 8:30, 12, 15:30; quiet 17:30-24
sat quiet
sun quiet 0-24
mon quiet 0-8:30`

func at(c when.Calendar, text string) time.Time {
	t, err := time.ParseInLocation("2006-01-02 15:04", text, c.Zone)
	if err != nil {
		panic(err)
	}
	return t
}

func TestTheGate(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	until := at(c, "2026-11-24 13:30")
	short := at(c, "2026-11-24 12:30")
	for name, x := range map[string]struct {
		plan, now string
		o         OneOff
		open      bool
		cause     Cause
		next      string
		until     string
	}{
		"no plan":                                   {"", "2026-11-24 11:00", OneOff{}, true, Flowing, "", ""},
		"in a closed block":                         {week, "2026-11-24 11:06", OneOff{}, false, Closed, "2026-11-24 13:00", ""},
		"between rounds":                            {week, "2026-11-24 12:00", OneOff{}, false, Between, "2026-11-24 13:00", ""},
		"at the minute of a round":                  {week, "2026-11-24 13:00", OneOff{}, false, Between, "2026-11-24 16:30", ""},
		"over the night":                            {week, "2026-11-24 23:00", OneOff{}, false, Quiet, "2026-11-25 08:30", ""},
		"over the weekend":                          {week, "2026-11-28 10:00", OneOff{}, false, Quiet, "2026-11-30 08:30", ""},
		"a hold that swallows a round":              {week, "2026-11-24 12:00", OneOff{Hold: &Hold{From: at(c, "2026-11-24 11:40"), Until: &until}}, false, Held, "2026-11-24 13:30", ""},
		"a hold that swallows none":                 {week, "2026-11-24 12:00", OneOff{Hold: &Hold{From: at(c, "2026-11-24 11:40"), Until: &short}}, false, Held, "2026-11-24 13:00", ""},
		"a hold without an end":                     {week, "2026-11-24 12:00", OneOff{Hold: &Hold{From: at(c, "2026-11-24 11:40")}}, false, Held, "", ""},
		"a hold that meets quiet hours":             {"daily 16; quiet 17-20", "2026-11-24 15:30", OneOff{Hold: &Hold{From: at(c, "2026-11-24 15:00"), Until: ptr(at(c, "2026-11-24 17:00"))}}, false, Held, "2026-11-24 20:00", ""},
		"a hold while mail flows":                   {"", "2026-11-24 12:00", OneOff{Hold: &Hold{From: at(c, "2026-11-24 11:40"), Until: &until}}, false, Held, "2026-11-24 13:30", ""},
		"opened in a closed block, to the round":    {week, "2026-11-24 11:06", OneOff{Opened: at(c, "2026-11-24 11:00")}, true, Opened, "2026-11-24 13:00", "2026-11-24 13:00"},
		"opened, and closed again by the round":     {week, "2026-11-24 13:00", OneOff{Opened: at(c, "2026-11-24 11:00")}, false, Between, "2026-11-24 16:30", ""},
		"opened in quiet hours, to the next":        {"daily quiet 20-8", "2026-11-24 21:00", OneOff{Opened: at(c, "2026-11-24 20:30")}, true, Opened, "2026-11-25 08:00", "2026-11-25 20:00"},
		"flowing until quiet hours":                 {"daily quiet 20-8", "2026-11-24 12:00", OneOff{}, true, Flowing, "2026-11-25 08:00", "2026-11-24 20:00"},
		"a day that is an exception":                {week + "\n2026-11-25 \"St Catherine\" quiet", "2026-11-24 18:00", OneOff{}, false, Quiet, "2026-11-26 08:30", ""},
		"a round inside closed time":                {"daily 10; closed 9-11:30", "2026-11-24 09:30", OneOff{}, false, Closed, "2026-11-24 11:30", ""},
		"rounds that meet are one":                  {"daily 10, 11, 11:30; closed 9-11:30", "2026-11-24 11:30", OneOff{}, false, Between, "2026-11-25 11:30", ""},
		"quiet to midnight and from it is one":      {"daily 22; quiet 21-6", "2026-11-24 23:00", OneOff{}, false, Quiet, "2026-11-25 06:00", ""},
		"a round that does not exist":               {"daily 2:30", "2026-03-29 01:00", OneOff{}, false, Between, "2026-03-29 03:00", ""},
		"a closed block in the gap ends at its end": {"daily 2:10; closed 2:00-2:45", "2026-03-29 01:30", OneOff{}, false, Between, "2026-03-29 03:00", ""},
	} {
		s := NewGate(plan(t, x.plan), c).State(at(c, x.now), x.o)
		assert.Equal(t, x.open, s.Open, name)
		assert.Equal(t, x.cause, s.Cause, name)
		for what, pair := range map[string]struct {
			want string
			got  time.Time
		}{"next": {x.next, s.Next}, "until": {x.until, s.Until}} {
			if pair.want == "" {
				assert.True(t, pair.got.IsZero(), "%s: %s %s", name, what, pair.got)
			} else {
				assert.Equal(t, pair.want, pair.got.In(c.Zone).Format("2006-01-02 15:04"), name+": "+what)
			}
		}
	}
}

func ptr[T any](x T) *T { return &x }

// minutes is the gate worked out minute by minute, from nothing but the
// boundaries: slow, and plain to see.
type minutes struct {
	start        time.Time
	held, closed []bool // planned
	hold, round  []bool
	rounds       bool
}

func minuteByMinute(p Plan, c when.Calendar, from when.Date, days int, o OneOff) minutes {
	m := minutes{start: c.Boundary(from, 0), rounds: p.HasRounds()}
	n := days * 1440
	m.held, m.closed, m.hold, m.round = make([]bool, n), make([]bool, n), make([]bool, n), make([]bool, n)
	index := func(t time.Time) int { return int(t.Sub(m.start) / time.Minute) }
	mark := func(list []bool, a, b time.Time) {
		for i := max(index(a), 0); i < min(index(b), n); i++ {
			list[i] = true
		}
	}
	for i := range days + 1 {
		date := from.Add(i)
		d := p.Days[date.Weekday()]
		for _, e := range p.Exceptions {
			if e.Date == date.String() {
				d = e.DayPlan
			}
		}
		for _, s := range d.Quiet {
			mark(m.held, c.Boundary(date, s.From), c.Boundary(date, s.To))
		}
		for _, s := range d.Closed {
			mark(m.held, c.Boundary(date, s.From), c.Boundary(date, s.To))
			mark(m.closed, c.Boundary(date, s.From), c.Boundary(date, s.To))
		}
		for _, r := range d.Rounds {
			if i := index(c.Boundary(date, r)); i >= 0 && i < n {
				m.round[i] = true
			}
		}
	}
	if h := o.Hold; h != nil {
		end := m.start.Add(time.Duration(n) * time.Minute)
		if h.Until != nil {
			end = *h.Until
		}
		mark(m.hold, h.From, end)
	}
	return m
}

// states walks through the minutes and gives the state at each.
func (m minutes) states(opened time.Time) []State {
	n := len(m.held)
	out := make([]State, n)
	delivers := func(hold []bool) []bool {
		d, pending := make([]bool, n), false
		for i := range n {
			pending = pending || m.round[i]
			shut := m.held[i] || hold[i]
			if m.rounds {
				d[i] = pending && !shut
			} else {
				d[i] = i > 0 && !shut && (m.held[i-1] || hold[i-1])
			}
			if d[i] {
				pending = false
			}
		}
		return d
	}
	d, planned := delivers(m.hold), delivers(make([]bool, n))
	open := false
	for i := range n {
		now := m.start.Add(time.Duration(i) * time.Minute)
		starts := m.held[i] && (i == 0 || !m.held[i-1])
		if now.Equal(opened) {
			open = true
		} else if open && (starts || m.rounds && planned[i]) {
			open = false
		}
		switch {
		case open:
			out[i] = State{Open: true, Cause: Opened}
		case m.hold[i]:
			out[i].Cause = Held
		case m.closed[i]:
			out[i].Cause = Closed
		case m.held[i]:
			out[i].Cause = Quiet
		case m.rounds:
			out[i].Cause = Between
		default:
			out[i] = State{Open: true, Cause: Flowing}
		}
	}
	var next, nextPlanned time.Time
	for i := n - 1; i >= 0; i-- {
		if out[i].Next = next; out[i].Cause == Opened {
			out[i].Next = nextPlanned
		}
		now := m.start.Add(time.Duration(i) * time.Minute)
		if d[i] {
			next = now
		}
		if planned[i] {
			nextPlanned = now
		}
	}
	return out
}

func drawDay(rt *rapid.T, name string) DayPlan {
	spans := func(what string) []Span {
		var out []Span
		for i := range rapid.IntRange(0, 2).Draw(rt, name+what) {
			from := rapid.IntRange(0, 287).Draw(rt, fmt.Sprint(name, what, i, "from")) * 5
			to := rapid.IntRange(from/5+1, 288).Draw(rt, fmt.Sprint(name, what, i, "to")) * 5
			out = append(out, Span{when.Minute(from), when.Minute(to)})
		}
		return merge(out)
	}
	d := DayPlan{Quiet: spans("quiet"), Closed: spans("closed")}
	for i := range rapid.IntRange(0, 3).Draw(rt, name+"rounds") {
		d.Rounds = append(d.Rounds, when.Minute(rapid.IntRange(0, 287).Draw(rt, fmt.Sprint(name, "round", i))*5))
	}
	return d
}

var zones = []string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "America/St_Johns", "Africa/Cairo", "Asia/Tehran", "Pacific/Chatham", "America/Santiago", "UTC"}

func drawPlan(rt *rapid.T, around when.Date) Plan {
	var p Plan
	flows := rapid.Bool().Draw(rt, "without rounds")
	for i := range p.Days {
		p.Days[i] = drawDay(rt, fmt.Sprint("day", i))
		if flows {
			p.Days[i].Rounds = nil
		}
	}
	if rapid.Bool().Draw(rt, "exception") {
		d := drawDay(rt, "exception")
		if flows {
			d.Rounds = nil
		}
		p.Exceptions = append(p.Exceptions, Exception{Date: around.Add(rapid.IntRange(-3, 3).Draw(rt, "exception on")).String(), DayPlan: d})
	}
	return p.Tidy()
}

// The gate says what a walk through the minutes says, over random plans, holds
// and openings, in zones and years with all kinds of clock changes.
func TestTheGateAgainstTheMinutes(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		c := calendar(rt, rapid.SampledFrom(zones).Draw(rt, "zone"))
		date := when.Date{Year: rapid.IntRange(2007, 2037).Draw(rt, "year"), Month: time.January, Day: 1}.Add(rapid.IntRange(0, 365).Draw(rt, "day"))
		if rapid.Bool().Draw(rt, "at a clock change") {
			noon := c.Boundary(date, 720)
			if _, change := noon.ZoneBounds(); !change.IsZero() {
				date = when.DateOf(change)
			}
		}
		p := drawPlan(rt, date)
		if p.Check(c) != nil {
			return
		}
		const before, days = 20, 45
		from := date.Add(-before)
		start := c.Boundary(from, 0)
		minute := func(name string, low, high int) time.Time {
			return start.Add(time.Duration(rapid.IntRange(low*288, high*288).Draw(rt, name)) * 5 * time.Minute)
		}
		var o OneOff
		switch rapid.IntRange(0, 3).Draw(rt, "by hand") {
		case 1:
			o.Hold = &Hold{From: minute("held from", before-1, before+1)}
			if rapid.Bool().Draw(rt, "with an end") {
				o.Hold.Until = ptr(o.Hold.From.Add(time.Duration(rapid.IntRange(1, 600).Draw(rt, "for")) * 5 * time.Minute))
			}
		case 2:
			o.Opened = minute("opened", before-1, before+1)
		}
		g := NewGate(p, c)
		want := minuteByMinute(p, c, from, days, o).states(o.Opened)
		for i := range 40 {
			at := minute(fmt.Sprint("asked", i), before-1, before+2)
			w, got := want[int(at.Sub(start)/time.Minute)], g.State(at, o)
			if w.Open != got.Open || w.Cause != got.Cause || !w.Next.Equal(got.Next) {
				rt.Fatalf("%s, hold %+v, opened %s\n%s\nat %s\nby the minutes: %v %s next %s\nby the gate:    %v %s next %s", c.Zone, o.Hold, o.Opened.In(c.Zone), p,
					at.In(c.Zone), w.Open, w.Cause, w.Next.In(c.Zone), got.Open, got.Cause, got.Next.In(c.Zone))
			}
		}
	})
}

func TestWhatIsDueWithADelivery(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	rounds, quiet := NewGate(plan(t, week), c), NewGate(plan(t, "daily quiet 20-8"), c)
	for now, want := range map[string][2]bool{"2026-11-24 13:00": {true, true}, "2026-11-24 12:59": {false, true}, "2026-11-24 08:00": {false, true}, "2026-11-24 07:59": {false, false}} {
		assert.Equal(t, want[0], rounds.Reaches(at(c, now), OneOff{}), "rounds at %s", now)
		assert.Equal(t, want[1], quiet.Reaches(at(c, now), OneOff{}), "quiet hours at %s", now)
	}
}

// Whatever is held is let in by the next delivery, and deliveries go forward.
func TestDeliveriesGoForward(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		c := calendar(rt, rapid.SampledFrom(zones).Draw(rt, "zone"))
		date := when.Date{Year: 2026, Month: time.March, Day: rapid.IntRange(1, 31).Draw(rt, "day")}
		p := drawPlan(rt, date)
		if p.Check(c) != nil {
			return
		}
		g, last := NewGate(p, c), c.Boundary(date, 0)
		for _, d := range g.Deliveries(last, OneOff{}, 10) {
			if !d.After(last) {
				rt.Fatalf("%s comes after %s", d, last)
			}
			if _, held := g.heldUntil(d, OneOff{}); held {
				rt.Fatalf("the delivery at %s lies in held time", d)
			}
			last = d
		}
	})
}

func TestPlansAsText(t *testing.T) {
	p := plan(t, week)
	assert.Equal(t, "mon, tue, wed, thu 8:30, 13:00, 16:30; closed 9:00-11:30; quiet 0:00-8:30, 17:30-24:00", strings.Split(strings.Replace(p.String(), "mon-thu", "mon, tue, wed, thu", 1), "\n")[0])
	assert.Equal(t, p, plan(t, p.String()))
	rapid.Check(t, func(rt *rapid.T) {
		p := drawPlan(rt, when.Date{Year: 2026, Month: time.November, Day: 24})
		if p.Check(calendar(rt, "UTC")) != nil {
			return
		}
		if again := plan(rt, p.String()); again.String() != p.String() {
			rt.Fatalf("%s\nbecomes\n%s", p, again)
		}
	})
}

func TestTextThatIsNoPlan(t *testing.T) {
	for text, says := range map[string]string{
		"8:30":                 "no day",
		"mon 25:00":            "no time of day",
		"mon closed 9":         "no end",
		"mon 9-11":             "closed or quiet",
		"mon closed 9-9":       "empty",
		"mon perhaps":          "no time of day",
		"2026-12-24 quiet 9-8": "next day",
	} {
		_, err := ReadPlan(text)
		assert.ErrorContains(t, err, says, text)
	}
}

func FuzzReadPlan(f *testing.F) {
	f.Add(week)
	f.Add("2026-12-24 \"Eve\" quiet\nweekend quiet; 9")
	c := when.Standard(time.UTC)
	f.Fuzz(func(t *testing.T, text string) {
		p, err := ReadPlan(text)
		if err != nil || p.Check(c) != nil {
			return
		}
		again, err := ReadPlan(p.String())
		if err != nil || again.String() != p.String() {
			t.Fatalf("%q is read back as %q: %v", p, again, err)
		}
	})
}

func TestPlansThatCannotBePutInForce(t *testing.T) {
	c := calendar(t, "Europe/Oslo")
	for text, says := range map[string]string{
		"daily quiet":                    "never let anything in",
		"daily 10; closed":               "never let anything in",
		"mon closed 9-11, 10-12":         "overlap",
		"2026-12-24 quiet\n2026-12-24 9": "twice",
		"2026-12-24 9":                   "give the week a round",
	} {
		assert.ErrorContains(t, plan(t, text).Check(c), says, text)
	}
	p := Plan{}
	p.Days[1].Quiet = []Span{{600, 600}}
	assert.ErrorContains(t, p.Check(c), "empty")
	p.Days[1] = DayPlan{Rounds: []when.Minute{2000}}
	assert.ErrorContains(t, p.Check(c), "outside the day")
	long := plan(t, "daily 9")
	for d := (when.Date{Year: 2026, Month: time.December, Day: 1}); len(long.Exceptions) < 70; d = d.Add(1) {
		long.Exceptions = append(long.Exceptions, Exception{Date: d.String(), DayPlan: DayPlan{Quiet: []Span{{0, day}}}})
	}
	assert.ErrorContains(t, long.Check(c), "more than 60 days")
	assert.NoError(t, Plan{}.Check(c))
	assert.NoError(t, plan(t, "mon 9").Check(c), "once a week is enough")
	assert.Equal(t, []Moved{{"Wednesday", 600, "11:30", ""}, {"Wednesday", 630, "11:30", sorting.Reading}, {"Friday", 1320, "Saturday 06:00", ""}},
		plan(t, "wed 10; closed 9-11:30\nfri 22; quiet 21-6\nreading: wed 10:30, 12").MovedRounds())
}

// BenchmarkState asks a plan of 500 entries for its state and next delivery.
func BenchmarkState(b *testing.B) {
	c := calendar(b, "Europe/Oslo")
	var p Plan
	for i := range 500 {
		d := &p.Days[i%7]
		m := when.Minute(i / 7 * 20)
		if i%3 == 0 {
			d.Rounds = append(d.Rounds, m)
		} else {
			d.Closed = append(d.Closed, Span{m, m + 10})
		}
	}
	require.NoError(b, p.Check(c))
	g, t := NewGate(p, c), at(c, "2026-11-24 11:06")
	for i := 0; b.Loop(); i++ {
		g.State(t.Add(time.Duration(i%1440)*time.Minute), OneOff{})
	}
}
