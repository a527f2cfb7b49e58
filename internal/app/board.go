package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RenameIn renames a project, context or owner wherever it stands; an empty
// name takes it away.
func (a *App) RenameIn(ctx context.Context, who store.Who, command, field, was, now string) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "followup:edit"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		if !slices.Contains([]string{"project", "context", "assignee"}, field) || was == "" {
			return Decided{}, work.Invalid("field", "That can't be renamed.")
		}
		now := strings.Join(strings.Fields(now), " ")
		if len(now) > followup.MaxName {
			return Decided{}, work.Invalid("name", "The name is too long.")
		}
		ids, err := s.FollowUpsWith(field, was)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		for _, id := range ids {
			changes.Set(kinds.FollowUp.Of(id), field, was, now)
		}
		s.Title = fmt.Sprintf("“%s” is called “%s” on %d follow-ups", was, now, len(ids))
		if now == "" {
			s.Title = fmt.Sprintf("Took “%s” off %d follow-ups", was, len(ids))
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.Change(changes)
	})
}
