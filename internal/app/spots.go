package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// NewSpot names a place in the world, for letters to wait until the person is
// there.
func (a *App) NewSpot(ctx context.Context, who store.Who, command, name string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "spot"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		name, err := s.spotName(name, 0)
		if err != nil {
			return Decided{}, err
		}
		id, err := s.AddSpot(name)
		if err != nil {
			return Decided{}, err
		}
		s.Title = "New place “" + name + "”"
		var changes change.List
		kinds.Spot.Alive.Set(&changes, id, false, true)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// spotName checks a name for a spot; id is the one that is to have it.
func (s *step) spotName(typed string, id int64) (string, error) {
	name := strings.Join(strings.Fields(typed), " ")
	spots, err := s.Spots()
	switch {
	case err != nil:
		return "", err
	case name == "":
		return "", work.Invalid("name", "A place needs a name.")
	case len([]rune(name)) > show.MaxSpot:
		return "", work.Invalid("name", "The name is longer than %d characters.", show.MaxSpot)
	case slices.ContainsFunc(spots, func(o store.Spot) bool { return o.ID != id && strings.EqualFold(o.Name, name) }):
		return "", work.Invalid("name", "There is a place “%s” already.", name)
	}
	return name, nil
}

// EditSpot renames a place, or takes it off the list; what waits for it comes
// back then.
func (a *App) EditSpot(ctx context.Context, who store.Who, command string, id int64, name *string, remove bool) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "spot"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		spot, err := s.spot(id)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		if name != nil {
			now, err := s.spotName(*name, id)
			if err != nil {
				return Decided{}, err
			}
			kinds.Spot.Name.Set(&changes, spot.ID, spot.Name, now)
			s.Title = "Place “" + spot.Name + "” is called “" + now + "”"
		}
		if remove {
			p, err := s.Person()
			if err != nil {
				return Decided{}, err
			}
			kinds.Spot.Alive.Set(&changes, spot.ID, true, false)
			if p.SpotID == id {
				kinds.Person.Spot.Set(&changes, p.ID, p.SpotID, 0)
			}
			n, err := s.backAt(spot, true)
			if err != nil {
				return Decided{}, err
			}
			s.Title = "Took the place “" + spot.Name + "” off the list" + counted(n, "; %d came back")
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func counted(n int, text string) string {
	if n == 0 {
		return ""
	}
	return fmt.Sprintf(text, n)
}

// BeAt says where the person is, 0 for nowhere in particular. What waits for
// that place comes back.
func (a *App) BeAt(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "spot", Title: "You are at no place in particular"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		if id != 0 {
			spot, err := s.spot(id)
			if err != nil {
				return Decided{}, err
			}
			n, err := s.backAt(spot, false)
			if err != nil {
				return Decided{}, err
			}
			s.Title = "You are at “" + spot.Name + "”" + counted(n, "; %d came back")
		}
		kinds.Person.Spot.Set(&changes, p.ID, p.SpotID, id)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func (s *step) spot(id int64) (store.Spot, error) {
	spots, err := s.Spots()
	if err != nil {
		return store.Spot{}, err
	}
	if i := slices.IndexFunc(spots, func(o store.Spot) bool { return o.ID == id }); i >= 0 {
		return spots[i], nil
	}
	return store.Spot{}, work.Gone("That place is no longer on your list.")
}

// backAt brings back what waits for a spot.
func (s *step) backAt(spot store.Spot, gone bool) (int, error) {
	ids, err := s.WaitingFor(spot.ID)
	if err != nil || len(ids) == 0 {
		return 0, err
	}
	rows, err := s.Conversations(ids)
	if err != nil {
		return 0, err
	}
	var changes change.List
	for _, r := range rows {
		changes = append(changes, decide.AtSpot(r.State(), s.At, spot.Name, gone)...)
	}
	return len(rows), s.Change(changes)
}
