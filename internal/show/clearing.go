package show

import (
	"cmp"
	"context"
	"math"
	"slices"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/store"
)

// Clearing is a clearing session: the lists and bulk senders about which nothing was settled.
type Clearing struct {
	Senders []ClearingLine `json:"senders"`
	// Settled are how many of those that still send are settled already.
	Settled int `json:"settled"`
}

// ClearingLine is one of them.
type ClearingLine struct {
	// Key tells it from the others; Of is its list or address.
	Key  string `json:"key"`
	Name string `json:"name"`
	Of   string `json:"of"`
	// Monthly are its letters a month, Opened how many of a hundred were looked at.
	Monthly float64 `json:"monthly"`
	Opened  int     `json:"opened" minimum:"0" maximum:"100"`
	N       int     `json:"n" doc:"Letters of the past three months"`
	// Letter is its newest, of Conversation.
	Letter       int64 `json:"letter"`
	Conversation int64 `json:"conversation"`
	Leave        *Way  `json:"leave,omitempty"`
}

// What a clearing session looks at.
const (
	clearingDays = 90
	daysOfMonth  = 30.4
	mostCleared  = 200
)

// Clearing gives what is to be cleared. What was settled of a sender takes it off: so a session
// goes on where one stopped.
func (a *Show) Clearing(ctx context.Context, who store.Who) (Clearing, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Clearing, error) {
		out := Clearing{Senders: []ClearingLine{}}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		sendings, err := tx.Sendings(v.Now.AddDate(0, 0, -clearingDays), mostCleared)
		if err != nil {
			return out, err
		}
		list, err := tx.Corrections()
		if err != nil {
			return out, err
		}
		open := unsettled(sendings, list)
		out.Settled = len(sendings) - len(open)
		last := make([]int64, len(open))
		for i, s := range open {
			last[i] = s.Last
		}
		rows, err := tx.Letters(last)
		if err != nil {
			return out, err
		}
		originals, err := tx.OriginalsOf(last)
		if err != nil {
			return out, err
		}
		ways := make(map[int64]Way, len(rows))
		for _, r := range rows {
			if raw, ok := originals[r.ID]; ok {
				ways[r.ID] = WayOut(letter.LeavingOf(raw), r)
			}
		}
		for _, s := range open {
			line := ClearingLine{
				Key: s.From, Name: cmp.Or(s.Name, s.From), Of: s.From, N: s.N, Letter: s.Last, Conversation: s.Conversation,
				Monthly: math.Round(10*float64(s.N)*daysOfMonth/clearingDays) / 10, Opened: 100 * s.Opened / max(1, s.N),
			}
			if s.List != "" {
				line.Key, line.Of = "list "+s.List, s.List
			}
			if way := ways[s.Last]; way.By != "" {
				line.Leave = &way
			}
			out.Senders = append(out.Senders, line)
		}
		return out, nil
	})
}

// unsettled are those of some senders of whom no correction speaks.
func unsettled(sendings []store.Sending, list []store.Correction) []store.Sending {
	return slices.DeleteFunc(slices.Clone(sendings), func(s store.Sending) bool {
		return slices.ContainsFunc(list, func(c store.Correction) bool { return c.Correction().Covers(s.From, s.List, true) })
	})
}

// FirstSorted is somebody of whom something was sorted out for the first time.
type FirstSorted struct {
	Key          string       `json:"key"`
	Name         string       `json:"name"`
	Of           string       `json:"of"`
	Kind         sorting.Kind `json:"kind" enum:"receipts,notices,reading,meetings,copies,away,junk"`
	Says         string       `json:"says" doc:"The subject of the newest"`
	N            int          `json:"n"`
	Letter       int64        `json:"letter"`
	Conversation int64        `json:"conversation"`
}

// FirstSorted gives those of this week, so that nobody lies among machines for long who is none.
func (a *Show) FirstSorted(ctx context.Context, who store.Who) ([]FirstSorted, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FirstSorted, error) {
		out := []FirstSorted{}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		began := v.Cal.WeekEnd(v.Cal.Today(v.Now)).Add(-6)
		all, err := tx.FirstSorted(v.Cal.Begins(began), mostCleared)
		if err != nil {
			return out, err
		}
		corrections, err := tx.Corrections()
		list := unsettled(all, corrections)
		if err != nil {
			return out, err
		}
		last := make([]int64, len(list))
		for i, s := range list {
			last[i] = s.Last
		}
		letters, err := tx.Letters(last)
		subjects := make(map[int64]string, len(letters))
		for _, l := range letters {
			subjects[l.ID] = l.Subject
		}
		for _, s := range list {
			out = append(out, FirstSorted{Key: s.From, Name: cmp.Or(s.Name, s.From), Of: s.From, Kind: s.Kind, Says: subjects[s.Last], N: s.N, Letter: s.Last, Conversation: s.Conversation})
		}
		return out, err
	})
}
