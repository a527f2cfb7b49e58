package app

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// rulebook are the rules of an inbox, made ready.
type rulebook struct {
	rules []store.Rule
	set   *rule.Set
}

// needs tells whether any rule looks at a field, or says it of a letter with which it failed.
func (b *rulebook) needs(f rule.Field) bool {
	return f == rule.Subject || slices.ContainsFunc(b.rules, func(r store.Rule) bool { return r.Needs(f) })
}

// inForce reads the rules that act, once in a step.
func (s *step) inForce() (*rulebook, error) {
	if s.rules != nil {
		return s.rules, nil
	}
	list, err := s.Rules()
	if err != nil {
		return nil, err
	}
	s.rules = bookOf(slices.DeleteFunc(list, func(r store.Rule) bool { return r.Off || r.Expired(s.At) }))
	return s.rules, nil
}

func bookOf(list []store.Rule) *rulebook {
	rules := make([]rule.Rule, len(list))
	for i, r := range list {
		rules[i] = r.Rule
	}
	return &rulebook{list, rule.Of(rules)}
}

// hit is a letter that a rule takes.
type hit struct {
	store.Ruled
	rule.Act
}

// ruled lets the rules act on letters that were let in, each in a step of its own. A rule that can't
// says so, and the others go on.
func (s *step) ruled(letters []store.Placed) error {
	if s.importing {
		return nil
	}
	by, err := s.inForce()
	if err != nil || len(by.rules) == 0 {
		return err
	}
	ids := make([]int64, len(letters))
	for i, l := range letters {
		ids[i] = l.Letter
	}
	list, err := s.RuledLetters(ids, by.needs)
	if err != nil {
		return err
	}
	hits := s.judged(by, list)
	for _, r := range by.rules {
		if len(hits[r.ID]) == 0 {
			continue
		}
		if err := s.actBy(r, hits[r.ID]); err != nil {
			return err
		}
	}
	return nil
}

// judged tells which letters each rule takes.
func (s *step) judged(by *rulebook, letters []store.Ruled) map[int64][]hit {
	zone := s.calendar().Zone
	reads := by.needs(rule.Text) || by.needs(rule.Amount)
	out := map[int64][]hit{}
	for _, l := range letters {
		l.At = l.At.In(zone)
		if reads {
			l.Text = func() string { return s.ReadText(l.Letter) }
		}
		for _, a := range by.set.Judge(l.Facts, s.At) {
			out[a.Rule] = append(out[a.Rule], hit{l, a})
		}
	}
	return out
}

// actBy lets a rule act on what it takes; where that fails for all of it, letter by letter.
func (s *step) actBy(r store.Rule, hits []hit) error {
	act := func(hits []hit) (why, err error) {
		return s.alone(func() error {
			_, err := s.Under(store.Entry{
				CommandID: store.RuleCommand(s.ID, r.ID) + fmt.Sprint(".", hits[0].Letter), Asked: show.RuleKind, Kind: show.RuleKind, Actor: work.ByRule, Cause: store.RuleCause(r.ID),
			}, func(ws *work.Step) error { return s.as(ws).carryOutRule(r, hits) })
			return err
		})
	}
	s.Stale(work.ReadRules) // it shows what they did
	why, err := act(hits)
	if err != nil || why == nil {
		return err
	}
	for _, h := range hits {
		if len(hits) > 1 {
			if why, err = act([]hit{h}); err != nil {
				return err
			}
		}
		if why != nil {
			if err := s.tellRuleFailed(r, h, why); err != nil {
				return err
			}
		}
	}
	return nil
}

// as is the same step of the job under another step of the Journal.
func (s *step) as(ws *work.Step) *step {
	return &step{Step: ws, app: s.app, own: s.own, rules: s.rules, sorting: s.sorting, sure: true}
}

// tellRuleFailed says in the Journal that a rule could not act on a letter.
func (s *step) tellRuleFailed(r store.Rule, h hit, why error) error {
	_, err := s.Under(store.Entry{
		CommandID: store.RuleCommand(s.ID, r.ID) + fmt.Sprint("!", h.Letter), Asked: show.RuleKind, Kind: show.RuleKind, Actor: work.ByRule, Cause: store.RuleCause(r.ID),
		Title: fmt.Sprintf("Rule “%s” could not act on “%s”: %s", r.Name, say.Shorten(h.Subject, 60), say.Sentence(why)),
	}, func(*work.Step) error { return nil })
	return err
}

// carryOutRule does what a rule does with letters, by the same actions as the keys.
func (s *step) carryOutRule(r store.Rule, hits []hit) error {
	hits, err := s.limited(r, hits)
	if err != nil {
		return err
	}
	on := make([]store.Seen, len(hits))
	for i, h := range hits {
		on[i] = store.Seen{ID: h.Conversation, Last: h.Letter}
	}
	rows, err := s.named(on)
	if err != nil {
		return err
	}
	for i, st := range r.Steps {
		var taken []hit
		for _, h := range hits {
			if i < len(h.Steps) {
				taken = append(taken, h)
			}
		}
		if len(taken) == 0 {
			continue
		}
		if err := s.carryOutRuleStep(r, st, taken); err != nil {
			return stepTrouble(i, err)
		}
		s.Work.At("rule.midway")
	}
	s.Kind = show.RuleKind
	s.Title = s.ruleTitle(r, hits, rows)
	return nil
}

// lastOfEach is the newest letter of each conversation; a rule acts once on each.
func lastOfEach(hits []hit) []hit {
	at := map[int64]int{}
	var out []hit
	for _, h := range hits {
		i, ok := at[h.Conversation]
		switch {
		case !ok:
			at[h.Conversation] = len(out)
			out = append(out, h)
		case h.Letter > out[i].Letter:
			out[i] = h
		}
	}
	return out
}

// limited gives the newest letter of each conversation, without decisions that are not a rule's to
// take, because of what else is there.
func (s *step) limited(r store.Rule, hits []hit) ([]hit, error) {
	taken := map[int64]bool{}
	for _, h := range hits {
		taken[h.Letter] = true
	}
	hits = lastOfEach(hits)
	last := len(r.Steps) - 1
	if !r.Steps[last].Decides() {
		return hits, nil
	}
	ids := make([]int64, len(hits))
	for i, h := range hits {
		ids[i] = h.Conversation
	}
	undecided, err := s.OthersUndecided(ids)
	if err != nil {
		return nil, err
	}
	states, err := s.States(ids)
	if err != nil {
		return nil, err
	}
	for i, h := range hits {
		if len(h.Steps) <= last {
			continue
		}
		stands := rule.Stands{Back: states[h.Conversation].Back.Awaited()}
		for _, letter := range undecided[h.Conversation] {
			if !taken[letter] && letter < h.Letter {
				stands.Others++
			}
		}
		if left := stands.Leaves(); left != "" {
			hits[i].Steps, hits[i].Left = h.Steps[:last], left
		}
	}
	return hits, nil
}

func (s *step) carryOutRuleStep(r store.Rule, st routine.Step, hits []hit) error {
	each := func(do func(hit) error) error {
		for _, h := range hits {
			if err := do(h); err != nil {
				return err
			}
		}
		return nil
	}
	on, ids := make([]store.Seen, len(hits)), make([]int64, len(hits))
	for i, h := range hits {
		on[i], ids[i] = store.Seen{ID: h.Conversation, Last: h.Letter}, h.Conversation
	}
	switch {
	case st.Do == routine.Star:
		return s.starForOwner(ids)
	case st.Do == routine.FollowUp: // one for each letter
		return each(func(h hit) error {
			_, err := s.carryOutStep(st, []store.Seen{{ID: h.Conversation, Last: h.Letter}}, nil, nil)
			return err
		})
	case st.Do == routine.SortOut:
		_, err := s.sort(Sorting{Kind: sorting.Kind(st.Text), On: on, Sure: true}, "the rule “"+r.Name+"”")
		return err
	case st.Do == routine.AutoAnswer:
		return each(func(h hit) error { return s.answerByRule(st, h) })
	case st.Do == routine.Forward:
		return each(func(h hit) error { return s.forwardByRule(r, st, h) })
	case st.Do == routine.SaveFiles:
		return each(func(h hit) error { return s.saveByRule(r, st, h) })
	case st.Do == routine.Decide && st.Decision.About().Sends():
		return each(func(h hit) error { return s.draftByRule(st, h) })
	}
	rows, err := s.named(on)
	if err != nil {
		return err
	}
	_, err = s.carryOutStep(st, on, ids, rows)
	return err
}

// starForOwner stars conversations for whose inbox it is.
func (s *step) starForOwner(ids []int64) error {
	var changes change.List
	for _, id := range ids {
		starred, err := s.StarredBy(id)
		if err != nil {
			return err
		}
		owner := s.Who().Inbox
		decide.Conversation.Star.Set(&changes, id, slices.Contains(starred, owner), true)
		for i := range changes {
			changes[i].Person = owner
		}
	}
	return s.Change(changes)
}

// ruleTitle says what a rule did: “Rule “Loans”: label loans, file under loans: “Crates””.
func (s *step) ruleTitle(r store.Rule, hits []hit, rows []seenRow) string {
	steps := r.Steps
	left := map[string]int{}
	full := false
	for _, h := range hits {
		if h.Left != "" {
			left[h.Left]++
		}
		full = full || len(h.Steps) == len(r.Steps)
	}
	if !full {
		steps = steps[:len(steps)-1]
	}
	title := "Rule “" + r.Name + "”: "
	if did := routine.Said(steps); did != "" {
		title += did + ": "
	}
	title += namedTitle(rows)
	for _, why := range slices.Sorted(maps.Keys(left)) {
		what := "not decided"
		if left[why] < len(hits) {
			what = fmt.Sprintf("%d not decided", left[why])
		}
		title += fmt.Sprintf("; %s: %s", what, why)
	}
	return strings.TrimSuffix(title, ": ")
}
