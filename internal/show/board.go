package show

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/load"
	"ebbe.example/ebbe/internal/store"
)

// Arranged says how follow-ups are to be laid out.
type Arranged struct {
	By     followup.Layout
	Closed bool
	Filter followup.Filter
}

// Board is the follow-ups laid out. Lanes name all that stands in them; the
// first of each come along, the others are asked for as they come into sight.
type Board struct {
	Lanes   []BoardLane   `json:"lanes"`
	Cards   []FollowUp    `json:"cards" doc:"The first of each lane"`
	Total   int           `json:"total"`
	All     int           `json:"all" doc:"Without the filter"`
	Stages  []store.Stage `json:"stages"`
	Filters []KeptFilter  `json:"filters"`
	Planned int           `json:"planned" doc:"Minutes of work on today"`
	Free    int           `json:"free" doc:"Minutes for it; 0 for no time"`
	Names   Names         `json:"names"`
	// Weights are what the order weighs.
	Weights followup.Weights `json:"weights"`
}

// BoardLane is a lane of the board; list and board show the same.
type BoardLane struct {
	Key     string  `json:"key"`
	Label   string  `json:"label"`
	IDs     []int64 `json:"ids" doc:"In the order of work"`
	Minutes int     `json:"minutes"`
	Most    int     `json:"most,omitempty" doc:"How many a stage should hold"`
	Colour  string  `json:"colour,omitempty"`
	Shape   string  `json:"shape,omitempty"`
}

// KeptFilter is a filter under a name.
type KeptFilter struct {
	ID     int64           `json:"id"`
	Name   string          `json:"name"`
	By     followup.Layout `json:"by,omitempty" enum:"due,stage,priority,person,project,context,order"`
	Filter followup.Filter `json:"filter"`
}

// Names are the projects, contexts and people that follow-ups have.
type Names struct {
	Projects []string `json:"projects"`
	Contexts []string `json:"contexts"`
	People   []string `json:"people"`
}

const (
	// maxBoard bounds how many follow-ups are laid out.
	maxBoard = 50_000
	// firstCards is how many of each lane come along with the board.
	firstCards = 24
	// maxCards bounds how many are asked for at once.
	maxCards = 200
)

// sorter is what ordering follow-ups needs: read once, used for all of them.
type sorter struct {
	Viewer
	weights followup.Weights
	now     followup.Now
	waiters map[int64]store.Waiter
	key     map[string]bool // key people, by address
	today   load.Day
	days    []load.Day
}

func (a *Show) sorter(tx *store.Tx) (d sorter, err error) {
	if d.Viewer, err = a.Viewer(tx); err != nil {
		return d, err
	}
	pace, err := d.pace(tx)
	if err != nil {
		return d, err
	}
	if d.days, err = d.load(tx, stripDays, pace); err != nil {
		return d, err
	}
	d.today = d.days[0]
	d.weights = d.Viewer.weights()
	d.now = followup.Now{At: d.Viewer.Now, Calendar: d.Cal, Free: d.today.Free}
	if d.waiters, err = tx.Waiters(); err != nil {
		return d, err
	}
	d.key, err = tx.KeyPersons(d.Viewer.Now)
	return d, err
}

func (v Viewer) weights() followup.Weights {
	w := followup.UsualWeights
	if v.Person.Weights != "" {
		_ = json.Unmarshal([]byte(v.Person.Weights), &w) // what can't be read leaves the usual ones
	}
	return w
}

func (d sorter) standing(c followup.Card) followup.Standing {
	s := followup.Standing{ID: c.ID, Due: c.Due, Priority: c.Priority, MadeAt: c.MadeAt, Estimate: c.Estimate}
	if w, ok := d.waiters[c.ID]; ok {
		s.Waiter, s.Since, s.Key = w.Name, w.Since, d.key[w.Email]
	}
	return s
}

// ordered puts cards into the order of work.
func (d sorter) ordered(cards []followup.Card) []followup.Card {
	standings := make([]followup.Standing, len(cards))
	at := make(map[int64]int, len(cards))
	for i, c := range cards {
		standings[i] = d.standing(c)
		at[c.ID] = i
	}
	out := make([]followup.Card, len(cards))
	for i, r := range followup.Order(standings, d.weights, d.now) {
		out[i] = cards[at[r.ID]]
	}
	return out
}

// view shows a follow-up with the reasons for its place.
func (d sorter) view(f store.FollowUp) FollowUp {
	out := d.followUp(f)
	if !f.Status.Closed() {
		card := followup.Card{ID: f.ID, Due: f.Due, Priority: f.Priority, MadeAt: f.MadeAt, Estimate: time.Duration(f.Estimate) * time.Minute}
		out.Why = followup.Explain(d.standing(card), d.weights, d.now)
	}
	return out
}

// Board lays follow-ups out.
func (a *Show) Board(ctx context.Context, who store.Who, q Arranged) (Board, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Board, error) {
		out := Board{Lanes: []BoardLane{}, Cards: []FollowUp{}, Filters: []KeptFilter{}}
		d, err := a.sorter(tx)
		if err != nil {
			return out, err
		}
		out.Weights = d.weights
		out.Planned, out.Free = int(d.today.Planned.Minutes()), int(d.today.Free.Minutes())
		cards, err := tx.BoardItems(q.Closed, maxBoard)
		if err != nil {
			return out, err
		}
		out.All = len(cards)
		cards = slices.DeleteFunc(cards, func(c followup.Card) bool { return !q.Filter.Match(c, d.Viewer.Now, d.Cal) })
		out.Total = len(cards)
		if out.Stages, err = tx.Stages(); err != nil {
			return out, err
		}
		out.Stages = OrEmpty(out.Stages)
		var first []int64
		if q.Closed {
			out.Lanes = doneLanes(cards, d.Viewer)
		} else {
			out.Lanes = d.lanes(d.ordered(cards), q.By, out.Stages)
		}
		for _, l := range out.Lanes {
			first = append(first, l.IDs[:min(firstCards, len(l.IDs))]...)
		}
		if out.Cards, err = d.cards(tx, first); err != nil {
			return out, err
		}
		kept, err := tx.KeptFilters()
		if err != nil {
			return out, err
		}
		for _, k := range kept {
			f := KeptFilter{ID: k.ID, Name: k.Name}
			if json.Unmarshal([]byte(k.Value), &f) == nil {
				f.ID, f.Name = k.ID, k.Name
				out.Filters = append(out.Filters, f)
			}
		}
		out.Names, err = names(tx)
		return out, err
	})
}

func (d sorter) lanes(cards []followup.Card, by followup.Layout, stages []store.Stage) []BoardLane {
	named := make([]followup.NamedStage, len(stages))
	for i, s := range stages {
		named[i] = followup.NamedStage{ID: s.ID, Name: s.Name, Most: s.Most}
	}
	out := []BoardLane{}
	for _, l := range followup.LayOut(cards, by, named, d.Viewer.Now, d.Cal) {
		lane := BoardLane{Key: l.Key, Label: l.Label, IDs: OrEmpty(l.IDs), Minutes: l.Minutes, Most: l.Most}
		if by == followup.ByStage {
			if i := slices.IndexFunc(stages, func(s store.Stage) bool { return strconv.FormatInt(s.ID, 10) == l.Key }); i >= 0 {
				lane.Colour, lane.Shape = stages[i].Colour, stages[i].Shape
			}
		}
		out = append(out, lane)
	}
	return out
}

// doneLanes lays closed follow-ups out by the month in which they were closed.
func doneLanes(cards []followup.Card, v Viewer) []BoardLane {
	out := []BoardLane{}
	for _, c := range cards {
		month := c.DoneAt.In(v.Cal.Zone)
		key := month.Format("2006-01")
		if n := len(out); n == 0 || out[n-1].Key != key {
			out = append(out, BoardLane{Key: key, Label: month.Format("January 2006"), IDs: []int64{}})
		}
		l := &out[len(out)-1]
		l.IDs = append(l.IDs, c.ID)
		l.Minutes += int(c.Estimate.Minutes())
	}
	return out
}

// cards shows follow-ups in the order of their ids as given.
func (d sorter) cards(tx *store.Tx, ids []int64) ([]FollowUp, error) {
	list, err := tx.FollowUpsByID(ids)
	if err != nil {
		return nil, err
	}
	at := make(map[int64]store.FollowUp, len(list))
	for _, f := range list {
		at[f.ID] = f
	}
	out := []FollowUp{}
	for _, id := range ids {
		if f, ok := at[id]; ok && f.Alive {
			out = append(out, d.view(f))
		}
	}
	return out, nil
}

// Cards gives follow-ups by their ids.
func (a *Show) Cards(ctx context.Context, who store.Who, ids []int64) ([]FollowUp, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]FollowUp, error) {
		d, err := a.sorter(tx)
		if err != nil {
			return nil, err
		}
		return d.cards(tx, ids[:min(len(ids), maxCards)])
	})
}

// Followed is one follow-up in full, with what happened to it.
type Followed struct {
	FollowUp
	History []JournalEntry `json:"history"`
}

// FollowUp gives one follow-up in full.
func (a *Show) FollowUp(ctx context.Context, who store.Who, id int64) (Followed, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Followed, error) {
		f, err := tx.FollowUp(id)
		if err != nil || !f.Alive {
			return Followed{}, store.ErrNotFound
		}
		d, err := a.sorter(tx)
		if err != nil {
			return Followed{}, err
		}
		out := Followed{FollowUp: d.view(f), History: []JournalEntry{}}
		if out.NotesHTML, err = followup.NotesHTML(f.Notes); err != nil {
			return out, err
		}
		if out.Version, err = tx.LastChange(f.Object()); err != nil {
			return out, err
		}
		steps, err := tx.HistoryOf(id, 100)
		for _, e := range steps {
			out.History = append(out.History, journalEntry(e))
		}
		return out, err
	})
}

func names(tx *store.Tx) (n Names, err error) {
	for field, into := range map[string]*[]string{"project": &n.Projects, "context": &n.Contexts, "assignee": &n.People} {
		list, err := tx.UsedNames(field)
		if err != nil {
			return n, err
		}
		*into = OrEmpty(list)
	}
	return n, nil
}
