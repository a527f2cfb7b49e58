package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeBacklog registers the way through thousands of undecided letters.
func (s *server) describeBacklog(a huma.API) {
	operation(s, a, http.MethodGet, "/api/backlog", "backlog", "What waits for a decision, laid into heaps", func(ctx context.Context, who store.Who, _ *none) (show.BacklogView, error) {
		return s.App.Backlog(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/backlog/heap", "backlog-heap", "The letters of a heap", func(ctx context.Context, who store.Who, in *struct {
		Key string `query:"key" maxLength:"1000" doc:"The heap; the first one without it"`
	}) (show.HeapMembers, error) {
		return s.App.BacklogMembers(ctx, who, in.Key)
	})
	operation(s, a, http.MethodPost, "/api/backlog", "plan-backlog", "Go through what waits now, so many each working day", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Share   int    `json:"share" minimum:"0" maximum:"100000" doc:"How many each day; 0 to end it"`
		}
	}) (app.Decided, error) {
		return s.App.PlanBacklog(ctx, who, in.Body.Command, in.Body.Share)
	})
}
