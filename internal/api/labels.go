package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeLabels registers what is done with labels as such.
func (s *server) describeLabels(a huma.API) {
	operation(s, a, http.MethodGet, "/api/labels/all", "label-views", "The labels, how they look and how much stands under them", func(ctx context.Context, who store.Who, _ *none) ([]show.LabelView, error) {
		return s.App.LabelViews(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/labels/rename", "rename-label", "Give a label another name, or make it one with another", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			From string `json:"from" maxLength:"200"`
			To   string `json:"to" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.RenameLabel(ctx, who, in.Body.Command, in.Body.From, in.Body.To)
	})
	operation(s, a, http.MethodPost, "/api/labels/look", "look-of-label", "Give a label a colour with a shape", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Name   string `json:"name" maxLength:"200"`
			Colour string `json:"colour" maxLength:"20"`
			Shape  string `json:"shape" maxLength:"20"`
		}
	}) (app.Decided, error) {
		return s.App.LookOfLabel(ctx, who, in.Body.Command, in.Body.Name, in.Body.Colour, in.Body.Shape)
	})
	operation(s, a, http.MethodPost, "/api/labels/drop", "drop-label", "Take a label off all letters", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Name string `json:"name" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.DropLabel(ctx, who, in.Body.Command, in.Body.Name)
	})
}
