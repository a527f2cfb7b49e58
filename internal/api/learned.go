package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeLearned registers what was learned from decisions, and how it is put right.
func (s *server) describeLearned(a huma.API) {
	operation(s, a, http.MethodGet, "/api/conversations/{id}/learned", "learned", "What was learned of who wrote in a conversation", func(ctx context.Context, who store.Who, in *IDInput) (show.LearnedView, error) {
		return s.App.LearnedOf(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/conversations/{id}/forget", "forget", "Forget what was learned of who wrote in a conversation", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
		}
	}) (app.Decided, error) {
		return s.App.Forget(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/matters", "matters", "Say that letters matter, or don’t, whatever was learned", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			On      []store.Seen `json:"on" minItems:"1" maxItems:"1000"`
			Matters bool         `json:"matters"`
		}
	}) (app.Decided, error) {
		return s.App.Matters(ctx, who, app.Mattering(in.Body))
	})
}
