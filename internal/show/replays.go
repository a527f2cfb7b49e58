package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// ReplayView is what a plan would have done in the past week.
type ReplayView struct {
	Letters    int                  `json:"letters"`
	Deliveries []delivery.Delivered `json:"deliveries"`
	AtOnce     int                  `json:"atOnce" doc:"Came as they arrived"`
	Through    int                  `json:"through" doc:"Were let through"`
	Entries    []EntryCount         `json:"entries" doc:"By which entries"`
	Median     int                  `json:"median" doc:"Minutes that a letter waited"`
	Longest    int                  `json:"longest" doc:"Minutes"`
	Longer     int                  `json:"longer" doc:"Letters that would have waited longer than a day"`
	OverDay    []string             `json:"overDay" doc:"The first hundred of them"`
	Avoided    int                  `json:"avoided" doc:"Interruptions that there would not have been"`
}

// EntryCount is how many letters an entry let through.
type EntryCount struct {
	Words   string `json:"words"`
	Letters int    `json:"letters"`
}

// replay runs the letters of the past seven days to some accounts (all, if nil)
// against a plan.
func (v Viewer) replay(tx *store.Tx, gate *delivery.Gate, accounts []int64) (ReplayView, error) {
	entries, err := Throughs(tx, v.Now)
	if err != nil {
		return ReplayView{}, err
	}
	today := v.Cal.Today(v.Now)
	came, err := Samples(tx, entries, v.Cal.Begins(today.Add(-7)), v.Cal.Begins(today), accounts)
	if err != nil {
		return ReplayView{}, err
	}
	letters := make([]delivery.Sample, len(came))
	for i, c := range came {
		letters[i] = delivery.Sample{At: c.At, Facts: c.Facts}
	}
	r := delivery.Run(gate, entries, letters)
	out := ReplayView{
		Letters: r.Letters, Deliveries: OrEmpty(r.Deliveries), AtOnce: r.AtOnce, Entries: []EntryCount{}, OverDay: []string{},
		Median: int(r.Median.Minutes()), Longest: int(r.Longest.Minutes()), Avoided: r.Avoided,
	}
	for _, e := range entries {
		if n := r.Through[e.ID]; n > 0 {
			out.Through += n
			out.Entries = append(out.Entries, EntryCount{e.String(), n})
		}
	}
	out.Longer = len(r.OverDay)
	for _, i := range r.OverDay[:min(len(r.OverDay), 100)] {
		out.OverDay = append(out.OverDay, came[i].Sender+": "+say.Shorten(came[i].Facts.Subject, 70))
	}
	return out, nil
}

// ExamplePlan is a plan to start from, with what it would have done last week.
type ExamplePlan struct {
	Name   string        `json:"name"`
	Why    string        `json:"why"`
	Plan   delivery.Plan `json:"plan"`
	Text   string        `json:"text"`
	Times  string        `json:"times" doc:"The rounds of a working day, in words"`
	Fitted bool          `json:"fitted" doc:"Enough has come for it to be more than a guess"`
	Replay ReplayView    `json:"replay"`
}

// exampleDays is over how many days the times of arrivals are taken.
const exampleDays = 42

// ExamplePlans are three plans fitted to when the person's mail arrives.
func (a *Show) ExamplePlans(ctx context.Context, who store.Who) ([]ExamplePlan, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]ExamplePlan, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return nil, err
		}
		came, err := tx.CameBetween(v.Now.AddDate(0, 0, -exampleDays), v.Now, nil, MaxSamples)
		if err != nil {
			return nil, err
		}
		at := make([]time.Time, len(came))
		for i, c := range came {
			at[i] = c.At
		}
		var out []ExamplePlan
		for _, e := range delivery.Examples(at, v.Cal) {
			one := ExamplePlan{Name: e.Name, Why: e.Why, Plan: e.Plan, Text: e.Plan.String(), Times: e.Plan.Times(), Fitted: e.Fitted}
			if one.Replay, err = v.replay(tx, delivery.NewGate(e.Plan, v.Cal), nil); err != nil {
				return nil, err
			}
			out = append(out, one)
		}
		return out, nil
	})
}
