package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// FollowUpBody are the fields of a follow-up that can be set.
type FollowUpBody struct {
	Title     *string            `json:"title,omitempty"`
	Notes     *string            `json:"notes,omitempty"`
	Start     *string            `json:"start,omitempty" maxLength:"200" doc:"A phrase; empty clears it"`
	Due       *string            `json:"due,omitempty" maxLength:"200" doc:"A phrase, or a range from start to due; empty clears it"`
	Priority  *followup.Priority `json:"priority,omitempty" enum:"urgent,high,normal,low"`
	Status    *followup.Status   `json:"status,omitempty" enum:"open,under-way,waiting,done,dropped"`
	Stage     *int64             `json:"stage,omitempty"`
	Assignee  *string            `json:"assignee,omitempty"`
	Project   *string            `json:"project,omitempty"`
	Context   *string            `json:"context,omitempty"`
	Estimate  *int               `json:"estimate,omitempty" minimum:"0" maximum:"10000"`
	Recurs    *string            `json:"recurs,omitempty" maxLength:"300" doc:"A phrase or an RRULE; empty ends the series"`
	Checklist *[]followup.Item   `json:"checklist,omitempty" maxItems:"200"`
	Remind    *[]string          `json:"remind,omitempty" maxItems:"20" doc:"All its reminders, as phrases"`
	Lane      *app.LaneRef       `json:"lane,omitempty" doc:"Put it into a lane of a layout"`
}

func (b FollowUpBody) fields() app.FollowUpFields { return app.FollowUpFields(b) }

// CommandBody carries the id that the client has made for a command.
type CommandBody struct {
	Command string `json:"command" minLength:"8" maxLength:"80"`
}

// StageBody are the fields of a stage that can be set.
type StageBody struct {
	Name     *string `json:"name,omitempty" maxLength:"120"`
	Colour   *string `json:"colour,omitempty"`
	Shape    *string `json:"shape,omitempty"`
	Position *int    `json:"position,omitempty"`
	Most     *int    `json:"most,omitempty"`
	Remove   bool    `json:"remove,omitempty"`
}

// describeFollowUps registers what is done with follow-ups.
func (s *server) describeFollowUps(a huma.API) {
	operation(s, a, http.MethodPost, "/api/board", "board", "Follow-ups laid out", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			By      followup.Layout `json:"by" enum:"due,stage,priority,person,project,context,order"`
			Closed  bool            `json:"closed,omitempty"`
			Filter  followup.Filter `json:"filter"`
			Command string          `json:"command,omitempty" maxLength:"80" doc:"Taken as everywhere; nothing is changed"`
		}
	}) (show.Board, error) {
		return s.App.Board(ctx, who, show.Arranged{By: in.Body.By, Closed: in.Body.Closed, Filter: in.Body.Filter})
	})
	operation(s, a, http.MethodPost, "/api/cards", "cards", "Follow-ups by their ids", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			IDs []int64 `json:"ids" maxItems:"200"`
		}
	}) ([]show.FollowUp, error) {
		return s.App.Cards(ctx, who, in.Body.IDs)
	})
	operation(s, a, http.MethodGet, "/api/follow-ups/{id}", "follow-up", "One follow-up in full", func(ctx context.Context, who store.Who, in *IDInput) (show.Followed, error) {
		return s.App.FollowUp(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/follow-ups", "new-follow-up", "A follow-up, of letters that stay where they are or of none", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			On []store.Seen `json:"on,omitempty" maxItems:"1000"`
			FollowUpBody
		}
	}) (app.Decided, error) {
		return s.App.NewFollowUp(ctx, who, in.Body.Command, in.Body.fields(), in.Body.On...)
	})
	operation(s, a, http.MethodPatch, "/api/follow-ups/{id}", "edit-follow-up", "Change a follow-up", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			Version int64 `json:"version,omitempty" doc:"The version that is shown"`
			FollowUpBody
		}
	}) (app.Edited, error) {
		return s.App.EditFollowUp(ctx, who, in.Body.Command, in.ID, in.Body.fields(), in.Body.Version)
	})
	operation(s, a, http.MethodPatch, "/api/follow-ups", "edit-follow-ups", "Change several follow-ups as one step", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			On []int64 `json:"on" minItems:"1" maxItems:"20000"`
			FollowUpBody
		}
	}) (app.Edited, error) {
		return s.App.EditFollowUps(ctx, who, in.Body.Command, in.Body.On, in.Body.fields(), 0)
	})
	operation(s, a, http.MethodPost, "/api/follow-ups/{id}/skip", "skip-follow-up", "Move a recurring follow-up to its next day", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.SkipFollowUp(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/follow-ups/{id}/hand-over", "hand-over", "The letter with which it is handed over, to be looked over", func(ctx context.Context, who store.Who, in *IDInput) (show.Nudge, error) {
		return s.App.HandOver(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/follow-ups/{id}/wait", "wait-follow-up", "Let it wait for an answer until a phrase", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			Until string `json:"until" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.WaitFollowUp(ctx, who, in.Body.Command, in.ID, in.Body.Until)
	})
	operation(s, a, http.MethodPost, "/api/capture/read", "read-capture", "How a line of plain words would be taken", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Line string `json:"line" maxLength:"1000"`
		}
	}) (show.CaptureView, error) {
		return s.App.ReadCapture(ctx, who, in.Body.Line)
	})
	operation(s, a, http.MethodPost, "/api/capture", "capture", "Make a follow-up of a line of plain words", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Line string       `json:"line" maxLength:"1000"`
			On   []store.Seen `json:"on,omitempty" maxItems:"1000"`
		}
	}) (app.Decided, error) {
		return s.App.Capture(ctx, who, in.Body.Command, in.Body.Line, in.Body.On...)
	})
	operation(s, a, http.MethodGet, "/api/fit", "fit", "What to move so that today fits", func(ctx context.Context, who store.Who, _ *none) (show.FitView, error) {
		return s.App.Fit(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/fit", "take-fit", "Move what was proposed", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Moves []app.FitMove `json:"moves" minItems:"1" maxItems:"1000"`
		}
	}) (app.Decided, error) {
		return s.App.TakeFit(ctx, who, in.Body.Command, in.Body.Moves)
	})
	operation(s, a, http.MethodPost, "/api/names", "rename", "Rename a project, context or owner wherever it stands", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Field string `json:"field" enum:"project,context,assignee"`
			Was   string `json:"was" minLength:"1" maxLength:"200"`
			Now   string `json:"now" maxLength:"200" doc:"Empty takes it away"`
		}
	}) (app.Decided, error) {
		return s.App.RenameIn(ctx, who, in.Body.Command, in.Body.Field, in.Body.Was, in.Body.Now)
	})
	operation(s, a, http.MethodPost, "/api/tasks/preview", "preview-tasks", "What would be made of a file of follow-ups", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Data string `json:"data"`
		}
	}) (show.TaskPreview, error) {
		return s.App.PreviewTasks(ctx, who, in.Body.Data)
	})
	operation(s, a, http.MethodPost, "/api/tasks", "import-tasks", "Make follow-ups of a file", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Data string `json:"data"`
		}
	}) (app.Decided, error) {
		return s.App.ImportTasks(ctx, who, in.Body.Command, in.Body.Data)
	})
	operation(s, a, http.MethodGet, "/api/intake", "intake", "The address that makes follow-ups of what is forwarded to it", func(ctx context.Context, who store.Who, _ *none) (show.IntakeView, error) {
		return s.App.Intake(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/intake", "renew-intake", "Make a new intake address", func(ctx context.Context, who store.Who, in *struct{ Body CommandBody }) (app.Decided, error) {
		return s.App.RenewIntake(ctx, who, in.Body.Command)
	})
	operation(s, a, http.MethodGet, "/api/proposals/{id}", "propose-follow-up", "What a conversation proposes for a follow-up; 0 for none", func(ctx context.Context, who store.Who, in *IDInput) (show.ProposedFollowUp, error) {
		return s.App.ProposeFollowUp(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPut, "/api/weights", "set-weights", "What the order of follow-ups weighs", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Weights *followup.Weights `json:"weights,omitempty" doc:"The usual ones if missing"`
		}
	}) (app.Decided, error) {
		return s.App.SetWeights(ctx, who, in.Body.Command, in.Body.Weights)
	})
	s.describeStages(a)
}

func (s *server) describeStages(a huma.API) {
	operation(s, a, http.MethodPost, "/api/stages", "new-stage", "One more stage", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			StageBody
		}
	}) (app.Decided, error) {
		return s.App.NewStage(ctx, who, in.Body.Command, app.StageFields(in.Body.StageBody))
	})
	operation(s, a, http.MethodPatch, "/api/stages/{id}", "edit-stage", "Change a stage, or take it away", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			StageBody
		}
	}) (app.Decided, error) {
		return s.App.EditStage(ctx, who, in.Body.Command, in.ID, app.StageFields(in.Body.StageBody))
	})
	operation(s, a, http.MethodPost, "/api/filters", "keep-filter", "Keep a filter under a name", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Name   string          `json:"name" maxLength:"120"`
			By     followup.Layout `json:"by" enum:"due,stage,priority,person,project,context,order"`
			Filter followup.Filter `json:"filter"`
		}
	}) (app.Decided, error) {
		return s.App.KeepFilter(ctx, who, in.Body.Command, in.Body.Name, in.Body.By, in.Body.Filter)
	})
	operation(s, a, http.MethodPost, "/api/filters/{id}/drop", "drop-filter", "Forget a filter", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.DropFilter(ctx, who, in.Body.Command, in.ID)
	})
}
