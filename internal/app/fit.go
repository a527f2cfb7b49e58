package app

import (
	"context"
	"fmt"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// FitView is what would be moved so that today fits.
type FitView struct {
	Planned int      `json:"planned" doc:"Minutes on today"`
	Free    int      `json:"free"`
	Left    int      `json:"left" doc:"Minutes that would still be too much"`
	Moves   []FitOne `json:"moves"`
}

// FitOne is a follow-up that would be moved, and where to.
type FitOne struct {
	ID       int64  `json:"id"`
	Title    string `json:"title"`
	Estimate int    `json:"estimate"`
	To       string `json:"to" doc:"The phrase of the new due"`
	Words    string `json:"words"`
	Over     bool   `json:"over,omitempty" doc:"That day is over-full too"`
}

// fit works out what to move.
func (d desk) fit(tx *store.Tx) (FitView, error) {
	out := FitView{Planned: int(d.today.Planned.Minutes()), Free: int(d.today.Free.Minutes()), Moves: []FitOne{}}
	cards, err := tx.BoardItems(false, maxBoard)
	if err != nil {
		return out, err
	}
	byID := map[int64]followup.Card{}
	var list []followup.Fittable
	for _, c := range d.ordered(cards) {
		g := followup.GroupOf(c.Due, d.viewer.now, d.cal)
		if g != followup.Today && g != followup.Overdue {
			continue
		}
		byID[c.ID] = c
		list = append(list, followup.Fittable{ID: c.ID, Estimate: c.Estimate, Fixed: c.Due.Precision == when.ToMinute && g == followup.Today})
	}
	moves, over := followup.Fit(list, d.days)
	out.Left = int(over.Minutes())
	for _, m := range moves {
		c := byID[m.ID]
		due := c.Due.MovedTo(d.days[m.Day].Date, d.cal)
		words, _ := d.due(due)
		out.Moves = append(out.Moves, FitOne{ID: c.ID, Title: c.Title, Estimate: int(c.Estimate.Minutes()), To: due.Canonical(d.cal), Words: words, Over: d.days[m.Day].Over(c.Estimate)})
	}
	return out, nil
}

// Fit proposes what to move from today where to, so that it fits. Nothing is
// changed.
func (a *App) Fit(ctx context.Context, who store.Who) (FitView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (FitView, error) {
		d, err := a.desk(tx)
		if err != nil {
			return FitView{}, err
		}
		return d.fit(tx)
	})
}

// TakeFit moves follow-ups as was proposed, as one step.
func (a *App) TakeFit(ctx context.Context, who store.Who, command string, moves []FitMove) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		n := 0
		for _, m := range moves {
			f, err := s.FollowUp(m.ID)
			if err != nil || !f.Alive || f.Status.Closed() {
				continue // done meanwhile
			}
			due, err := s.read(m.To)
			if err != nil {
				return Decided{}, err
			}
			if err := s.setDue(f, due); err != nil {
				return Decided{}, err
			}
			n++
		}
		s.Title = fmt.Sprintf("Made today fit: moved %d follow-ups", n)
		if n == 0 {
			return Decided{}, work.Refuse("There is nothing left to move.")
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(change.List{})
	})
}

// FitMove is one move that is taken.
type FitMove struct {
	ID int64  `json:"id"`
	To string `json:"to" maxLength:"200"`
}
