package api

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// AppointmentBody are the fields of an appointment that can be set.
type AppointmentBody struct {
	Title     *string   `json:"title,omitempty"`
	When      *string   `json:"when,omitempty" maxLength:"200" doc:"A start, or from start to end, as a phrase"`
	Minutes   *int      `json:"minutes,omitempty" minimum:"1" maximum:"44640"`
	Place     *string   `json:"place,omitempty"`
	Notes     *string   `json:"notes,omitempty"`
	Attendees *[]string `json:"attendees,omitempty" maxItems:"300"`
	Remind    *int      `json:"remind,omitempty" doc:"Minutes before; -1 for never"`
	Free      *bool     `json:"free,omitempty" doc:"It takes no time"`
	Recurs    *string   `json:"recurs,omitempty" maxLength:"200" doc:"How a new one recurs: every tuesday, every 2 weeks until march"`
}

// describeAppointments registers what is done with appointments.
func (s *server) describeAppointments(a huma.API) {
	operation(s, a, http.MethodGet, "/api/appointments/{id}", "appointment", "One appointment", func(ctx context.Context, who store.Who, in *IDInput) (show.AppointmentView, error) {
		return s.App.AppointmentOf(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/appointments", "new-appointment", "Make an appointment, and invite whoever attends", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Conversation int64 `json:"conversation,omitempty"`
			AppointmentBody
		}
	}) (app.Decided, error) {
		return s.App.NewAppointment(ctx, who, in.Body.Command, app.AppointmentFields(in.Body.AppointmentBody), in.Body.Conversation)
	})
	operation(s, a, http.MethodPatch, "/api/appointments/{id}", "edit-appointment", "Change an appointment; those invited are told", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			AppointmentBody
		}
	}) (app.Decided, error) {
		return s.App.EditAppointment(ctx, who, in.Body.Command, in.ID, app.AppointmentFields(in.Body.AppointmentBody))
	})
	operation(s, a, http.MethodPost, "/api/appointments/{id}/cancel", "cancel-appointment", "Call an appointment off; those invited are told", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			All bool `json:"all,omitempty" doc:"All of the series that it is one of"`
		}
	}) (app.Decided, error) {
		return s.App.CancelAppointment(ctx, who, in.Body.Command, in.ID, in.Body.All)
	})
	operation(s, a, http.MethodPost, "/api/appointments/{id}/seen", "quiet-appointment", "Take note of its reminder", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.QuietAppointment(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/letters/{id}/invitation", "answer-invitation", "Accept, decline, or propose another time", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			Reply   meeting.Reply `json:"reply" enum:"accepted,declined,tentative"`
			Comment string        `json:"comment,omitempty" maxLength:"5000"`
			Propose string        `json:"propose,omitempty" maxLength:"200" doc:"Another time, as a phrase"`
		}
	}) (app.Decided, error) {
		b := in.Body
		return s.App.AnswerInvitation(ctx, who, b.Command, app.InvitationAnswer{Letter: in.ID, Reply: b.Reply, Comment: b.Comment, Propose: b.Propose})
	})
	operation(s, a, http.MethodGet, "/api/replies", "replies", "Answers to invitations that stand in the inbox", func(ctx context.Context, who store.Who, _ *none) (show.RepliesView, error) {
		return s.App.Replies(ctx, who)
	})
	operation(s, a, http.MethodGet, "/api/feed", "feed", "The address at which other calendars read the appointments", func(ctx context.Context, who store.Who, _ *none) (show.FeedView, error) {
		return s.App.FeedAddress(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/feed", "renew-feed", "Make a new address for the calendar, or take it away", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			Remove bool `json:"remove,omitempty"`
		}
	}) (app.Decided, error) {
		return s.App.RenewFeed(ctx, who, in.Body.Command, in.Body.Remove)
	})
}

// feed serves the calendar to whoever knows its secret address.
func (s *server) feed(c *gin.Context, _ store.Who) error {
	secret, ok := strings.CutSuffix(c.Param("secret"), ".ics")
	if !ok || len(secret) < 20 {
		return errNoSuchThing
	}
	text, err := s.App.Feed(c.Request.Context(), secret)
	if err != nil {
		return err
	}
	c.Header("Cache-Control", "private, max-age=300")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
	return nil
}
