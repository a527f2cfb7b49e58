package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// BacklogView is the way through thousands of undecided letters.
type BacklogView struct {
	N     int              `json:"n" doc:"How many letters wait for a decision"`
	Many  bool             `json:"many" doc:"So many that a way through them is offered"`
	Heaps []BacklogHeap    `json:"heaps" doc:"The one first that takes most off at one key"`
	Left  int              `json:"left" doc:"How many are left out, for their owner"`
	Why   string           `json:"why" doc:"Why, in words"`
	Rest  int              `json:"rest" doc:"How many are in no heap, to be decided on one by one"`
	Plan  *BacklogProgress `json:"plan,omitempty" doc:"How it goes, where it is gone through over days"`
}

// BacklogHeap is a part of a backlog.
type BacklogHeap struct {
	Key     string      `json:"key"`
	Words   string      `json:"words"`
	N       int         `json:"n"`
	Propose decide.Kind `json:"propose" enum:"done,file,bin"`
	Label   string      `json:"label,omitempty" doc:"Under what it is filed"`
	Own     bool        `json:"own,omitempty" doc:"Its owner does so with such letters"`
	Oldest  time.Time   `json:"oldest"`
	Newest  time.Time   `json:"newest"`
}

// BacklogProgress is how a backlog goes that is gone through over days.
type BacklogProgress struct {
	Began   time.Time `json:"began"`
	Of      int       `json:"of" doc:"How many letters it had"`
	Left    int       `json:"left" doc:"How many of them are left"`
	Share   int       `json:"share" doc:"How many are to go each working day"`
	Today   int       `json:"today" doc:"How many of them went today"`
	Cleared string    `json:"cleared,omitempty" doc:"When it is gone at this pace, in words"`
}

// laid reads the backlog and lays it into heaps.
func (v Viewer) laid(tx *store.Tx) ([]store.Undone, []backlog.Heap, backlog.Left, error) {
	all, err := tx.Backlog(v.Cal.Today(v.Now).String())
	if err != nil {
		return nil, nil, backlog.Left{}, err
	}
	decisions, err := decisionsOf(tx)
	if err != nil {
		return nil, nil, backlog.Left{}, err
	}
	habits := map[string]backlog.Habit{}
	for _, p := range rule.Propose(decisions) {
		key := map[rule.Field]string{rule.List: "list:", rule.From: "sender:"}[p.All[0].Of] + p.All[0].Is
		habits[key] = backlog.Habit{Kind: p.Steps[0].Decision, Label: p.Steps[0].Text}
	}
	letters := make([]backlog.Letter, len(all))
	for i, u := range all {
		letters[i] = u.Letter
	}
	heaps, left := backlog.Lay(letters, habits, v.Now)
	return all, heaps, left, nil
}

// Backlog lays what waits for a decision into heaps.
func (a *Show) Backlog(ctx context.Context, who store.Who) (BacklogView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (BacklogView, error) {
		out := BacklogView{Heaps: []BacklogHeap{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, heaps, left, err := v.laid(tx)
		if err != nil {
			return out, err
		}
		out.N, out.Many, out.Left, out.Why, out.Rest = len(all), len(all) > backlog.Many, left.N(), left.InWords(), len(all)-left.N()
		for _, h := range heaps {
			out.Rest -= len(h.Letters)
			out.Heaps = append(out.Heaps, BacklogHeap{h.Key, letter.Capital(h.Words), len(h.Letters), h.Propose, h.Label, h.Own, h.Oldest, h.Newest})
		}
		out.Plan, err = v.progress(tx, all)
		return out, err
	})
}

// progress is how a backlog goes; nil where none is gone through.
func (v Viewer) progress(tx *store.Tx, all []store.Undone) (*BacklogProgress, error) {
	p, err := tx.InboxSettings()
	if err != nil {
		return nil, err
	}
	plan, ok := p.BacklogPlan()
	if !ok {
		return nil, nil
	}
	out := &BacklogProgress{Began: plan.Began, Of: plan.N, Share: plan.Share}
	for _, u := range all {
		if !u.At.After(plan.Began) {
			out.Left++
		}
	}
	today := v.Cal.Today(v.Now)
	begins := v.Cal.Begins(today)
	if begins.Before(plan.Began) {
		begins = plan.Began
	}
	if out.Today, err = tx.DecidedOf(plan.Began, begins); err != nil {
		return nil, err
	}
	if day, ok := plan.Cleared(out.Left, today, v.Cal); ok && out.Left > 0 {
		out.Cleared = v.Cal.Begins(day).In(v.Cal.Zone).Format("Monday 2 January")
	}
	return out, nil
}

// HeapMembers are the letters of a heap: all, to decide on at once, and the newest by their titles.
type HeapMembers struct {
	On      []store.Seen `json:"on"`
	Letters []HeapLetter `json:"letters" doc:"The newest 50"`
}

// HeapLetter is a letter of a heap.
type HeapLetter struct {
	ID    int64     `json:"id"`
	From  string    `json:"from"`
	Title string    `json:"title"`
	At    time.Time `json:"at"`
}

// BacklogMembers are the letters of a heap.
func (a *Show) BacklogMembers(ctx context.Context, who store.Who, key string) (HeapMembers, error) {
	return read(ctx, a, who, func(tx *store.Tx) (HeapMembers, error) {
		out := HeapMembers{On: []store.Seen{}, Letters: []HeapLetter{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		all, heaps, _, err := v.laid(tx)
		if err != nil {
			return out, err
		}
		in := map[int64]bool{}
		if key == "" && len(heaps) > 0 {
			key = heaps[0].Key
		}
		for _, h := range heaps {
			if h.Key == key {
				for _, id := range h.Letters {
					in[id] = true
				}
			}
		}
		if len(in) == 0 && key != "" {
			return out, work.Gone("That heap is gone; what was in it is decided, or in another one.")
		}
		for _, u := range all {
			if !in[u.Seen.ID] {
				continue
			}
			out.On = append(out.On, u.Seen)
			if len(out.Letters) < shownTaken {
				name := u.Name
				if name == "" {
					name = u.Sender
				}
				out.Letters = append(out.Letters, HeapLetter{u.Seen.ID, name, u.Title, u.At})
			}
		}
		return out, nil
	})
}

// decisionsOf are what the owner decided, the newest first.
func decisionsOf(tx *store.Tx) ([]rule.Decided, error) {
	lessons, err := tx.Lessons()
	if err != nil {
		return nil, err
	}
	out := make([]rule.Decided, 0, len(lessons))
	for i := len(lessons) - 1; i >= 0; i-- {
		l := lessons[i]
		if kind := l.Outcome.Decided(); kind != "" {
			out = append(out, rule.Decided{Letter: l.Letter, From: l.Sender, List: l.List, Kind: kind, With: l.Particulars})
		}
	}
	return out, nil
}
