package rule

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/routine"
)

// Decided is a letter on which its owner has decided, the evidence of proposals.
type Decided struct {
	Letter     int64
	From, List string // as in facts, in lower case
	Kind       decide.Kind
	// With is the label of what was filed.
	With string
}

const (
	// lookedAt is how many of a sender's or list's last letters are looked at, alike of how many of
	// them the same must have been decided.
	lookedAt, alike = 10, 8
)

// Proposal is a rule that would do what its owner does anyway.
type Proposal struct {
	Conditions
	Steps []routine.Step
	// Key names it for good, so that one that was turned down isn't made again.
	Key string
	// Same of the last Of letters were decided so; Letters are those, the newest first.
	Same, Of int
	Letters  []int64
}

// Propose gives the rules that decisions speak for, those with most evidence first. Decisions are
// given the newest first. Where a list's letters are decided alike, its senders get no rules of
// their own. Only what puts a letter away without an answer is proposed.
func Propose(decisions []Decided) []Proposal {
	var out []Proposal
	of := func(by Field, key func(Decided) string) {
		var order []string
		last := map[string][]Decided{}
		for _, d := range decisions {
			k := key(d)
			if k == "" || len(last[k]) == lookedAt {
				continue
			}
			if last[k] == nil {
				order = append(order, k)
			}
			last[k] = append(last[k], d)
		}
		for _, k := range order {
			if p, ok := propose(last[k]); ok {
				p.All = []Condition{{by, k}}
				p.Key = fmt.Sprintf("%s:%s:%s:%s", by, k, p.Steps[0].Decision, p.Steps[0].Text)
				out = append(out, p)
			}
		}
	}
	of(List, func(d Decided) string { return d.List })
	of(From, func(d Decided) string {
		if d.List != "" {
			return ""
		}
		return d.From
	})
	slices.SortStableFunc(out, func(a, b Proposal) int { return cmp.Compare(b.Same*a.Of, a.Same*b.Of) })
	return out
}

func propose(last []Decided) (Proposal, bool) {
	type what struct {
		kind decide.Kind
		with string
	}
	alikes := map[what][]int64{}
	for _, d := range last {
		switch d.Kind {
		case decide.Done, decide.File, decide.ToBin:
			w := what{d.Kind, d.With}
			alikes[w] = append(alikes[w], d.Letter)
		}
	}
	for w, letters := range alikes {
		if len(letters) >= alike { // at most one of ten
			return Proposal{Steps: []routine.Step{{Do: routine.Decide, Decision: w.kind, Text: w.with}}, Same: len(letters), Of: len(last), Letters: letters}, true
		}
	}
	return Proposal{}, false
}

// Answered is a proposal that its owner has answered, by making the rule or turning it down.
type Answered struct {
	Key string    `json:"key"`
	At  time.Time `json:"at"`
}

// ReadAnswered reads what is kept of them; what can't be read was never answered.
func ReadAnswered(kept string) (out []Answered) {
	_ = json.Unmarshal([]byte(kept), &out)
	return out
}

// Next is the proposal to make now: none within the day on which one was answered, never one that
// was answered, nor one of a sender or list for which there is a rule. ok is false for none.
func Next(all []Proposal, rules []Rule, answered []Answered, sameDay func(time.Time) bool) (p Proposal, ok bool) {
	if slices.ContainsFunc(answered, func(a Answered) bool { return sameDay(a.At) }) {
		return p, false
	}
	for _, p := range all {
		if slices.ContainsFunc(answered, func(a Answered) bool { return a.Key == p.Key }) {
			continue
		}
		has := func(r Rule) bool {
			return slices.ContainsFunc(slices.Concat(r.All, r.Any), func(c Condition) bool { return c.Of == p.All[0].Of && fold(strings.TrimSpace(c.Is)) == p.All[0].Is })
		}
		if !slices.ContainsFunc(rules, has) {
			return p, true
		}
	}
	return p, false
}

// Done is what the owner of a letter decided on it; Kind is "" where nothing was.
type Done struct {
	Letter int64
	Kind   decide.Kind
}

// Otherwise tells of letters whether what was decided on them speaks against a rule that ends so: they
// were answered, handed on or followed up, or went elsewhere. Nothing speaks against one that does not
// say where letters go.
func Otherwise(steps []routine.Step, done []Done) []bool {
	out := make([]bool, len(done))
	last := len(steps) - 1
	if last < 0 || !steps[last].Decides() {
		return out
	}
	to := steps[last].Decision.About().To
	for i, d := range done {
		about := d.Kind.About()
		acted := d.Kind == decide.Answer || d.Kind == decide.HandOn || d.Kind == decide.FollowUp
		out[i] = d.Kind != "" && d.Kind != steps[last].Decision && (acted || steps[last].Do == routine.Decide && about.To != to)
	}
	return out
}

// ForLetter are the conditions that a letter speaks for: its list, else who wrote it.
func ForLetter(f Facts) Conditions {
	if f.List != "" {
		return Conditions{All: []Condition{{List, f.List}}}
	}
	return Conditions{All: []Condition{{From, f.From.Email}}}
}

// OfSearch are the conditions that say what a search looks for, and what of it no condition says, as it
// is typed.
func OfSearch(q find.Query) (c Conditions, left []string) {
	parts := q.Of
	if q.Op != find.All {
		parts = []find.Query{q}
	}
	for _, p := range parts {
		switch {
		case p.Op == find.Is && says(p.Term):
			c.All = append(c.All, condition(p.Term))
		case p.Op == find.Not && p.Of[0].Op == find.Is && says(p.Of[0].Term):
			c.None = append(c.None, condition(p.Of[0].Term))
		case p.Op == find.Any && len(c.Any) == 0 && !slices.ContainsFunc(p.Of, func(o find.Query) bool { return o.Op != find.Is || !says(o.Term) }):
			for _, o := range p.Of {
				c.Any = append(c.Any, condition(o.Term))
			}
		default:
			left = append(left, p.String())
		}
	}
	return c, left
}

// asked are the conditions that look at what fields of a search do.
var asked = map[find.Field]Field{
	find.Words: Text, find.From: From, find.To: To, find.Cc: Cc, find.Subject: Subject, find.Label: Label, find.Kind: Kind, find.Size: Size, find.With: Attached,
}

// says tells whether a condition says what a term looks for.
func says(t find.Term) bool {
	return asked[t.Field] != "" && (t.Field != find.With || t.File) && (t.Field != find.Size || t.Over)
}

func condition(t find.Term) Condition {
	is := t.Value
	if t.Field == find.Size {
		is = fmt.Sprintf("%d kB", t.Bytes>>10)
	}
	return Condition{asked[t.Field], is}
}
