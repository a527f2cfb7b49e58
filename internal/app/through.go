package app

import (
	"context"
	"slices"
	"strconv"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// ThroughFields are an entry of the let-through list as it is typed.
type ThroughFields struct {
	Kind  delivery.ThroughKind `json:"kind" enum:"sender,domain,words,project,label,answer,to,code"`
	Value string               `json:"value" maxLength:"300"`
	// Until is a phrase; empty for no end.
	Until string `json:"until" maxLength:"200"`
	// Key makes a sender a key person.
	Key bool `json:"key,omitempty"`
}

// AddThrough lets letters through from now on. An entry that is there already
// is made anew, with the new end.
func (a *App) AddThrough(ctx context.Context, who store.Who, command string, in ThroughFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "through"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		t, err := s.readThrough(in)
		if err != nil {
			return Decided{}, err
		}
		list, err := s.Throughs(s.At)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		for _, old := range list {
			if old.Kind == t.Kind && old.Value == t.Value {
				kinds.Through.Alive.Set(&changes, old.ID, true, false)
			}
		}
		id, err := s.Tx.AddThrough(t, s.At)
		if err != nil {
			return Decided{}, err
		}
		kinds.Through.Alive.Set(&changes, id, false, true)
		s.Title = "Let through: " + t.Through.String()
		if t.Until != nil {
			v, err := a.Viewer(s.Tx)
			if err != nil {
				return Decided{}, err
			}
			s.Title += " until " + v.UntilWords(*t.Until)
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func (s *step) readThrough(in ThroughFields) (store.Through, error) {
	checked, err := delivery.Through{Kind: in.Kind, Value: in.Value}.Check()
	if err != nil {
		return store.Through{}, work.Invalid("value", "%s", say.Sentence(err))
	}
	until, err := s.optional(&in.Until)
	if err != nil {
		return store.Through{}, err
	}
	if until != nil && until.Precision == when.Open {
		until = nil
	}
	return store.Through{Through: checked, Key: in.Key && in.Kind == delivery.BySender, Until: until}, nil
}

// EndThrough takes an entry off the list.
func (a *App) EndThrough(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "through"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.Throughs(s.At)
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(list, func(t store.Through) bool { return t.ID == id })
		if i < 0 {
			return Decided{}, work.Gone("That entry is no longer on the list.")
		}
		var changes change.List
		kinds.Through.Alive.Set(&changes, list[i].ID, true, false)
		s.Title = "No longer let through: " + list[i].Through.String()
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// previewDays is over how many days an entry is tried.
const previewDays = 30

// ThroughPreview is what an entry would have let through.
type ThroughPreview struct {
	Matched int `json:"matched"`
	Of      int `json:"of" doc:"Letters of the past 30 days"`
	// Warning says that it lets nearly everything through.
	Warning string   `json:"warning,omitempty"`
	Latest  []string `json:"latest" doc:"Some of them, the newest first"`
	Held    int      `json:"held" doc:"Letters that wait now and that it would let in"`
}

// PreviewThrough tries an entry on the letters of the past 30 days, and on those
// that wait.
func (a *App) PreviewThrough(ctx context.Context, who store.Who, in ThroughFields) (ThroughPreview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (ThroughPreview, error) {
		s := a.reading(tx, a.Now())
		out := ThroughPreview{Latest: []string{}}
		t, err := s.readThrough(in)
		if err != nil {
			return out, err
		}
		t.Through.Until = time.Time{}
		came, err := show.Samples(tx, []delivery.Through{t.Through}, s.At.AddDate(0, 0, -previewDays), s.At, nil)
		if err != nil {
			return out, err
		}
		out.Of = len(came)
		for _, c := range slices.Backward(came) {
			if !t.Match(c.Facts, c.At) {
				continue
			}
			if out.Matched++; len(out.Latest) < 5 {
				out.Latest = append(out.Latest, c.Sender+": "+say.Shorten(c.Facts.Subject, 70))
			}
		}
		if out.Of >= 10 && out.Matched*10 >= out.Of*9 {
			out.Warning = "It lets nearly everything through: " + strconv.Itoa(out.Matched) + " of " + say.Count(out.Of, "letter") + "."
		}
		held, err := s.heldMatching(t.Through)
		out.Held = len(held)
		return out, err
	})
}

// heldMatching lists the letters that wait and that an entry lets through.
func (s *step) heldMatching(e delivery.Through) ([]int64, error) {
	g, err := gate.Of(s.Tx)
	if err != nil {
		return nil, err
	}
	held, err := s.Held(s.At, g.Accounts)
	if err != nil {
		return nil, err
	}
	if e.ByFacts() {
		came, err := s.CameAs(held)
		came = slices.DeleteFunc(came, func(c store.Came) bool { return !e.Match(c.Facts, s.At) })
		matching := make(map[int64]bool, len(came))
		for _, c := range came {
			matching[c.ID] = true
		}
		return slices.DeleteFunc(held, func(id int64) bool { return !matching[id] }), err
	}
	if held, err = s.mayMatch(e, held); err != nil {
		return nil, err
	}
	addresses, err := s.addresses()
	if err != nil {
		return nil, err
	}
	var out []int64
	for _, id := range held {
		st, err := s.reopen(id, ownKeys(addresses))
		if err != nil {
			return nil, err
		}
		f, err := s.factsOf(st)
		if err != nil {
			return nil, err
		}
		if e.Match(f, s.At) {
			out = append(out, id)
		}
	}
	return out, nil
}

// mayMatch leaves out held letters that an entry can't match, so that few have
// to be read: those whose words the full-text index knows to be others, and
// those that belong to no conversation with a label or project.
func (s *step) mayMatch(e delivery.Through, held []int64) ([]int64, error) {
	if e.Kind == delivery.ByWords {
		with, err := s.WithWords(time.Time{}, show.MaxSamples, e.Value)
		if err != nil {
			return nil, err
		}
		known, err := s.Prepared()
		return slices.DeleteFunc(held, func(id int64) bool { return known[id] && !with[id] }), err
	}
	return s.Answering(held)
}

// factsOf are what the gate knows of a letter, but for whether it answers.
func (s *step) factsOf(st stored) (delivery.Facts, error) {
	f := delivery.Facts{From: st.l.From.Key(), Subject: st.l.Subject, Text: letter.Unquoted(st.l.Text), SignsIn: st.row.Traits.Has(sorting.SignsIn)}
	for _, a := range st.l.Recipients() {
		f.To = append(f.To, a.Key())
	}
	conversations, err := s.ConversationsByID(st.facts.IDs)
	if err != nil {
		return f, err
	}
	f.Labels, f.Projects, err = s.ConversationFacts(conversations)
	return f, err
}

// LetThroughNow lets in the letters that wait and that an entry matches.
func (a *App) LetThroughNow(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "let-in"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.Final = true
		list, err := show.Throughs(s.Tx, s.At)
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(list, func(t delivery.Through) bool { return t.ID == id })
		if i < 0 {
			return Decided{}, work.Gone("That entry is no longer on the list.")
		}
		held, err := s.heldMatching(list[i])
		if err != nil {
			return Decided{}, err
		}
		addresses, err := s.addresses()
		if err != nil {
			return Decided{}, err
		}
		for _, id := range held {
			st, err := s.reopen(id, ownKeys(addresses))
			if err != nil {
				return Decided{}, err
			}
			st.through = list[i].String()
			if err := s.letIn(st, time.Time{}); err != nil {
				return Decided{}, err
			}
		}
		s.Stale(atTheGate...)
		s.Title = say.Count(len(held), "letter") + " let through: " + list[i].String()
		return Decided{Entry: s.ID, Title: s.Title}, nil
	})
}
