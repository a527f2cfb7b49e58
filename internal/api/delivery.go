package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// PlanBody is a plan as it is edited: as values, or as text.
type PlanBody struct {
	Account int64          `json:"account,omitempty" doc:"0 for the common plan"`
	Plan    *delivery.Plan `json:"plan,omitempty"`
	Text    *string        `json:"text,omitempty" maxLength:"100000" doc:"The plan as text, instead"`
}

func (b PlanBody) draft() *show.PlanDraft {
	if b.Plan == nil && b.Text == nil {
		return nil
	}
	return &show.PlanDraft{Plan: b.Plan, Text: b.Text}
}

// describeDelivery registers what decides when letters come.
func (s *server) describeDelivery(a huma.API) {
	operation(s, a, http.MethodGet, "/api/delivery", "delivery", "Plan, state, and what is let through", func(ctx context.Context, who store.Who, in *struct {
		Account int64 `query:"account" doc:"0 for the common plan"`
	}) (show.DeliveryView, error) {
		return s.App.Delivery(ctx, who, in.Account)
	})
	operation(s, a, http.MethodPost, "/api/hold", "hold", "Hold delivery", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Until      string `json:"until,omitempty" maxLength:"200" doc:"A phrase; empty holds until let in"`
			Account    int64  `json:"account,omitempty" doc:"0 for all"`
			Everything bool   `json:"everything,omitempty" doc:"Let nothing through either"`
		}
	}) (app.Decided, error) {
		b := in.Body
		return s.App.Hold(ctx, who, b.Command, app.Holding{Until: b.Until, Account: b.Account, Everything: b.Everything})
	})
	operation(s, a, http.MethodPost, "/api/let-in", "let-in", "Let in what is held", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Account int64 `json:"account,omitempty" doc:"0 for all"`
			Open    bool  `json:"open,omitempty" doc:"Open delivery as well"`
		}
	}) (app.Decided, error) {
		return s.App.LetIn(ctx, who, in.Body.Command, in.Body.Account, in.Body.Open)
	})
	operation(s, a, http.MethodPost, "/api/plan/preview", "preview-plan", "What a plan would do", func(ctx context.Context, who store.Who, in *struct{ Body PlanBody }) (show.PlanPreview, error) {
		draft := in.Body.draft()
		if draft == nil {
			draft = &show.PlanDraft{}
		}
		return s.App.PreviewPlan(ctx, who, in.Body.Account, *draft)
	})
	operation(s, a, http.MethodPost, "/api/plan", "put-plan", "Put a plan in force, or remove it", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			PlanBody
		}
	}) (app.Decided, error) {
		return s.App.PutPlan(ctx, who, in.Body.Command, in.Body.Account, in.Body.draft())
	})
	operation(s, a, http.MethodGet, "/api/plan/examples", "plan-examples", "Plans that fit when the mail arrives", func(ctx context.Context, who store.Who, _ *none) ([]show.ExamplePlan, error) {
		return s.App.ExamplePlans(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/through/preview", "preview-through", "What an entry of the let-through list would have let through", func(ctx context.Context, who store.Who, in *struct{ Body app.ThroughFields }) (app.ThroughPreview, error) {
		return s.App.PreviewThrough(ctx, who, in.Body)
	})
	operation(s, a, http.MethodPost, "/api/through", "add-through", "Let letters through", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			app.ThroughFields
		}
	}) (app.Decided, error) {
		return s.App.AddThrough(ctx, who, in.Body.Command, in.Body.ThroughFields)
	})
	operation(s, a, http.MethodPost, "/api/through/{id}/let-in", "let-through-now", "Let in what waits and an entry matches", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.LetThroughNow(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/through/{id}/end", "end-through", "Take an entry off the let-through list", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.EndThrough(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/holding-note", "set-holding-note", "Change what people are told whose letters wait", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			delivery.Note
		}
	}) (app.Decided, error) {
		return s.App.SetHoldingNote(ctx, who, in.Body.Command, in.Body.Note)
	})
	operation(s, a, http.MethodPost, "/api/holding-note/preview", "preview-holding-note", "The note as its receiver reads it", func(ctx context.Context, who store.Who, in *struct{ Body delivery.Note }) (NotePreview, error) {
		text, err := s.App.NotePreview(ctx, who, in.Body)
		return NotePreview{text}, err
	})
	operation(s, a, http.MethodPost, "/api/notifications", "set-notifications", "Change what may interrupt", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			show.Notifications
		}
	}) (app.Decided, error) {
		return s.App.SetNotifications(ctx, who, in.Body.Command, in.Body.Notifications)
	})
}

// NotePreview is a holding note as its receiver reads it.
type NotePreview struct {
	Text string `json:"text"`
}
