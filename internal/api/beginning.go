package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeBeginning registers what is for the first minutes.
func (s *server) describeBeginning(a huma.API) {
	operation(s, a, http.MethodGet, "/api/beginning", "beginning", "How far somebody is who has just begun", func(ctx context.Context, who store.Who, _ *none) (show.Beginning, error) {
		return s.App.Beginning(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/made-up", "look-around", "Bring a small made-up world in", func(ctx context.Context, who store.Who, in *struct{ Body CommandBody }) (app.Decided, error) {
		return s.App.LookAround(ctx, who, in.Body.Command)
	})
	operation(s, a, http.MethodPost, "/api/made-up/drop", "throw-away", "Throw the made-up world away", func(ctx context.Context, who store.Who, in *struct{ Body CommandBody }) (app.Decided, error) {
		return s.App.ThrowAway(ctx, who, in.Body.Command)
	})
}
