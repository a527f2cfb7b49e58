package app

import (
	"context"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// surface lets the kinds come up whose round it is: what lies of them in the Shallows stands above
// the inbox from now on, until it is cleared or passed over.
func (s *step) surface() error {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return err
	}
	p, err := s.InboxSettings()
	if err != nil {
		return err
	}
	depths, err := s.Depths()
	if err != nil {
		return err
	}
	at, due := g.Common.NextKinds(s.At.Add(-time.Nanosecond))
	came := map[sorting.Kind]int{}
	for _, d := range depths {
		if at.Equal(s.At) && slices.Contains(due, d.Kind) {
			came[d.Kind] = d.N
		}
	}
	if len(came) == 0 {
		s.Title = "Nothing came up: none of it lay in the Shallows"
		return s.regate()
	}
	s.Title = "Came up out of the Shallows: " + sorting.Tally(came)
	return s.comeUpAs(p, p.Up().With(s.At, slices.DeleteFunc(due, func(k sorting.Kind) bool { return came[k] == 0 })...))
}

func (s *step) comeUpAs(p store.Person, up sorting.Up) error {
	var changes change.List
	kinds.Person.ComeUp.Set(&changes, p.ID, p.ComeUp, up.String())
	return s.Change(changes)
}

// PassOver lets a kind that has come up lie in the Shallows until its next round.
func (a *App) PassOver(ctx context.Context, who store.Who, command string, kind sorting.Kind) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "pass-over"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		about, _ := kind.About()
		if _, ok := p.Up()[kind]; !ok {
			return Decided{}, work.Gone("%s has not come up.", about.Name)
		}
		s.Title = "Passed over until its next round: " + string(kind)
		return Decided{Entry: s.ID, Title: s.Title}, s.comeUpAs(p, p.Up().Without(kind))
	})
}

// SurfaceAt settles when a kind comes up, as delivery.ReadKindRounds reads it; no text is never.
func (a *App) SurfaceAt(ctx context.Context, who store.Who, command string, kind sorting.Kind, text string) (Decided, error) {
	rounds, err := delivery.ReadKindRounds(kind, text)
	if err != nil {
		return Decided{}, work.Invalid("rounds", "%s", say.Sentence(err))
	}
	about, ok := kind.About()
	if !ok {
		return Decided{}, work.Invalid("kind", "There is no such kind in the Shallows.")
	}
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: planKind}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.InboxSettings()
		if err != nil {
			return Decided{}, err
		}
		var plan delivery.Plan
		if now, err := s.Plans(1, p.PlanID); err != nil {
			return Decided{}, err
		} else if len(now) > 0 {
			plan = now[0].Value
		}
		plan = plan.WithRounds(kind, rounds)
		out, err := s.putPlan(0, &show.PlanDraft{Plan: &plan})
		if s.Title = about.Name + " comes up no more by itself"; len(rounds) > 0 {
			s.Title = about.Name + " comes up " + delivery.KindRoundsText(rounds)
		}
		out.Title = s.Title
		return out, err
	})
}
