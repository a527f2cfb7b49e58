package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeSearches registers what is done with searches that are kept.
func (s *server) describeSearches(a huma.API) {
	operation(s, a, http.MethodGet, "/api/searches", "searches", "The searches that were kept", func(ctx context.Context, who store.Who, in *struct {
		Counted bool `query:"counted" doc:"Count what they find"`
	}) ([]show.KeptSearch, error) {
		return s.App.KeptSearches(ctx, who, in.Counted)
	})
	operation(s, a, http.MethodPost, "/api/searches", "keep-search", "Keep a search under a name", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Name   string `json:"name" maxLength:"120"`
			Q      string `json:"q" maxLength:"4000"`
			Within string `json:"within,omitempty" maxLength:"500"`
		}
	}) (app.Decided, error) {
		return s.App.KeepSearch(ctx, who, in.Body.Command, store.KeptSearch{Name: in.Body.Name, Query: in.Body.Q, Within: in.Body.Within})
	})
	operation(s, a, http.MethodPatch, "/api/searches/{id}", "rename-search", "Give a kept search another name", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			Name string `json:"name" maxLength:"120"`
		}
	}) (app.Decided, error) {
		return s.App.RenameSearch(ctx, who, in.Body.Command, in.ID, in.Body.Name)
	})
	operation(s, a, http.MethodPost, "/api/searches/{id}/drop", "drop-search", "Forget a kept search", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.DropSearch(ctx, who, in.Body.Command, in.ID)
	})
}
