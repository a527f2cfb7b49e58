// Package rule says what rules are: conditions on letters, and what is done by itself with those
// that meet them. Which rules take a letter, and what of them is done, is worked out here from facts
// alone, so that a dry run and the real thing can't differ.
package rule

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/when"
)

// Rule is a rule of an inbox.
type Rule struct {
	ID   int64
	Name string
	Conditions
	Steps []routine.Step
	// Stop tells that no later rule sees what this one took.
	Stop bool
	// Until is when it expires; zero for never.
	Until time.Time
	// Off tells that it does nothing for now.
	Off bool
	// People tells that it may take what a person wrote out of sight, too: its owner has seen what it
	// would have taken, and wants that.
	People bool
}

// Conditions are which letters a rule takes: those that meet all of the first, one of the second
// where there are any, and none of the third.
type Conditions struct {
	All  []Condition `json:"all,omitempty" maxItems:"50"`
	Any  []Condition `json:"any,omitempty" maxItems:"50"`
	None []Condition `json:"none,omitempty" maxItems:"50"`
}

const (
	// Most is how many rules an inbox has at most, MostConditions how many conditions a rule has.
	Most, MostConditions = 2000, 100
	// MostForwards is how many letters rules forward within 24 hours.
	MostForwards = 50
)

// ErrUnconditional is what is wrong with a rule that would take every letter.
var ErrUnconditional = errors.New("a rule needs a condition of “all” or “one of”; without one it takes every letter")

// Each gives all conditions.
func (c Conditions) Each(yield func(Condition) bool) {
	for _, list := range [][]Condition{c.All, c.Any, c.None} {
		for _, one := range list {
			if !yield(one) {
				return
			}
		}
	}
}

// Has tells whether a condition looks at something.
func (c Conditions) Has(of Field) bool {
	for one := range c.Each {
		if one.Of == of {
			return true
		}
	}
	return false
}

// Needs tells whether a field of a letter must be known to judge it by the rule: whose letter it is
// decides whether it may be taken out of sight.
func (r Rule) Needs(f Field) bool { return r.Has(f) || f == Kind && Away(r.Steps) }

// Texts are what its conditions look for in texts.
func (c Conditions) Texts() (out []string) {
	for one := range c.Each {
		if one.Of == Text {
			out = append(out, one.Is)
		}
	}
	return out
}

// Relabelled are conditions in which labels have other names; false where none of them has.
func (c Conditions) Relabelled(renamed func(string) string) (Conditions, bool) {
	some := false
	in := func(list []Condition) []Condition {
		out := slices.Clone(list)
		for i, one := range out {
			if name := renamed(one.Is); one.Of == Label && name != one.Is {
				out[i].Is, some = name, true
			}
		}
		return out
	}
	return Conditions{in(c.All), in(c.Any), in(c.None)}, some
}

// Check tells what is wrong with the conditions, the first one of it.
func (c Conditions) Check() error {
	if len(c.All)+len(c.Any)+len(c.None) > MostConditions {
		return fmt.Errorf("a rule has at most %d conditions", MostConditions)
	}
	if len(c.All)+len(c.Any) == 0 {
		return ErrUnconditional
	}
	for one := range c.Each {
		if _, err := one.compile(); err != nil {
			return err
		}
	}
	return nil
}

// Away tells whether a rule takes letters out of sight: what their receiver might miss. Such a rule
// is kept only by who has seen what it would have taken.
func Away(steps []routine.Step) bool {
	return slices.ContainsFunc(steps, func(s routine.Step) bool { return s.HidesAway() })
}

// NotForwarded says why rules don't forward a letter: one that was sent on before would go round in
// circles, and within 24 hours they have forwarded so many. "" where they may.
func NotForwarded(l letter.Letter, within int64) string {
	switch {
	case l.SentOn || letter.Parse(l.Carried()).SentOn:
		return "A rule has forwarded this letter before; it is not sent round in circles."
	case within >= MostForwards:
		return fmt.Sprintf("Rules have forwarded %d letters within a day, and forward no more.", within)
	}
	return ""
}

// Expired tells whether it is over at a time.
func (r Rule) Expired(at time.Time) bool { return !r.Until.IsZero() && !at.Before(r.Until) }

// Expiry is when a rule is over that runs until a moment: a day is still part of it.
func Expiry(m when.Moment, c when.Calendar) time.Time {
	if m.Precision == when.ToMinute {
		return m.In(c).UTC
	}
	return c.Begins(m.Day(c).Add(1))
}
