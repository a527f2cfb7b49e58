package show

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sieve"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RuleKind is the kind of a step that a rule takes.
const RuleKind = "rule"

// RuleView is a rule.
type RuleView struct {
	ID         int64           `json:"id"`
	Name       string          `json:"name"`
	Position   int             `json:"position"`
	Conditions rule.Conditions `json:"conditions"`
	Steps      []routine.Step  `json:"steps"`
	Stop       bool            `json:"stop"`
	Off        bool            `json:"off"`
	People     bool            `json:"people" doc:"It may take what people wrote out of sight"`
	Until      string          `json:"until,omitempty" doc:"When it expires, in words; empty for never"`
	Expires    string          `json:"expires,omitempty" doc:"That as a phrase"`
	Expired    bool            `json:"expired,omitempty"`
	Said       string          `json:"said,omitempty" doc:"What of a script could not be made of it"`
	// When says which letters it takes, Does what it does with them.
	When string `json:"when"`
	Does string `json:"does"`
	// Trouble is why something of it can't be done.
	Trouble string     `json:"trouble,omitempty"`
	Did     int        `json:"did" doc:"On how many conversations it acted in the last 60 days"`
	Last    *time.Time `json:"last,omitempty" doc:"When it last did"`
}

// RulesView are the rules, and the one that is proposed.
type RulesView struct {
	Rules    []RuleView        `json:"rules"`
	Proposed *ProposedRule     `json:"proposed,omitempty"`
	Fields   []rule.FieldAbout `json:"fields" doc:"What conditions look at"`
	Kinds    []sorting.Kind    `json:"kinds" doc:"Of what kinds letters are"`
	Accounts map[string]string `json:"accounts" doc:"Names of accounts, by the value of a condition"`
}

// ProposedRule is a rule that does what its owner did anyway.
type ProposedRule struct {
	Key        string          `json:"key"`
	Name       string          `json:"name"`
	Conditions rule.Conditions `json:"conditions"`
	Steps      []routine.Step  `json:"steps"`
	Why        string          `json:"why" doc:"Its evidence, in words"`
	Letters    []string        `json:"letters" doc:"Subjects of the letters that speak for it"`
}

// Rules lists the rules, and proposes one.
func (a *Show) Rules(ctx context.Context, who store.Who) (RulesView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (RulesView, error) {
		out := RulesView{Rules: []RuleView{}, Fields: rule.Fields, Kinds: []sorting.Kind{sorting.Person}, Accounts: map[string]string{}}
		for _, k := range sorting.Table {
			out.Kinds = append(out.Kinds, k.Kind)
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		accounts, err := tx.Accounts()
		if err != nil {
			return out, err
		}
		for _, acc := range accounts {
			out.Accounts[fmt.Sprint(acc.ID)] = acc.Label
		}
		all, err := tx.Rules()
		if err != nil {
			return out, err
		}
		tallies, err := tx.RuleTallies(v.Now.Add(-DryDays*24*time.Hour), v.Now.Add(time.Minute))
		if err != nil {
			return out, err
		}
		about, err := v.with(tx, store.Row{})
		if err != nil {
			return out, err
		}
		for _, r := range all {
			out.Rules = append(out.Rules, v.rule(r, about.About, tallies[r.ID], out.Accounts))
		}
		out.Proposed, err = v.proposedRule(tx, all)
		return out, err
	})
}

func (v Viewer) rule(r store.Rule, about routine.About, t store.RuleTally, accounts map[string]string) RuleView {
	out := RuleView{
		ID: r.ID, Name: r.Name, Position: r.Position, Conditions: r.Conditions, Steps: OrEmpty(r.Steps), Stop: r.Stop, Off: r.Off, People: r.People,
		Expired: r.Expired(v.Now), Said: r.Said, When: conditionsInWords(r.Conditions, accounts), Did: t.N, Last: instant(t.Last.Time),
	}
	does, trouble := routine.InWords(r.Steps, about)
	if out.Does = does; trouble != nil {
		out.Trouble = strings.TrimSuffix(say.Sentence(trouble), ".")
	}
	if r.Expires != nil {
		out.Until, out.Expires = when.InFull(*r.Expires, v.Now, v.Cal), r.Expires.Canonical(v.Cal)
		if r.Expires.Precision == when.ToDay {
			out.Until = "the end of " + out.Until
		}
	}
	return out
}

// ruledInWords says on how much rules acted; "" for nothing.
func ruledInWords(of map[int64]store.RuleTally) string {
	n := 0
	for _, t := range of {
		n += t.N
	}
	if n == 0 {
		return ""
	}
	return say.Count(n, "letter") + " by " + say.Count(len(of), "rule")
}

func instant(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// conditionsInWords says which letters a rule takes.
func conditionsInWords(c rule.Conditions, accounts map[string]string) string {
	var parts []string
	say := func(list []rule.Condition, between, before string) {
		var words []string
		for _, one := range list {
			if name := accounts[one.Is]; one.Of == rule.Account && name != "" {
				one.Is = name
			}
			words = append(words, one.InWords())
		}
		if len(words) > 0 {
			parts = append(parts, before+strings.Join(words, between))
		}
	}
	say(c.All, " and ", "")
	say(c.Any, " or ", map[bool]string{true: "one of: "}[len(c.All) > 0 || len(c.None) > 0])
	say(c.None, " nor ", "not: ")
	return strings.Join(parts, "; ")
}

// RuleDid is something that a rule did.
type RuleDid struct {
	JournalEntry
	Letters []RuleDidWith `json:"letters" doc:"With which conversations, at most 50"`
}

// RuleDidWith is a conversation on which a rule acted.
type RuleDidWith struct {
	Conversation int64  `json:"conversation"`
	Title        string `json:"title"`
}

// RuleDid lists what a rule did lately, the newest first.
func (a *Show) RuleDid(ctx context.Context, who store.Who, id int64) ([]RuleDid, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]RuleDid, error) {
		out := []RuleDid{}
		all, err := tx.Rules()
		if err != nil {
			return out, err
		}
		if !slices.ContainsFunc(all, func(r store.Rule) bool { return r.ID == id }) {
			return out, work.Gone("That rule is no longer there.")
		}
		list, err := tx.RuleEntries(id, PageSize)
		if err != nil {
			return out, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		ids := make([]int64, len(list))
		for i, e := range list {
			ids[i] = e.ID
		}
		of, err := tx.AllConversationsOf(ids, shownTaken)
		if err != nil {
			return out, err
		}
		for _, e := range list {
			one := RuleDid{JournalEntry: journalEntry(e), Letters: []RuleDidWith{}}
			one.Day = v.Cal.Today(e.At).String()
			for _, c := range of[e.ID] {
				one.Letters = append(one.Letters, RuleDidWith(c))
			}
			out = append(out, one)
		}
		return out, nil
	})
}

// proposedRule is the rule that what was decided speaks for; nil for none now.
func (v Viewer) proposedRule(tx *store.Tx, all []store.Rule) (*ProposedRule, error) {
	decisions, err := decisionsOf(tx)
	if err != nil {
		return nil, err
	}
	p, err := tx.InboxSettings()
	if err != nil {
		return nil, err
	}
	rules := make([]rule.Rule, len(all))
	for i, r := range all {
		rules[i] = r.Rule
	}
	today := v.Cal.Today(v.Now)
	next, ok := rule.Next(rule.Propose(decisions), rules, p.Answered(), func(t time.Time) bool { return v.Cal.Today(t) == today })
	if !ok {
		return nil, nil
	}
	subjects, err := tx.Subjects(next.Letters)
	if err != nil {
		return nil, err
	}
	return &ProposedRule{
		Key: next.Key, Name: proposedName(next), Conditions: next.Conditions, Steps: next.Steps, Letters: OrEmpty(subjects),
		Why: fmt.Sprintf("%s %d of the last %d letters from %s.", next.Steps[0].Decision.About().Did, next.Same, next.Of, next.All[0].Is),
	}, nil
}

func proposedName(p rule.Proposal) string {
	return say.Shorten(p.Steps[0].Decision.About().Name+": "+p.All[0].Is, 60)
}

// RuleScript writes all rules as a Sieve script (RFC 5228).
func (a *Show) RuleScript(ctx context.Context, who store.Who) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		all, err := tx.Rules()
		rules := make([]rule.Rule, len(all))
		for i, r := range all {
			rules[i] = r.Rule
		}
		return sieve.Script(rules), err
	})
}

// RuleOf are the conditions that a letter speaks for, to begin a rule with.
func (a *Show) RuleOf(ctx context.Context, who store.Who, conversation int64) (rule.Conditions, error) {
	return read(ctx, a, who, func(tx *store.Tx) (rule.Conditions, error) {
		speakers, err := tx.Speakers([]int64{conversation})
		if err != nil {
			return rule.Conditions{}, err
		}
		s, ok := speakers[conversation]
		if !ok || s.Own {
			return rule.Conditions{}, work.Refuse("A rule takes letters from somebody else; this one is your own.")
		}
		return rule.ForLetter(rule.Facts{From: letter.Address{Email: s.From}, List: s.List, Kind: s.Sort.Kind}), nil
	})
}

// RuleSearch are the conditions that a search says.
type RuleSearch struct {
	Conditions rule.Conditions `json:"conditions"`
	Left       []string        `json:"left" doc:"What of the search no condition says"`
}

// RuleOfSearch are the conditions that a search says, to begin a rule with.
func (a *Show) RuleOfSearch(ctx context.Context, who store.Who, typed string) (RuleSearch, error) {
	return read(ctx, a, who, func(tx *store.Tx) (RuleSearch, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return RuleSearch{}, err
		}
		c, left := rule.OfSearch(find.Read(typed, v.Now, v.Cal).Query)
		return RuleSearch{c, OrEmpty(left)}, nil
	})
}

// Meant tells what a phrase of a step means now, or what is wrong with it.
func (a *Show) Meant(tx *store.Tx, phrase string) (string, error) {
	v, err := a.Viewer(tx)
	if err != nil {
		return "", err
	}
	spots, err := tx.Spots()
	if err != nil {
		return "", err
	}
	return v.meant(phrase, spots)
}
