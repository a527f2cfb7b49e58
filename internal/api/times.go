package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// SettingsBody are the settings that can be changed.
type SettingsBody struct {
	Zone       *string       `json:"zone,omitempty" maxLength:"60"`
	DayTurn    *string       `json:"dayTurn,omitempty" maxLength:"5"`
	DayStart   *string       `json:"dayStart,omitempty" maxLength:"5"`
	DayEnd     *string       `json:"dayEnd,omitempty" maxLength:"5"`
	Evening    *string       `json:"evening,omitempty" maxLength:"5"`
	WeekStart  *int          `json:"weekStart,omitempty"`
	Share      *int          `json:"share,omitempty"`
	SendDelay  *int          `json:"sendDelay,omitempty"`
	LookDay    *int          `json:"lookDay,omitempty"`
	LookCount  *int          `json:"lookCount,omitempty"`
	Workdays   *[]int        `json:"workdays,omitempty" maxItems:"7"`
	MonthFirst *bool         `json:"monthFirst,omitempty"`
	Times      *[]when.Named `json:"times,omitempty" maxItems:"100"`
}

// describeTimes registers what goes with times: what is to come, places,
// settings.
func (s *server) describeTimes(a huma.API) {
	operation(s, a, http.MethodPost, "/api/ahead", "edit-ahead", "Move, cancel or fetch back what is to come", func(ctx context.Context, who store.Who, in *struct {
		Body app.EditingAhead
	}) (app.Decided, error) {
		return s.App.EditAhead(ctx, who, in.Body)
	})
	operation(s, a, http.MethodPost, "/api/tell", "tell", "The note that tells senders when to expect an answer, to be looked over", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			On   []int64 `json:"on" minItems:"1" maxItems:"1000"`
			When string  `json:"when" maxLength:"200"`
		}
	}) (app.TellView, error) {
		return s.App.Tell(ctx, who, in.Body.On, in.Body.When)
	})
	operation(s, a, http.MethodGet, "/api/reminders", "rang", "The reminders that rang, the latest first", func(ctx context.Context, who store.Who, _ *none) ([]show.RangView, error) {
		return s.App.Rang(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/catch-up", "catch-up", "What has come since the person last decided", func(ctx context.Context, who store.Who, _ *none) (show.CatchUp, error) {
		return s.App.CatchUp(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/spots", "spots", "The places that the person has named", func(ctx context.Context, who store.Who, _ *none) (show.SpotsView, error) {
		return s.App.Spots(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/spots", "new-spot", "Name a place", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Name    string `json:"name" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.NewSpot(ctx, who, in.Body.Command, in.Body.Name)
	})
	operation(s, a, http.MethodPatch, "/api/spots/{id}", "edit-spot", "Rename a place, or take it off the list", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string  `json:"command" minLength:"8" maxLength:"80"`
			Name    *string `json:"name,omitempty" maxLength:"200"`
			Remove  bool    `json:"remove,omitempty"`
		}
	}) (app.Decided, error) {
		return s.App.EditSpot(ctx, who, in.Body.Command, in.ID, in.Body.Name, in.Body.Remove)
	})
	operation(s, a, http.MethodPost, "/api/whereabouts", "be-at", "Say where the person is", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Spot    int64  `json:"spot" doc:"0 for no place in particular"`
		}
	}) (app.Decided, error) {
		return s.App.BeAt(ctx, who, in.Body.Command, in.Body.Spot)
	})
	operation(s, a, http.MethodGet, "/api/settings", "settings", "How the person's days run", func(ctx context.Context, who store.Who, _ *none) (show.SettingsView, error) {
		return s.App.Settings(ctx, who)
	})
	operation(s, a, http.MethodPatch, "/api/settings", "edit-settings", "Change how the person's days run", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			SettingsBody
		}
	}) (app.Decided, error) {
		b := in.Body
		return s.App.EditSettings(ctx, who, b.Command, app.SettingsFields{
			Zone: b.Zone, DayTurn: b.DayTurn, DayStart: b.DayStart, DayEnd: b.DayEnd, Evening: b.Evening, WeekStart: b.WeekStart, Share: b.Share, SendDelay: b.SendDelay, LookDay: b.LookDay, LookCount: b.LookCount,
			Workdays: b.Workdays, MonthFirst: b.MonthFirst, Times: b.Times,
		})
	})
}
