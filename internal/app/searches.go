package app

import (
	"context"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// KeepSearch keeps a search under a name; one of that name is replaced.
func (a *App) KeepSearch(ctx context.Context, who store.Who, command string, k store.KeptSearch) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "search"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		p, err := s.Person()
		if err != nil {
			return Decided{}, err
		}
		if k.Query = strings.TrimSpace(k.Query); find.Read(k.Query, s.At, p.Calendar()).Query.Empty() {
			return Decided{}, work.Invalid("query", "There is nothing to look for in that.")
		}
		list, err := s.KeptSearches()
		if err != nil {
			return Decided{}, err
		}
		if k.Name, err = searchName(k.Name); err != nil {
			return Decided{}, err
		}
		s.Title = "Kept the search “" + k.Name + "”"
		var changes change.List
		if i := slices.IndexFunc(list, func(o store.KeptSearch) bool { return strings.EqualFold(o.Name, k.Name) }); i >= 0 {
			kinds.Search.Query.Set(&changes, list[i].ID, list[i].Query, k.Query)
			kinds.Search.Within.Set(&changes, list[i].ID, list[i].Within, k.Within)
			return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
		}
		id, err := s.AddKeptSearch(k)
		if err != nil {
			return Decided{}, err
		}
		kinds.Search.Alive.Set(&changes, id, false, true)
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

// RenameSearch gives a kept search another name.
func (a *App) RenameSearch(ctx context.Context, who store.Who, command string, id int64, name string) (Decided, error) {
	return a.editSearch(ctx, who, command, id, func(s *step, k store.KeptSearch, others []store.KeptSearch, changes *change.List) error {
		name, err := searchName(name)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(others, func(o store.KeptSearch) bool { return o.ID != id && strings.EqualFold(o.Name, name) }) {
			return work.Invalid("name", "Another search is kept as “%s”.", name)
		}
		s.Title = "The search “" + k.Name + "” is called “" + name + "”"
		kinds.Search.Name.Set(changes, id, k.Name, name)
		return nil
	})
}

// DropSearch forgets a kept search.
func (a *App) DropSearch(ctx context.Context, who store.Who, command string, id int64) (Decided, error) {
	return a.editSearch(ctx, who, command, id, func(s *step, k store.KeptSearch, _ []store.KeptSearch, changes *change.List) error {
		s.Title = "Forgot the search “" + k.Name + "”"
		kinds.Search.Alive.Set(changes, id, true, false)
		return nil
	})
}

func (a *App) editSearch(ctx context.Context, who store.Who, command string, id int64, edit func(*step, store.KeptSearch, []store.KeptSearch, *change.List) error) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "search"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		list, err := s.KeptSearches()
		if err != nil {
			return Decided{}, err
		}
		i := slices.IndexFunc(list, func(k store.KeptSearch) bool { return k.ID == id })
		if i < 0 {
			return Decided{}, work.Gone("That search is no longer there.")
		}
		var changes change.List
		if err := edit(s, list[i], list, &changes); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}

func searchName(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	if name == "" || len(name) > followup.MaxName {
		return "", work.Invalid("name", "A search is kept under a name, not too long a one.")
	}
	return name, nil
}
