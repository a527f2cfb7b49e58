package show

import (
	"context"
	"errors"
	"time"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/group"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

const (
	// comeNext are how many of the letters to come are shown of a sitting: as many as can be decided on
	// before it is read again.
	comeNext = 30
	// mostDecided are how many of its decisions are listed.
	mostDecided = 200
)

// SittingView is how the sitting stands that the person has begun last.
type SittingView struct {
	ID    int64      `json:"id" doc:"0 where none was ever begun"`
	Began time.Time  `json:"began"`
	Until *time.Time `json:"until,omitempty" doc:"When its time is up; left out of one that goes on until zero"`
	Ended *time.Time `json:"ended,omitempty"`
	Heap  string     `json:"heap" doc:"Of what it is made, in words"`
	Total int        `json:"total" doc:"Of so many conversations it was made …"`
	Left  int        `json:"left" doc:"… and so many of them are still to come"`
	Done  int        `json:"done" doc:"So many conversations were decided on, of it or others"`
	// New are how many came since it began, Passed how many were skipped twice and come no more.
	New    int `json:"new"`
	Passed int `json:"passed"`
	// Next are the conversations that come next, in their order.
	Next []SittingRow `json:"next"`
	// Decided are its decisions, the newest first, each of which can be undone; Sums how many of which.
	Decided []DecisionView `json:"decided"`
	Sums    string         `json:"sums" doc:"What was decided, in words: 7 done, 3 filed"`
	// Pace is how long a decision takes today, in the middle of all; 0 while nothing tells.
	Pace float64 `json:"pace" doc:"Seconds"`
	// Zero is when nothing will be left at this pace; within the band in eight cases of ten.
	Zero     *time.Time `json:"zero,omitempty"`
	ZeroFrom *time.Time `json:"zeroFrom,omitempty"`
	ZeroTo   *time.Time `json:"zeroTo,omitempty"`
	// Ring is how long a letter may take that is answered at once.
	Ring float64 `json:"ring" doc:"Seconds"`
}

// SittingRow is a conversation that comes in a sitting.
type SittingRow struct {
	Row
	Skipped bool `json:"skipped,omitempty" doc:"It was skipped once, and comes again"`
	New     bool `json:"new,omitempty" doc:"It came since the sitting began"`
}

// HeapOf are the conversations of a heap that are undecided now, in their order.
func (a *Show) HeapOf(tx *store.Tx, h sitting.Heap) ([]int64, error) {
	v, err := a.Viewer(tx)
	if err != nil {
		return nil, err
	}
	if !h.Place.Undecided() {
		return nil, work.Invalid("heap", "A sitting is made of what is undecided.")
	}
	var ids []int64
	if h.By == "" {
		ids, err = tx.Queue(h.Place, h.Account, h.Starred, h.Kind)
	} else {
		ids, err = a.groupOf(tx, v, h)
	}
	if err != nil {
		return nil, err
	}
	if h.Oldest {
		for i, j := 0, len(ids)-1; i < j; i, j = i+1, j-1 {
			ids[i], ids[j] = ids[j], ids[i]
		}
	}
	return ids, nil
}

// groupOf are the conversations of a heap that is a group of a list.
func (a *Show) groupOf(tx *store.Tx, v Viewer, h sitting.Heap) ([]int64, error) {
	all, keys, err := a.grouping(tx, v, GroupAsk{By: group.By(h.By), Place: h.Place, Account: h.Account})
	if err != nil {
		return nil, err
	}
	ids := make([]int64, 0, len(all))
	for i, g := range all {
		if keys[i].Key == h.Key && (g.Star || !h.Starred) && (h.Kind == "" || g.Kind == h.Kind) {
			ids = append(ids, g.ID)
		}
	}
	return ids, nil
}

// HeapWords say of what a sitting is made.
func HeapWords(h sitting.Heap) string {
	words := "the inbox"
	switch about, ok := h.Kind.About(); {
	case h.Words != "":
		words = h.Words
	case ok:
		words = about.Name
	case h.Place == decide.Shallows:
		words = "the Shallows"
	}
	if h.Starred {
		words = "what is starred in " + words
	}
	return words
}

// Sitting gives how the sitting stands that the person has begun last.
func (a *Show) Sitting(ctx context.Context, who store.Who) (SittingView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (SittingView, error) {
		out := SittingView{Next: []SittingRow{}, Decided: []DecisionView{}, Ring: sitting.Ring.Seconds()}
		s, err := tx.LatestSitting()
		if errors.Is(err, store.ErrNotFound) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		out.ID, out.Began, out.Heap, out.Total = s.ID, s.Began, HeapWords(s.Heap), len(s.Letters)
		end := v.Now.Add(time.Millisecond)
		if !s.Until.IsZero() {
			out.Until = &s.Until
		}
		if !s.Ended.IsZero() {
			out.Ended, end = &s.Ended, s.Ended
		}
		if err := out.decided(tx, s.Began, end); err != nil || out.Ended != nil {
			return out, err
		}
		if err := out.come(a, tx, v, s); err != nil {
			return out, err
		}
		return out, out.hurry(tx, v)
	})
}

// decided fills in what was decided between two moments.
func (out *SittingView) decided(tx *store.Tx, from, until time.Time) error {
	made, err := tx.Decisions(from, until, mostDecided)
	if err != nil {
		return err
	}
	on, err := tx.DecidedOn(from, until)
	if err != nil {
		return err
	}
	out.Done = len(on)
	sums := map[decide.Kind]int{}
	for _, e := range made {
		view := decisionView(e)
		out.Decided = append(out.Decided, view)
		sums[decide.Kind(view.Kind)]++
	}
	out.Sums = decide.Tally(sums)
	return nil
}

// come fills in what comes next.
func (out *SittingView) come(a *Show, tx *store.Tx, v Viewer, s store.Sitting) error {
	there, err := a.HeapOf(tx, s.Heap)
	if err != nil {
		return err
	}
	decided, err := tx.DecidedOn(s.Began, v.Now)
	if err != nil {
		return err
	}
	laid := s.Lay(there, decided)
	out.Left, out.New, out.Passed = laid.Left, laid.New, laid.Passed
	next := laid.Queue[:min(comeNext, len(laid.Queue))]
	rows, err := tx.Conversations(next)
	if err != nil {
		return err
	}
	byID := make(map[int64]store.Row, len(rows))
	for _, r := range rows {
		byID[r.ID] = r
	}
	for i, id := range next {
		if r, ok := byID[id]; ok {
			out.Next = append(out.Next, SittingRow{v.row(r), laid.Again[id], i >= laid.Left})
		}
	}
	return nil
}

// hurry fills in the pace, and when nothing will be left at it.
func (out *SittingView) hurry(tx *store.Tx, v Viewer) error {
	today := v.Cal.Begins(v.Cal.Today(v.Now))
	made, err := tx.Decisions(today, v.Now.Add(time.Millisecond), paceOf)
	if err != nil {
		return err
	}
	begins, err := tx.SittingsSince(today)
	if err != nil {
		return err
	}
	at := make([]time.Time, len(made))
	for i, e := range made {
		at[i] = e.At
	}
	pace := sitting.PaceOf(at, begins)
	out.Pace = pace.Median.Seconds()
	if z, ok := pace.Forecast(out.Left, v.Now); ok {
		out.Zero = &z.At
		if !z.To.IsZero() {
			out.ZeroFrom, out.ZeroTo = &z.From, &z.To
		}
	}
	return nil
}

// paceOf are of how many of today's decisions at most the pace is taken.
const paceOf = 1000
