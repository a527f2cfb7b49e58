package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RuleFields are the fields of a rule that can be set; nil leaves one.
type RuleFields struct {
	Name       *string          `json:"name,omitempty" maxLength:"200"`
	Move       int              `json:"move,omitempty" minimum:"-2000" maximum:"2000" doc:"By how many places it moves in the order; negative for earlier"`
	Conditions *rule.Conditions `json:"conditions,omitempty"`
	Steps      *[]routine.Step  `json:"steps,omitempty" maxItems:"100"`
	Stop       *bool            `json:"stop,omitempty" doc:"No later rule sees what it took"`
	Off        *bool            `json:"off,omitempty"`
	People     *bool            `json:"people,omitempty" doc:"It may take what people wrote out of sight, too, which was seen before"`
	Until      *string          `json:"until,omitempty" maxLength:"200" doc:"When it expires, a phrase; empty for never"`
	// Forwards are addresses to which it was confirmed that letters are sent on.
	Forwards []string `json:"forwards,omitempty" maxItems:"20" doc:"Addresses to which forwarding was confirmed"`
	// Proposal is that of which it was made.
	Proposal string `json:"proposal,omitempty" maxLength:"1000" doc:"The proposal of which it was made"`
	Remove   bool   `json:"remove,omitempty"`
}

const ruleMade = "rule-made"

// NewRule makes a rule.
func (a *App) NewRule(ctx context.Context, who store.Who, command string, f RuleFields) (Made, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: ruleMade}
	return run(ctx, a, cmd, func(s *step) (Made, error) {
		if f.Name == nil || f.Conditions == nil || f.Steps == nil {
			return Made{}, work.Invalid("name", "A rule needs a name, a condition and something to do.")
		}
		all, err := s.Rules()
		if err != nil {
			return Made{}, err
		}
		if len(all) >= rule.Most {
			return Made{}, work.Refuse("There are %d rules already; there can be no more.", len(all))
		}
		id, err := s.addRule(all, f)
		if err != nil {
			return Made{}, err
		}
		s.Title = "New rule “" + strings.TrimSpace(*f.Name) + "”"
		return Made{Decided{Entry: s.ID, Title: s.Title}, id}, nil
	})
}

func (s *step) addRule(all []store.Rule, f RuleFields) (int64, error) {
	id, err := s.AddRule(s.At)
	if err != nil {
		return 0, err
	}
	if err := s.editRule(store.Rule{Rule: rule.Rule{ID: id, Steps: []routine.Step{}}}, all, f); err != nil {
		return 0, err
	}
	var changes change.List
	last := 0
	for _, r := range all {
		last = max(last, r.Position+1)
	}
	kinds.Rule.Position.Set(&changes, id, 0, last)
	kinds.Rule.Alive.Set(&changes, id, false, true)
	return id, s.Change(changes)
}

// EditRule changes a rule, or takes it away.
func (a *App) EditRule(ctx context.Context, who store.Who, command string, id int64, f RuleFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: ruleMade}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		r, all, err := s.ruleNamed(id)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Changed the rule “" + r.Name + "”"
		if f.Off != nil && *f.Off != r.Off {
			s.Title = "Rule “" + r.Name + "” " + map[bool]string{true: "off", false: "on"}[*f.Off]
		}
		err = s.editRule(r, all, f)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

func (s *step) ruleNamed(id int64) (store.Rule, []store.Rule, error) {
	all, err := s.Rules()
	if err != nil {
		return store.Rule{}, nil, err
	}
	i := slices.IndexFunc(all, func(r store.Rule) bool { return r.ID == id })
	if i < 0 {
		return store.Rule{}, nil, work.Gone("That rule is no longer there.")
	}
	return all[i], all, nil
}

func (s *step) editRule(r store.Rule, all []store.Rule, f RuleFields) error {
	var changes change.List
	if f.Remove {
		kinds.Rule.Alive.Set(&changes, r.ID, true, false)
		s.Title = "Took the rule “" + r.Name + "” away"
	}
	if f.Name != nil {
		name, err := newName("rule", *f.Name, func(name string) bool {
			return slices.ContainsFunc(all, func(o store.Rule) bool { return o.ID != r.ID && strings.EqualFold(o.Name, name) })
		})
		if err != nil {
			return err
		}
		kinds.Rule.Name.Set(&changes, r.ID, r.Name, name)
	}
	if f.Move != 0 {
		moveRule(&changes, r.ID, all, f.Move)
	}
	if f.Conditions != nil {
		if err := f.Conditions.Check(); err != nil {
			return s.wrongConditions(err)
		}
		kinds.Rule.Conditions.Set(&changes, r.ID, r.Conditions, *f.Conditions)
	}
	if f.Steps != nil {
		before := r.Steps
		if r.Said != "" {
			before = nil // nobody has confirmed what a script says
		}
		if err := s.checkRuleSteps(*f.Steps, before, f.Forwards); err != nil {
			return err
		}
		kinds.Rule.Steps.Set(&changes, r.ID, r.Steps, *f.Steps)
		kinds.Rule.Said.Set(&changes, r.ID, r.Said, "") // it is its owner's from now on
	}
	if f.Stop != nil {
		kinds.Rule.Stop.Set(&changes, r.ID, r.Stop, *f.Stop)
	}
	if f.Off != nil {
		if err := turnsOn(r, f); err != nil {
			return err
		}
		kinds.Rule.Off.Set(&changes, r.ID, r.Off, *f.Off)
	}
	if err := s.settlePeople(&changes, r, f); err != nil {
		return err
	}
	if f.Until != nil {
		until, err := s.readExpiry(*f.Until)
		if err != nil {
			return err
		}
		kinds.Rule.Until.Set(&changes, r.ID, r.Expires, until)
	}
	if f.Proposal != "" {
		if err := s.answerProposal(&changes, f.Proposal); err != nil {
			return err
		}
	}
	return s.Change(changes)
}

// turnsOn tells why a rule can't be turned on as it stands: what came of a script is looked at before.
func turnsOn(r store.Rule, f RuleFields) error {
	if *f.Off || !r.Off || f.Steps != nil && f.Conditions != nil {
		return nil
	}
	if r.Said != "" {
		return work.Refuse("“%s” came of a script. Look at it with “Change”, and keep it; then it is on.", r.Name)
	}
	if err := cmp.Or(r.Check(), routine.CheckRule(r.Steps)); err != nil {
		return work.Refuse("“%s” can’t act: %s", r.Name, say.Sentence(err))
	}
	return nil
}

// moveRule moves a rule within the order of all.
func moveRule(changes *change.List, id int64, all []store.Rule, by int) {
	at := slices.IndexFunc(all, func(r store.Rule) bool { return r.ID == id })
	if at < 0 {
		return
	}
	moved := slices.Delete(slices.Clone(all), at, at+1)
	moved = slices.Insert(moved, min(max(at+by, 0), len(moved)), all[at])
	for i, r := range moved {
		kinds.Rule.Position.Set(changes, r.ID, r.Position, i)
	}
}

// wrongConditions says what is wrong with conditions; without any, how much a rule would take.
func (s *step) wrongConditions(err error) error {
	if err == rule.ErrUnconditional { //nolint:errorlint // it is given as it is
		list, failed := s.RuledSince(s.At.Add(-show.DryDays*24*time.Hour), show.MostTried, func(rule.Field) bool { return false })
		if failed != nil {
			return failed
		}
		return work.Invalid("conditions", "A rule needs a condition of “all” or “one of”. Without one it would have taken all of the %s of the last %d days.", say.Count(len(list), "letter"), show.DryDays)
	}
	return work.Invalid("conditions", "%s", say.Sentence(err))
}

// settlePeople settles whether a rule may take what people wrote out of sight: only if its owner has
// been shown that it would have, and said so; and anew whenever it takes or does something else.
func (s *step) settlePeople(changes *change.List, r store.Rule, f RuleFields) error {
	may := r.People && f.Conditions == nil && f.Steps == nil
	if f.People != nil {
		may = *f.People
	}
	if may && !r.People {
		tried := r.Rule
		if f.Conditions != nil {
			tried.Conditions = *f.Conditions
		}
		if f.Steps != nil {
			tried.Steps = *f.Steps
		}
		n, err := s.app.TakenOfPeople(s.Tx, tried, s.At)
		if err != nil {
			return err
		}
		if n == 0 {
			return work.Invalid("people", "It would have taken no letter that a person wrote in the last %d days, so there is nothing to confirm.", show.DryDays)
		}
	}
	kinds.Rule.People.Set(changes, r.ID, r.People, may)
	return nil
}

// checkRuleSteps checks what a rule is to do. To whom letters are forwarded was confirmed, now or
// before.
func (s *step) checkRuleSteps(steps, before []routine.Step, confirmed []string) error {
	if err := routine.CheckRule(steps); err != nil {
		return work.Invalid("steps", "%s", say.Sentence(err))
	}
	templates, err := s.Templates()
	if err != nil {
		return err
	}
	for i, st := range steps {
		if st.When != "" {
			if _, err := s.app.Meant(s.Tx, st.When); err != nil {
				return work.Invalid("steps", "Step %d: %s", i+1, say.Sentence(err))
			}
		}
		if st.Template != 0 && !slices.ContainsFunc(templates, func(t store.Template) bool { return t.ID == st.Template }) {
			return work.Invalid("steps", "Step %d: Its template is no longer there.", i+1)
		}
		if st.Do == routine.SaveFiles && s.app.Folder == nil {
			return work.Invalid("steps", "Step %d: %s", i+1, noFolder)
		}
		if st.To != "" {
			if _, err := checkAddresses([]string{st.To}); err != nil {
				return work.Invalid("steps", "Step %d: %s", i+1, say.Sentence(err))
			}
		}
		was := slices.ContainsFunc(before, func(b routine.Step) bool { return b.Do == routine.Forward && b.To == st.To })
		if st.Do == routine.Forward && !was && !slices.Contains(confirmed, st.To) {
			return &work.Problem{Kind: "confirm", Field: "forwards", Reason: fmt.Sprintf("Every letter that it takes would be sent on to %s. This has to be confirmed.", st.To), Choices: []string{st.To}}
		}
	}
	return nil
}

// readExpiry reads when a rule expires; nil for never.
func (s *step) readExpiry(phrase string) (*when.Moment, error) {
	if strings.TrimSpace(phrase) == "" {
		return nil, nil
	}
	r, err := when.Read(phrase, s.At, s.calendar())
	if err != nil {
		return nil, work.Invalid("until", "%s", say.Sentence(err))
	}
	if r.Precision == when.Open {
		return nil, nil
	}
	if !rule.Expiry(r.Moment, s.calendar()).After(s.At) {
		return nil, work.Invalid("until", "“%s” is over already.", strings.TrimSpace(phrase))
	}
	return &r.Moment, nil
}

// answerProposal notes that a proposal was answered; the same isn't made again.
func (s *step) answerProposal(changes *change.List, key string) error {
	p, err := s.InboxSettings()
	if err != nil {
		return err
	}
	const kept = 500
	list := append(p.Answered(), rule.Answered{Key: key, At: s.At})
	value, err := json.Marshal(list[max(0, len(list)-kept):])
	if err != nil {
		return err
	}
	kinds.Person.Proposed.Set(changes, p.ID, p.Proposed, string(value))
	return nil
}

// DeclineRule turns a proposed rule down.
func (a *App) DeclineRule(ctx context.Context, who store.Who, command, key string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: ruleMade, Title: "Turned a proposed rule down"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		var changes change.List
		if err := s.answerProposal(&changes, key); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// ApplyRule lets a rule act on what is here now, as one step: on what waits for a decision, or on the
// archive, too.
func (a *App) ApplyRule(ctx context.Context, who store.Who, command string, id int64, archive bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "rule-applied", Cause: store.RuleCause(id)}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		r, _, err := s.ruleNamed(id)
		if err != nil {
			return Decided{}, err
		}
		on := false
		if err := turnsOn(r, RuleFields{Off: &on}); err != nil {
			return Decided{}, err
		}
		if routine.SendsItself(r.Steps) {
			return Decided{}, work.Refuse("“%s” sends letters. That is done with what comes, never with what is here.", r.Name)
		}
		places := []decide.Place{decide.Inbox, decide.Shallows}
		if archive {
			places = append(places, decide.Archive)
		}
		r.Off, r.Until = false, time.Time{}
		by := bookOf([]store.Rule{r})
		newest, err := s.NewestIn(places)
		if err != nil {
			return Decided{}, err
		}
		letters, err := s.RuledLetters(newest, by.needs)
		if err != nil {
			return Decided{}, err
		}
		hits := s.judged(by, letters)[r.ID]
		if len(hits) == 0 {
			return Decided{}, work.Refuse("“%s” takes none of what is here.", r.Name)
		}
		s.sure = true
		if err := s.carryOutRule(r, hits); err != nil {
			return Decided{}, err
		}
		s.Kind = cmd.Kind
		s.Title = "Applied to what is here: " + s.Title
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}
