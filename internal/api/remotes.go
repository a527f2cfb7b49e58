package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/store"
)

// ConnectionBody says how an account is connected with its mail server.
type ConnectionBody struct {
	Login    string        `json:"login" maxLength:"300"`
	Password string        `json:"password,omitempty" maxLength:"1000" doc:"Left out for the one that is kept"`
	Incoming remote.Server `json:"incoming"`
	Outgoing remote.Server `json:"outgoing"`
}

func (b ConnectionBody) connecting(account int64) app.Connecting {
	return app.Connecting{Account: account, Login: b.Login, Password: b.Password, Incoming: b.Incoming, Outgoing: b.Outgoing}
}

// describeRemotes registers what is done with the mail servers of accounts.
func (s *server) describeRemotes(a huma.API) {
	operation(s, a, http.MethodGet, "/api/remotes", "remotes", "The mail servers of the accounts", func(ctx context.Context, who store.Who, _ *none) ([]app.RemoteView, error) {
		return s.App.Remotes(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/servers", "find-servers", "Find the mail servers for an address", func(ctx context.Context, _ store.Who, in *struct {
		Body struct {
			Address string `json:"address" maxLength:"300"`
		}
	}) (app.Servers, error) {
		return s.App.FindServers(ctx, in.Body.Address)
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/remote/try", "try-servers", "Try to reach the mail servers of an account", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body ConnectionBody
	}) (app.Tried, error) {
		return s.App.TryServers(ctx, who, in.Body.connecting(in.ID))
	})
	operation(s, a, http.MethodPut, "/api/accounts/{id}/remote", "connect", "Connect an account with its mail server", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			ConnectionBody
		}
	}) (app.Decided, error) {
		return s.App.Connect(ctx, who, in.Body.Command, in.Body.connecting(in.ID))
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/remote/pause", "pause-remote", "Leave a mail server alone, or go on", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			Paused bool `json:"paused"`
		}
	}) (app.Decided, error) {
		return s.App.PauseRemote(ctx, who, in.Body.Command, in.ID, in.Body.Paused)
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/remote/drop", "disconnect", "Part an account from its mail server", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body CommandBody
	}) (app.Decided, error) {
		return s.App.Disconnect(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/remote/look", "look-now", "Look at a mail server at once", func(ctx context.Context, who store.Who, in *IDInput) (none, error) {
		return none{}, s.App.LookNow(ctx, who, in.ID)
	})
}
