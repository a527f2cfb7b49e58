package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeRoutines registers routines: several steps on one key.
func (s *server) describeRoutines(a huma.API) {
	operation(s, a, http.MethodGet, "/api/routines", "routines", "The routines, with what they would do", func(ctx context.Context, who store.Who, _ *none) ([]show.RoutineView, error) {
		return s.App.Routines(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/routines/examples", "routine-examples", "Routines that ship, to begin with", func(context.Context, store.Who, *none) ([]show.RoutineExample, error) {
		return show.RoutineExamples, nil
	})
	operation(s, a, http.MethodGet, "/api/routines/just-did", "just-did", "What was done last on one letter, as the steps of a routine", func(ctx context.Context, who store.Who, _ *none) (show.JustDid, error) {
		return s.App.JustDid(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/routines/try", "try-routine", "What steps would do with a letter", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Steps []routine.Step `json:"steps" maxItems:"100"`
			For   int64          `json:"for,omitempty" doc:"The conversation in focus"`
		}
	}) (show.Doing, error) {
		return s.App.TryRoutine(ctx, who, in.Body.Steps, in.Body.For)
	})
	operation(s, a, http.MethodPost, "/api/routines", "new-routine", "Make a routine", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.RoutineFields
		}
	}) (app.Made, error) {
		return s.App.NewRoutine(ctx, who, in.Body.Command, in.Body.RoutineFields)
	})
	operation(s, a, http.MethodPatch, "/api/routines/{id}", "edit-routine", "Change a routine, or take it away", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.RoutineFields
		}
	}) (app.Decided, error) {
		return s.App.EditRoutine(ctx, who, in.Body.Command, in.ID, in.Body.RoutineFields)
	})
	operation(s, a, http.MethodPost, "/api/routines/{id}/run", "run-routine", "Carry out a routine on letters", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string       `json:"command" minLength:"8" maxLength:"80"`
			On      []store.Seen `json:"on" minItems:"1" maxItems:"100000"`
			Sure    bool         `json:"sure,omitempty" doc:"All the same, where it would be asked about"`
		}
	}) (app.Decided, error) {
		return s.App.RunRoutine(ctx, who, in.Body.Command, in.ID, in.Body.On, in.Body.Sure)
	})
}
