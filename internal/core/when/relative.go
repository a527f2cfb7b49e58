package when

import (
	"fmt"
	"strings"
	"time"
)

// Anchor is what a relative time is reckoned from.
type Anchor string

// The anchors.
const (
	FromDue   Anchor = "due"
	FromStart Anchor = "start"
)

// Relative is a time that moves with another: "1 day before at 10", "2 hours
// before start".
type Relative struct {
	Anchor Anchor `json:"anchor"`
	// Days before the anchor's day; At is the time on that day, nil for the
	// anchor's own.
	Days int     `json:"days,omitempty"`
	At   *Minute `json:"at,omitempty"`
	// Before is a length of time on the clock, in place of Days and At.
	Before time.Duration `json:"before,omitempty"`
}

// ReadRelative understands a time before a due or start; ok is false if the
// phrase is not about one, and may be an absolute time.
func ReadRelative(phrase string, c Calendar) (r Relative, ok bool, err error) {
	words := split(phrase)
	at := -1
	for i, w := range words {
		if w == "before" || w == "ahead" || w == "early" {
			at = i
		}
	}
	r.Anchor = FromDue
	if at < 0 {
		return r.onTheDay(words, c)
	}
	p := &parser{cursor: cursor{words[:at]}, cal: c, now: time.Unix(0, 0).UTC()}
	for w := p.peek(0); w == "the" || w == "at"; w = p.peek(0) {
		p.words = p.words[1:]
	}
	part := ""
	switch {
	case len(p.words) == 1 && (p.words[0] == "day" || p.words[0] == "night" || p.words[0] == "evening" || p.words[0] == "morning"):
		r.Days = 1
		part = map[string]string{"night": "evening", "evening": "evening", "morning": "morning"}[p.words[0]]
	default:
		s, n, err := p.length()
		if err != nil {
			return r, true, err
		}
		if n == 0 || n != len(p.words) {
			return r, true, refuse("How long before? Try “1 day before at 10” or “2 hours before”.")
		}
		if s.months != 0 || s.workdays != 0 {
			return r, true, refuse("A reminder goes by minutes, hours, days or weeks before.")
		}
		r.Days, r.Before = s.days, s.clock
	}
	rest := cursor{words[at+1:]}
	for len(rest.words) > 0 && (rest.words[0] == "the" || rest.words[0] == "it" || rest.words[0] == "is" || rest.words[0] == "due" || rest.words[0] == "start" || rest.words[0] == "starts" || rest.words[0] == "begins") {
		if w := rest.words[0]; w == "start" || w == "starts" || w == "begins" {
			r.Anchor = FromStart
		}
		rest.words = rest.words[1:]
	}
	if part != "" {
		m := c.parts()[part]
		r.At = &m
	}
	if len(rest.words) == 0 {
		return r, true, nil
	}
	m, err := clockAlone(rest.words, c)
	if err != nil {
		return r, true, err
	}
	if r.Before != 0 {
		return r, true, refuse("Name either how long before, or a day before and a time.")
	}
	r.At = &m
	return r, true, nil
}

// onTheDay reads "on the day at 9", "when due", "at the start".
func (r Relative) onTheDay(words []string, c Calendar) (Relative, bool, error) {
	text := strings.Join(words, " ")
	for _, opener := range []string{"on the day", "the same day", "same day", "that day"} {
		rest, ok := strings.CutPrefix(text, opener)
		if !ok {
			continue
		}
		if rest == "" {
			m := c.DayStart
			r.At = &m
			return r, true, nil
		}
		m, err := clockAlone(split(rest), c)
		r.At = &m
		return r, true, err
	}
	switch text {
	case "when due", "at due", "when it is due", "at the due time", "on time":
		return r, true, nil
	case "when it starts", "at start", "at the start", "when it begins":
		r.Anchor = FromStart
		return r, true, nil
	}
	return r, false, nil
}

// clockAlone reads a time of day without a day.
func clockAlone(words []string, c Calendar) (Minute, error) {
	p := &parser{cursor: cursor{words}, cal: c, now: time.Unix(0, 0).UTC()}
	d := dateOf(p.now)
	p.day = &d
	for len(p.words) > 0 {
		took := 0
		for _, step := range []func() (int, error){p.filler, p.fixed, p.time} {
			n, err := step()
			if err != nil {
				return 0, err
			}
			if n > 0 {
				took = n
				break
			}
		}
		if took == 0 {
			return 0, refuse("“%s” is not a time of day.", strings.Join(p.words, " "))
		}
		p.words = p.words[took:]
	}
	switch {
	case *p.day != d:
		return 0, refuse("Name a time of day only.")
	case p.clock != nil:
		return *p.clock, nil
	case p.part != "":
		return c.parts()[p.part], nil
	}
	return 0, refuse("Which time of day?")
}

// From is the moment itself, reckoned from its anchor.
func (r Relative) From(anchor Moment, c Calendar) Moment {
	if r.Before != 0 {
		return Exact(anchor.UTC.Add(-r.Before), c)
	}
	local := anchor.UTC.In(c.Zone)
	m := At(local.Hour(), local.Minute())
	if r.At != nil {
		m = *r.At
	}
	return Exact(c.Instant(anchor.Day(c).Add(-r.Days), m), c)
}

// before is a time before something: in hours where they are whole.
func before(minutes int, anchor string) string {
	n, unit := minutes, "minute"
	if minutes%60 == 0 {
		n, unit = minutes/60, "hour"
	}
	if n != 1 {
		unit += "s"
	}
	return fmt.Sprintf("%d %s before%s", n, unit, anchor)
}

// String is the phrase in full; it reads to the same again.
func (r Relative) String() string {
	anchor := ""
	if r.Anchor == FromStart {
		anchor = " start"
	}
	switch {
	case r.Before != 0:
		return before(int(r.Before.Minutes()), anchor)
	case r.Days == 0 && r.At == nil && r.Anchor == FromStart:
		return "at the start"
	case r.Days == 0 && r.At == nil:
		return "when due"
	case r.Days == 0 && r.Anchor == FromDue:
		return "on the day at " + r.At.String()
	}
	unit := "days"
	if r.Days == 1 {
		unit = "day"
	}
	out := fmt.Sprintf("%d %s before%s", r.Days, unit, anchor)
	if r.At != nil {
		out += " at " + r.At.String()
	}
	return out
}
