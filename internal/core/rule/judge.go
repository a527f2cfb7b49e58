package rule

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/sorting"
)

// Set are rules made ready to judge letters. It is safe for use by many at once.
type Set struct {
	rules []compiled
	// Rules that ask for a certain sender, domain or list are looked at only for letters from
	// there; the others for each. Each is the places of rules, in order.
	from, domain, list map[string][]int
	others             []int
}

type compiled struct {
	Rule
	all, any, none []test
}

// Of makes rules ready, in the order in which they are given. Those that are off, or can't be read,
// take nothing.
func Of(rules []Rule) *Set {
	s := &Set{from: map[string][]int{}, domain: map[string][]int{}, list: map[string][]int{}}
	for _, r := range rules {
		c, err := compile(r)
		if err != nil || r.Off {
			continue
		}
		at := len(s.rules)
		s.rules = append(s.rules, c)
		switch by, key := s.bucket(r.All); {
		case by == nil:
			s.others = append(s.others, at)
		default:
			by[key] = append(by[key], at)
		}
	}
	return s
}

func compile(r Rule) (c compiled, err error) {
	if err := r.Conditions.Check(); err != nil {
		return c, err
	}
	c.Rule = r
	for _, part := range []struct {
		of   []Condition
		into *[]test
	}{{r.All, &c.all}, {r.Any, &c.any}, {r.None, &c.none}} {
		for _, one := range cheapFirst(part.of) {
			t, err := one.compile()
			if err != nil {
				return c, err
			}
			*part.into = append(*part.into, t)
		}
	}
	return c, nil
}

// cheapFirst puts those conditions last for which a letter has to be read.
func cheapFirst(list []Condition) []Condition {
	return slices.SortedStableFunc(slices.Values(list), func(a, b Condition) int { return cmp.Compare(dear(a.Of), dear(b.Of)) })
}

func dear(f Field) int {
	if f == Text || f == Amount {
		return 1
	}
	return 0
}

// bucket is where a rule is found by one of the conditions that its letters must meet; nil for none.
func (s *Set) bucket(all []Condition) (by map[string][]int, key string) {
	for _, c := range all {
		is := fold(strings.TrimSpace(c.Is))
		switch {
		case c.Of == From && IsAddress(is):
			return s.from, is
		case c.Of == List:
			return s.list, is
		case c.Of == Domain:
			by, key = s.domain, strings.TrimPrefix(is, "@")
		}
	}
	return by, key
}

// candidates are the places of the rules that may take a letter, in order.
func (s *Set) candidates(f *seen) []int {
	if len(s.others) == len(s.rules) {
		return s.others
	}
	out := slices.Clone(s.others)
	if len(s.from) > 0 {
		out = append(out, s.from[f.from()[0].email]...)
	}
	if len(s.list) > 0 && f.List != "" {
		out = append(out, s.list[f.list()]...)
	}
	if len(s.domain) > 0 {
		for d := f.domain(); d != ""; {
			out = append(out, s.domain[d]...)
			dot := strings.IndexByte(d, '.')
			if dot < 0 {
				break
			}
			d = d[dot+1:]
		}
	}
	slices.Sort(out)
	return out
}

// Act is what a rule does with a letter.
type Act struct {
	Rule  int64
	Steps []routine.Step
	// Left is why its decision is left out; "" where it isn't, or it has none.
	Left string
}

// OfPerson tells whether a letter counts as a person's; what was never sorted does.
func OfPerson(k sorting.Kind) bool { return k == sorting.Person || k == "" }

// Stands is how the conversation of a letter stands that a rule would decide on.
type Stands struct {
	// Others are other letters in it that wait for a decision and that the rule does not take.
	Others int
	// Back tells that its owner had put it off, and it has come back.
	Back bool
}

// Leaves says why a rule's decision is left out because of what else its conversation holds; "" where
// it isn't. What was put off by hand, or holds other letters, is its owner's to decide on.
func (s Stands) Leaves() string {
	switch {
	case s.Back:
		return "it came back to be decided on"
	case s.Others > 0:
		return "there are other letters with it"
	}
	return ""
}

// Judge tells which rules take a letter at a time and what each does, in their order. Each rule is
// asked once: what a rule does is seen by those after it and never by those before, so that nothing
// goes round. The first decision counts.
func (s *Set) Judge(f Facts, at time.Time) []Act {
	facts := look(f)
	var out []Act
	decided := ""
	for _, i := range s.candidates(facts) {
		r := &s.rules[i]
		if r.Expired(at) || !r.takes(facts) {
			continue
		}
		a := Act{Rule: r.ID, Steps: r.Steps}
		if last := len(r.Steps) - 1; last >= 0 && r.Steps[last].Decides() {
			switch {
			case decided != "":
				a.Left = "“" + decided + "” had decided on it"
			case !r.People && Away(r.Steps) && OfPerson(f.Kind):
				a.Left = "a person wrote it"
			default:
				decided = r.Name
			}
			if a.Left != "" {
				a.Steps = r.Steps[:last]
			}
		}
		facts.label(routine.Labels(a.Steps))
		out = append(out, a)
		if r.Stop {
			break
		}
	}
	return out
}

func (c *compiled) takes(f *seen) bool {
	meets := func(t test) bool { return t(f) }
	for _, t := range c.all {
		if !t(f) {
			return false
		}
	}
	return (len(c.any) == 0 || slices.ContainsFunc(c.any, meets)) && !slices.ContainsFunc(c.none, meets)
}
