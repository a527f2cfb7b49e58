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

// SignInAt is where somebody goes to sign in.
type SignInAt struct {
	URL string `json:"url"`
}

// SignInBody says where somebody wants to sign in, for which servers.
type SignInBody struct {
	ConnectionBody
	SignIn string `json:"signIn" maxLength:"200"`
	Origin string `json:"origin" maxLength:"300" doc:"Where the page is, to come back to"`
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
	operation(s, a, http.MethodGet, "/api/sign-ins", "sign-ins", "Where one can sign in instead of giving a password", func(context.Context, store.Who, *none) ([]app.SignIn, error) {
		return s.App.SignIns(), nil
	})
	operation(s, a, http.MethodPost, "/api/accounts/{id}/remote/sign-in", "begin-sign-in", "Begin to sign in for the mail server of an account", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body SignInBody
	}) (SignInAt, error) {
		c := in.Body.connecting(in.ID)
		c.SignIn = in.Body.SignIn
		url, err := s.App.BeginSignIn(ctx, who, c, in.Body.Origin)
		return SignInAt{url}, err
	})
	operation(s, a, http.MethodPost, "/api/sign-ins", "finish-sign-in", "Connect the account for which somebody has signed in", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			CommandBody
			State string `json:"state" maxLength:"200"`
			Code  string `json:"code,omitempty" maxLength:"4000"`
			Error string `json:"error,omitempty" maxLength:"200"`
		}
	}) (app.Decided, error) {
		return s.App.FinishSignIn(ctx, who, in.Body.Command, in.Body.State, in.Body.Code, in.Body.Error)
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
	operation(s, a, http.MethodPut, "/api/accounts/{id}/remote/settings", "set-remote", "Say what a mail server holds and lets go of", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			CommandBody
			app.RemoteSettings
		}
	}) (app.Decided, error) {
		return s.App.SetRemote(ctx, who, in.Body.Command, in.ID, in.Body.RemoteSettings)
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
