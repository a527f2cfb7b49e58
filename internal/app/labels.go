package app

import (
	"context"
	"maps"
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/label"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RenameLabel gives a label another name, and what is nested in it with it. One that has the name of another
// is one with it from then on. Whatever names it follows: routines and rules, what lets letters through, kept searches.
func (a *App) RenameLabel(ctx context.Context, who store.Who, command, from, to string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "label"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		if to = label.Clean(to); to == "" {
			return Decided{}, work.Invalid("to", "The label needs a name.")
		}
		all, err := s.allLabels()
		if err != nil {
			return Decided{}, err
		}
		if !slices.ContainsFunc(all, func(l string) bool { return label.Under(l, from) }) {
			return Decided{}, work.Gone("No letter is under “%s” any more.", say.Shorten(from, 40))
		}
		moves, err := label.Rename(all, from, to)
		if err != nil {
			return Decided{}, work.Invalid("to", "%s", say.Sentence(err))
		}
		s.Title = "The label “" + from + "” is called “" + to + "”"
		if slices.Contains(all, to) && from != to {
			s.Title = "The label “" + from + "” is one with “" + to + "”"
		}
		var changes change.List
		for _, move := range []func([]label.Move, *change.List) error{s.relabel, s.relook, s.relabelSteps, s.relabelThroughs, s.relabelSearches} {
			if err := move(moves, &changes); err != nil {
				return Decided{}, err
			}
		}
		s.Stale(work.ReadLabels)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// allLabels are those of letters, and those that only look like something.
func (s *step) allLabels() ([]string, error) {
	all, err := s.Labels()
	if err != nil {
		return nil, err
	}
	looks, err := s.LabelLooks()
	for _, l := range looks {
		if !slices.Contains(all, l.Name) {
			all = append(all, l.Name)
		}
	}
	return all, err
}

// relabel puts conversations under the new names.
func (s *step) relabel(moves []label.Move, changes *change.List) error {
	old := make([]string, len(moves))
	for i, m := range moves {
		old[i] = m.From
	}
	under, err := s.Labelled(old)
	for _, id := range slices.Sorted(maps.Keys(under)) {
		was := under[id]
		now := make([]string, len(was))
		for i, l := range was {
			now[i] = label.Renamed(moves, l)
		}
		for _, l := range was {
			decide.Conversation.Labels.Field(l).Set(changes, id, true, slices.Contains(now, l))
		}
		for i, l := range now {
			if !slices.Contains(now[:i], l) {
				decide.Conversation.Labels.Field(l).Set(changes, id, slices.Contains(was, l), true)
			}
		}
	}
	return err
}

// relook takes the looks along; one that has a look already keeps it.
func (s *step) relook(moves []label.Move, changes *change.List) error {
	looks, err := s.LabelLooks()
	for _, l := range looks {
		to := label.Renamed(moves, l.Name)
		taken := slices.ContainsFunc(looks, func(o store.LabelLook) bool {
			return o.ID != l.ID && o.Name == to && label.Renamed(moves, o.Name) == to
		})
		switch {
		case to == l.Name:
		case taken:
			kinds.Label.Alive.Set(changes, l.ID, true, false)
		default:
			kinds.Label.Name.Set(changes, l.ID, l.Name, to)
		}
	}
	return err
}

// relabelSteps lets routines and rules go on with the new names.
func (s *step) relabelSteps(moves []label.Move, changes *change.List) error {
	renamed := func(l string) string { return label.Renamed(moves, l) }
	routines, err := s.Routines()
	if err != nil {
		return err
	}
	for _, r := range routines {
		if steps, ok := routine.Relabelled(r.Steps, renamed); ok {
			kinds.Routine.Steps.Set(changes, r.ID, r.Steps, steps)
		}
	}
	rules, err := s.Rules()
	for _, r := range rules {
		if steps, ok := routine.Relabelled(r.Steps, renamed); ok {
			kinds.Rule.Steps.Set(changes, r.ID, r.Steps, steps)
		}
		if of, ok := r.Conditions.Relabelled(meant(moves)); ok {
			kinds.Rule.Conditions.Set(changes, r.ID, r.Conditions, of)
		}
	}
	return err
}

func meant(moves []label.Move) func(string) string {
	return func(name string) string { return label.Meant(moves, name) }
}

// relabelThroughs lets letters of the label through as before, by an entry of its new name.
func (s *step) relabelThroughs(moves []label.Move, changes *change.List) error {
	list, err := s.Throughs(s.At)
	if err != nil {
		return err
	}
	for _, t := range list {
		to := label.Meant(moves, t.Value)
		if t.Kind != delivery.ByLabel || to == t.Value {
			continue
		}
		kinds.Through.Alive.Set(changes, t.ID, true, false)
		if slices.ContainsFunc(list, func(o store.Through) bool { return o.Kind == t.Kind && o.Value == to }) {
			continue
		}
		now := t
		now.Value = to
		id, err := s.AddThrough(now, s.At)
		if err != nil {
			return err
		}
		kinds.Through.Alive.Set(changes, id, false, true)
	}
	return nil
}

// relabelSearches lets kept searches ask for the new names.
func (s *step) relabelSearches(moves []label.Move, changes *change.List) error {
	v, err := s.app.Viewer(s.Tx)
	if err != nil {
		return err
	}
	list, err := s.KeptSearches()
	for _, k := range list {
		anew := func(typed string) string {
			q := find.Read(typed, v.Now, v.Cal).Query
			if now := q.Relabelled(meant(moves)).String(); now != q.String() {
				return now
			}
			return typed
		}
		kinds.Search.Query.Set(changes, k.ID, k.Query, anew(k.Query))
		kinds.Search.Within.Set(changes, k.ID, k.Within, anew(k.Within))
	}
	return err
}

// LookOfLabel gives a label a colour with a shape; both empty take them away.
func (a *App) LookOfLabel(ctx context.Context, who store.Who, command, name, colour, shape string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "label"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		none := colour == "" && shape == ""
		if !none && (!slices.Contains(store.Colours, colour) || !slices.Contains(store.Shapes, shape)) {
			return Decided{}, work.Invalid("colour", "A label has one of six colours and one of six shapes.")
		}
		if name = label.Clean(name); name == "" || len(name) > label.Max {
			return Decided{}, work.Invalid("name", "The label needs a name, not too long a one.")
		}
		looks, err := s.LabelLooks()
		if err != nil {
			return Decided{}, err
		}
		s.Title = "The label “" + name + "” looks otherwise"
		var changes change.List
		i := slices.IndexFunc(looks, func(l store.LabelLook) bool { return l.Name == name })
		switch {
		case i >= 0 && none:
			kinds.Label.Alive.Set(&changes, looks[i].ID, true, false)
		case i >= 0:
			kinds.Label.Colour.Set(&changes, looks[i].ID, looks[i].Colour, colour)
			kinds.Label.Shape.Set(&changes, looks[i].ID, looks[i].Shape, shape)
		case !none:
			id, err := s.AddLabelLook(store.LabelLook{Name: name, Colour: colour, Shape: shape})
			if err != nil {
				return Decided{}, err
			}
			kinds.Label.Alive.Set(&changes, id, false, true)
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// DropLabel takes a label, and what is nested in it, off all letters.
func (a *App) DropLabel(ctx context.Context, who store.Who, command, name string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "label"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		all, err := s.allLabels()
		if err != nil {
			return Decided{}, err
		}
		gone := slices.DeleteFunc(all, func(l string) bool { return !label.Under(l, name) })
		if len(gone) == 0 {
			return Decided{}, work.Gone("No letter is under “%s” any more.", say.Shorten(name, 40))
		}
		under, err := s.Labelled(gone)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		for _, id := range slices.Sorted(maps.Keys(under)) {
			for _, l := range under[id] {
				if slices.Contains(gone, l) {
					decide.Conversation.Labels.Field(l).Set(&changes, id, true, false)
				}
			}
		}
		looks, err := s.LabelLooks()
		if err != nil {
			return Decided{}, err
		}
		for _, l := range looks {
			if slices.Contains(gone, l.Name) {
				kinds.Label.Alive.Set(&changes, l.ID, true, false)
			}
		}
		s.Title = "Took the label “" + name + "” off " + say.Count(len(under), "letter")
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
