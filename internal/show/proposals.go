package show

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/store"
)

// Proposal is a time that can be taken. Phrase is what to send back.
type Proposal struct {
	Phrase string     `json:"phrase"`
	Label  string     `json:"label"`
	Words  string     `json:"words"`
	Why    string     `json:"why"`
	Key    string     `json:"key,omitempty" doc:"The key that takes it, if the person has given it one"`
	At     *time.Time `json:"at,omitempty"`
	Day    string     `json:"day,omitempty" doc:"2006-01-02"`
	Over   bool       `json:"over,omitempty" doc:"Its day is, or would be, over-full"`
	Makes  string     `json:"makes,omitempty" doc:"The place that must be named before it can be taken"`
}

func timeOf(m when.Moment) *time.Time {
	if m.Precision == when.Open {
		return nil
	}
	return &m.UTC
}

// proposal puts a wish into words, with what stands on its day.
func (p picker) proposal(w when.Wish, label, why string) Proposal {
	out := Proposal{Phrase: w.Canonical, Label: label, Why: why, Words: p.speak(w.Moment)}
	if strings.EqualFold(out.Label, out.Words) {
		out.Label = "no date; it stands at the end of Ahead"
	}
	switch {
	case w.If == when.IfSilent && w.Who == "":
		out.Words += ", if nobody has answered"
	case w.If == when.IfSilent:
		out.Words += ", if " + w.Who + " has not answered"
	case w.If == when.AtSpot && w.Timed():
		out.Words = "when I am at " + w.Spot + ", or " + out.Words
	case w.If != when.Always:
		out.Words = w.Canonical
	}
	if !w.Timed() {
		return out
	}
	day := w.Day(p.Cal)
	out.At, out.Day = &w.UTC, day.String()
	i := slices.IndexFunc(p.days, func(d load.Day) bool { return d.Date == day })
	if i < 0 {
		return out
	}
	d := p.days[i]
	planned := int((d.Planned + p.extra()).Minutes())
	switch {
	case d.Free == 0:
		out.Why = join(out.Why, "no working time that day")
	case d.Over(p.extra()):
		out.Over = true
		out.Why = join(out.Why, fmt.Sprintf("%s would be over-full: %d min planned for %d free", day.Weekday(), planned, int(d.Free.Minutes())))
	case d.Planned > 0:
		out.Why = join(out.Why, fmt.Sprintf("%d of %d free min planned", int(d.Planned.Minutes()), int(d.Free.Minutes())))
	}
	return out
}

func join(a, b string) string {
	if a == "" || b == "" {
		return a + b
	}
	return a + " · " + b
}

// proposals are what else could be meant: with the next delivery, the first
// day with room, when they answer, at a place, and the person's named times.
func (p picker) proposals() ([]Proposal, error) {
	out := []Proposal{}
	if !p.ask.Plain {
		places, err := p.contexts()
		if err != nil {
			return nil, err
		}
		computed, err := p.computed()
		if err != nil {
			return nil, err
		}
		out = append(places, computed...)
	}
	for _, n := range when.Propose(p.Now, p.Cal) {
		offer := p.proposal(when.Wish{Reading: n.Reading}, n.Name, p.far(n.Reading))
		offer.Key = n.Key
		out = append(out, offer)
	}
	return out, nil
}

func (p picker) computed() (out []Proposal, err error) {
	g, err := gate.Of(p.tx)
	if err != nil {
		return nil, err
	}
	if s := g.State(0, p.Now); !s.Open && !s.Next.IsZero() {
		at, label := when.Exact(s.Next, p.Cal), "with the next delivery"
		if g.Common.HasRounds() {
			label = "with the next round"
		}
		out = append(out, p.proposal(when.Wish{Reading: when.Reading{Moment: at, Canonical: at.Phrase}}, label, ""))
	}
	if d, ok := load.Room(p.days, p.extra()); ok {
		at := when.OnDay(d.Date, p.Cal)
		at.Phrase = at.Canonical(p.Cal)
		out = append(out, p.proposal(when.Wish{Reading: when.Reading{Moment: at, Canonical: at.Phrase}}, "the first day with room", ""))
	}
	if p.ask.Conversation != 0 {
		row, err := p.tx.Conversation(p.ask.Conversation)
		if err == nil && row.From.Email != "" {
			out = append(out, Proposal{Phrase: "when they answer", Label: "no date; it stands in Waiting until then", Words: "when " + p.firstName(row.From.Display()) + " answers"})
		}
	}
	for _, s := range p.Spots {
		if len(out) < 5 && s.ID != p.Person.SpotID {
			out = append(out, Proposal{Phrase: "when I am at " + s.Name, Label: "no date; say where you are in the bar", Words: "when I am at " + s.Name})
		}
	}
	return out, nil
}

// contexts are the contexts of follow-ups as places, for a phrase that asks for
// one: whoever works “in the archive” may well wait to be there.
func (p picker) contexts() (out []Proposal, err error) {
	if !when.AsksSpot(p.ask.Phrase) {
		return nil, nil
	}
	names, err := p.tx.UsedNames("context")
	if err != nil {
		return nil, err
	}
	for _, name := range names {
		if known := slices.ContainsFunc(p.Spots, func(s store.Spot) bool { return strings.EqualFold(s.Name, name) }); !known {
			out = append(out, Proposal{Phrase: "when I am at " + name, Label: "a context of your follow-ups; named a place with this", Words: "when I am at " + name, Makes: name})
		}
	}
	return out, nil
}

func (p picker) firstName(name string) string {
	if p.ask.Count > 1 {
		return "the sender"
	}
	return name
}

// far says how far away a reading is, and what was assumed.
func (v Viewer) far(r when.Reading) string {
	why := ""
	if r.Precision != when.Open {
		switch days := v.Cal.Today(v.Now).DaysUntil(r.Day(v.Cal)); days {
		case 0:
			why = "today"
		case 1:
			why = "in one day"
		default:
			why = "in " + strconv.Itoa(days) + " days"
		}
	}
	if r.Precision != when.Open && !sameOffset(r.UTC, v.Now, v.Cal.Zone) {
		why = join(why, "clocks are changed before then")
	}
	for _, n := range r.Notes {
		why = join(why, n)
	}
	return why
}

func sameOffset(a, b time.Time, zone *time.Location) bool {
	_, x := a.In(zone).Zone()
	_, y := b.In(zone).Zone()
	return x == y
}
