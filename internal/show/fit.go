package show

import (
	"context"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
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
func (d sorter) fit(tx *store.Tx) (FitView, error) {
	out := FitView{Planned: int(d.today.Planned.Minutes()), Free: int(d.today.Free.Minutes()), Moves: []FitOne{}}
	cards, err := tx.BoardItems(false, maxBoard)
	if err != nil {
		return out, err
	}
	byID := map[int64]followup.Card{}
	var list []followup.Fittable
	for _, c := range d.ordered(cards) {
		g := followup.GroupOf(c.Due, d.Viewer.Now, d.Cal)
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
		due := c.Due.MovedTo(d.days[m.Day].Date, d.Cal)
		words, _ := d.due(due)
		out.Moves = append(out.Moves, FitOne{ID: c.ID, Title: c.Title, Estimate: int(c.Estimate.Minutes()), To: due.Canonical(d.Cal), Words: words, Over: d.days[m.Day].Over(c.Estimate)})
	}
	return out, nil
}

// Fit proposes what to move from today where to, so that it fits. Nothing is
// changed.
func (a *Show) Fit(ctx context.Context, who store.Who) (FitView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (FitView, error) {
		d, err := a.sorter(tx)
		if err != nil {
			return FitView{}, err
		}
		return d.fit(tx)
	})
}
