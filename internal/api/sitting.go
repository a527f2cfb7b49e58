package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeSittings registers sittings.
func (s *server) describeSittings(a huma.API) {
	operation(s, a, http.MethodGet, "/api/sitting", "sitting", "How the sitting stands that was begun last", func(ctx context.Context, who store.Who, _ *none) (show.SittingView, error) {
		return s.App.Sitting(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/sittings", "begin-sitting", "Begin a sitting: letters one after the other, of a heap, for a time", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			Heap    sitting.Heap `json:"heap"`
			Minutes int          `json:"minutes" minimum:"0" maximum:"480" doc:"0 for until zero"`
		}
	}) (app.Made, error) {
		return s.App.BeginSitting(ctx, who, app.SittingDown(in.Body))
	})
	operation(s, a, http.MethodPatch, "/api/sittings/{id}", "edit-sitting", "Pass a letter over, go on for longer, or end a sitting", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.SittingFields
		}
	}) (app.Decided, error) {
		return s.App.EditSitting(ctx, who, in.Body.Command, in.ID, in.Body.SittingFields)
	})
}
