package app

import (
	"context"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

const planKind = "plan"

// PutPlan puts a plan in force, for an account or as the common one (0). An
// account without a draft goes back to the common plan.
func (a *App) PutPlan(ctx context.Context, who store.Who, command string, account int64, draft *show.PlanDraft) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: planKind, Title: "Delivery plan changed"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) { return s.putPlan(account, draft) })
}

func (s *step) putPlan(account int64, draft *show.PlanDraft) (Decided, error) {
	person, err := s.InboxSettings()
	if err != nil {
		return Decided{}, err
	}
	id := int64(-1)
	if draft == nil && account == 0 {
		draft = &show.PlanDraft{}
	}
	if draft == nil {
		s.Title = "The account follows the common plan"
	} else {
		p, err := draft.Read()
		if err != nil {
			return Decided{}, err
		}
		if err := p.Check(person.Calendar()); err != nil {
			return Decided{}, work.Invalid("text", "%s The plan before stays in force.", say.Sentence(err))
		}
		id = 0
		if p.Empty() {
			s.Title = "Delivery plan removed; mail flows"
		} else if id, err = s.planID(p); err != nil {
			return Decided{}, err
		}
	}
	var changes change.List
	if account == 0 {
		kinds.Person.PlanID.Set(&changes, person.ID, person.PlanID, id)
	} else {
		accounts, err := s.Accounts()
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(accounts, func(x store.Account) bool { return x.ID == account })
		if i < 0 {
			return Decided{}, gate.ErrNoAccount
		}
		kinds.Account.PlanID.Set(&changes, accounts[i].ID, accounts[i].PlanID, id)
	}
	if err := s.Change(changes); err != nil {
		return Decided{}, err
	}
	return Decided{Entry: s.ID, Title: s.Title}, s.flow(account)
}

// planID is the id of a plan, which is kept if it is new.
func (s *step) planID(p delivery.Plan) (int64, error) {
	known, err := s.Plans(50)
	if err != nil {
		return 0, err
	}
	for _, k := range known {
		if k.Value.String() == p.String() {
			return k.ID, nil
		}
	}
	return s.AddPlan(p, s.At)
}

// flow lets in what waits where a change has left delivery open.
func (s *step) flow(account int64) error {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	open := func(a int64) bool { return (account == 0 || a == account) && g.State(a, s.At).Open }
	if !slices.ContainsFunc(g.Accounts, open) {
		return nil
	}
	_, err = s.round(g, open)
	return err
}
