package app

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// StageFields are what can be changed on a stage; nil leaves a field.
type StageFields struct {
	Name     *string
	Colour   *string
	Shape    *string
	Position *int
	Most     *int
	Remove   bool
}

// maxStages bounds how many stages a person has.
const maxStages = 30

func (s *step) stage(id int64) (store.Stage, error) {
	list, err := s.Stages()
	if err != nil {
		return store.Stage{}, err
	}
	if i := slices.IndexFunc(list, func(o store.Stage) bool { return o.ID == id }); i >= 0 {
		return list[i], nil
	}
	return store.Stage{}, work.Gone("That stage is no longer there.")
}

func (s *step) checkStage(stage store.Stage) error {
	list, err := s.Stages()
	switch {
	case err != nil:
		return err
	case stage.Name == "" || len(stage.Name) > followup.MaxName:
		return work.Invalid("name", "A stage needs a name, not too long a one.")
	case slices.ContainsFunc(list, func(o store.Stage) bool { return o.ID != stage.ID && strings.EqualFold(o.Name, stage.Name) }):
		return work.Invalid("name", "There is a stage “%s” already.", stage.Name)
	case !slices.Contains(store.Colours, stage.Colour) || !slices.Contains(store.Shapes, stage.Shape):
		return work.Invalid("colour", "A stage has one of six colours and one of six shapes.")
	case stage.Most < 0 || stage.Most > 1000:
		return work.Invalid("most", "A stage can be limited to 1 to 1000 follow-ups; 0 is no limit.")
	case stage.ID == 0 && len(list) >= maxStages:
		return work.Invalid("name", "That is more than %d stages.", maxStages)
	}
	return nil
}

// NewStage makes a stage, the last one.
func (a *App) NewStage(ctx context.Context, who store.Who, command string, f StageFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "stage"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.Stages()
		if err != nil {
			return Decided{}, err
		}
		n := len(list)
		stage := store.Stage{Colour: store.Colours[n%len(store.Colours)], Shape: store.Shapes[n%len(store.Shapes)], Position: n}
		if n > 0 {
			stage.Position = list[n-1].Position + 1
		}
		f.into(&stage)
		if err := s.checkStage(stage); err != nil {
			return Decided{}, err
		}
		id, err := s.AddStage(stage)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "New stage “" + stage.Name + "”"
		var changes change.List
		kinds.Stage.Alive.Set(&changes, id, false, true)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func (f StageFields) into(s *store.Stage) {
	set(&s.Name, f.Name)
	set(&s.Colour, f.Colour)
	set(&s.Shape, f.Shape)
	set(&s.Most, f.Most)
	s.Name = strings.Join(strings.Fields(s.Name), " ")
}

// EditStage changes a stage, moves it among the others, or takes it away; what
// stood in it then stands in none.
func (a *App) EditStage(ctx context.Context, who store.Who, command string, id int64, f StageFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "stage"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		was, err := s.stage(id)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		if f.Remove {
			ids, err := s.FollowUpsInStage(id)
			if err != nil {
				return Decided{}, err
			}
			for _, one := range ids {
				kinds.FollowUp.Stage.Set(&changes, one, id, 0)
			}
			kinds.Stage.Alive.Set(&changes, was.ID, true, false)
			s.Title = "Took the stage “" + was.Name + "” away" + counted(len(ids), "; %d follow-ups stand in none")
			return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
		}
		now := was
		f.into(&now)
		if err := s.checkStage(now); err != nil {
			return Decided{}, err
		}
		kinds.Stage.Name.Set(&changes, was.ID, was.Name, now.Name)
		kinds.Stage.Colour.Set(&changes, was.ID, was.Colour, now.Colour)
		kinds.Stage.Shape.Set(&changes, was.ID, was.Shape, now.Shape)
		kinds.Stage.Most.Set(&changes, was.ID, was.Most, now.Most)
		if f.Position != nil {
			if err := s.moveStage(&changes, was, *f.Position); err != nil {
				return Decided{}, err
			}
		}
		s.Title = "Changed the stage “" + now.Name + "”"
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// moveStage puts a stage at a place among the others.
func (s *step) moveStage(changes *change.List, stage store.Stage, to int) error {
	list, err := s.Stages()
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(o store.Stage) bool { return o.ID == stage.ID })
	list = slices.Insert(list, min(max(to, 0), len(list)), stage)
	for i, o := range list {
		kinds.Stage.Position.Set(changes, o.ID, o.Position, i)
	}
	return nil
}

// KeepFilter keeps a filter of the board under a name; one of that name is
// replaced.
func (a *App) KeepFilter(ctx context.Context, who store.Who, command, name string, by followup.Layout, f followup.Filter) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "filter"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		name := strings.Join(strings.Fields(name), " ")
		if name == "" || len(name) > followup.MaxName {
			return Decided{}, work.Invalid("name", "A filter is kept under a name, not too long a one.")
		}
		value := show.KeptFilter{By: by, Filter: f}
		text, err := json.Marshal(value)
		if err != nil {
			return Decided{}, err
		}
		list, err := s.KeptFilters()
		if err != nil {
			return Decided{}, err
		}
		s.Title = "Kept the filter “" + name + "”"
		var changes change.List
		if i := slices.IndexFunc(list, func(k store.KeptFilter) bool { return strings.EqualFold(k.Name, name) }); i >= 0 {
			kinds.Filter.Value.Set(&changes, list[i].ID, json.RawMessage(list[i].Value), json.RawMessage(text))
			return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
		}
		id, err := s.AddKeptFilter(name, string(text))
		if err != nil {
			return Decided{}, err
		}
		kinds.Filter.Alive.Set(&changes, id, false, true)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// DropFilter forgets a filter.
func (a *App) DropFilter(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "filter", Title: "Forgot a filter"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.KeptFilters()
		if err != nil {
			return Decided{}, err
		}
		if !slices.ContainsFunc(list, func(k store.KeptFilter) bool { return k.ID == id }) {
			return Decided{}, work.Gone("That filter is no longer there.")
		}
		var changes change.List
		kinds.Filter.Alive.Set(&changes, id, true, false)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
