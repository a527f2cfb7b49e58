package delivery

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
)

// KindRound is a time of the week at which a kind of the Shallows comes up by itself.
type KindRound struct {
	Kind sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies"`
	Day  time.Weekday `json:"day" minimum:"0" maximum:"6"`
	At   when.Minute  `json:"at" minimum:"0" maximum:"1439"`
}

// tidyKinds sorts rounds of kinds, and makes those of one minute one.
func tidyKinds(list []KindRound) []KindRound {
	out := append([]KindRound{}, list...)
	slices.SortFunc(out, func(a, b KindRound) int {
		return cmp.Or(cmp.Compare(kindRank(a.Kind), kindRank(b.Kind)), cmp.Compare(sinceMonday(a.Day), sinceMonday(b.Day)), cmp.Compare(a.At, b.At))
	})
	return slices.Compact(out)
}

func kindRank(k sorting.Kind) int {
	return slices.IndexFunc(sorting.Table, func(a sorting.About) bool { return a.Kind == k })
}

func sinceMonday(d time.Weekday) int { return (int(d) + 6) % 7 }

// Of are the rounds of a kind.
func (p Plan) Of(k sorting.Kind) []KindRound {
	return slices.DeleteFunc(slices.Clone(p.Kinds), func(r KindRound) bool { return r.Kind != k })
}

// WithRounds is the plan with other rounds of a kind.
func (p Plan) WithRounds(k sorting.Kind, rounds []KindRound) Plan {
	p.Kinds = append(slices.DeleteFunc(slices.Clone(p.Kinds), func(r KindRound) bool { return r.Kind == k }), rounds...)
	return p.Tidy()
}

// ReadKindRounds reads when a kind comes up, "fri 15:00" or "mon-thu 9; sat, sun 10:30, 18"; no text
// is never.
func ReadKindRounds(k sorting.Kind, text string) ([]KindRound, error) {
	var out []KindRound
	for part := range strings.SplitSeq(text, ";") {
		if strings.TrimSpace(part) == "" {
			continue
		}
		days, rest, err := readDays(part)
		if err != nil {
			return nil, err
		}
		before := len(out)
		err = readParts(rest, func(func(*DayPlan) *[]Span, Span) error {
			return errors.New("a kind has only times at which it comes up")
		}, func(m when.Minute) {
			for _, d := range days {
				out = append(out, KindRound{k, d, m})
			}
		})
		if err != nil {
			return nil, err
		}
		if len(out) == before {
			return nil, fmt.Errorf("“%s” has no time of day; write fri 15:00", strings.TrimSpace(part))
		}
	}
	return tidyKinds(out), nil
}

// KindRoundsText prints the rounds of one kind as ReadKindRounds reads them.
func KindRoundsText(rounds []KindRound) string {
	times := func(d time.Weekday) string {
		var out []string
		for _, r := range rounds {
			if r.Day == d {
				out = append(out, clockText(r.At))
			}
		}
		return strings.Join(out, ", ")
	}
	var parts []string
	done := [7]bool{}
	for i := range 7 {
		d := time.Weekday((i + 1) % 7) // Monday first
		at := times(d)
		if at == "" || done[d] {
			continue
		}
		var alike []time.Weekday
		for o := range time.Weekday(7) {
			if times(o) == at {
				alike, done[o] = append(alike, o), true
			}
		}
		parts = append(parts, daysText(alike)+" "+at)
	}
	return strings.Join(parts, "; ")
}

// kindHead finds the kind at the head of a line, "reading: fri 15:00".
func kindHead(line string) (k sorting.Kind, rest string, ok bool) {
	head, rest, ok := strings.Cut(line, ":")
	k = sorting.Kind(strings.ToLower(strings.TrimSpace(head)))
	return k, rest, ok && kindRank(k) >= 0
}

func checkKinds(list []KindRound) error {
	for _, r := range list {
		switch {
		case kindRank(r.Kind) < 0:
			return fmt.Errorf("“%s” is no kind of the Shallows", r.Kind)
		case r.Day < 0 || r.Day > 6 || r.At < 0 || r.At >= day:
			return fmt.Errorf("%s has a round outside the week", r.Kind)
		}
	}
	return nil
}

// NextKinds are the kinds that come up first after a moment, and when; none without any. The plan's
// held time moves them not: what has come up is shown once nothing is held.
func (g *Gate) NextKinds(t time.Time) (at time.Time, kinds []sorting.Kind) {
	d := g.dateOf(t)
	for range WithinDays + 1 { // a round in an hour that the clock skips or repeats lies within its day still
		f := g.frame(d)
		for _, r := range g.kinds {
			if r.Day != d.Weekday() {
				continue
			}
			switch m := f.at(r.At); {
			case !m.After(t):
			case at.IsZero() || m.Before(at):
				at, kinds = m, []sorting.Kind{r.Kind}
			case m.Equal(at):
				kinds = append(kinds, r.Kind)
			}
		}
		if !at.IsZero() {
			return at, kinds
		}
		d = d.Add(1)
	}
	return at, kinds
}

// Shown tells whether what has come up is shown while the gate stands so: not in closed or quiet
// time, nor while delivery is held by hand.
func (s State) Shown() bool { return s.Cause != Held && s.Cause != Closed && s.Cause != Quiet }
