package app_test

import (
	"crypto/rand"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice/authority"
	"ebbe.example/ebbe/internal/store"
)

// signingIn is an account for which one signs in elsewhere.
type signingIn struct {
	*twoSides
	at *authority.Authority
}

func onAServerWithSignIn(t *testing.T) *signingIn {
	t.Helper()
	w := &signingIn{twoSides: onAServer(t), at: &authority.Authority{Users: []string{walks}, Client: "ebbe", Now: time.Now}}
	require.NoError(t, w.at.Load())
	serves := httptest.NewServer(w.at)
	t.Cleanup(serves.Close)
	w.there.Allows = w.at.Allows
	w.app.Providers = []app.Provider{{
		Name: "The co-op", Hosts: []string{"127.0.0.1"}, ClientID: "ebbe", AuthorizeURL: serves.URL + authority.AuthorizePath, TokenURL: serves.URL + authority.TokenPath,
	}}
	return w
}

func (w *signingIn) connecting() app.Connecting {
	return app.Connecting{Account: w.account, Login: walks, Incoming: w.server, Outgoing: w.server, SignIn: "The co-op"}
}

// answers is a person who allows or refuses, and what they come back with.
func (w *signingIn) answers(at, answer string) url.Values {
	w.t.Helper()
	browser := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	got, err := browser.PostForm(at, url.Values{"answer": {answer}}) //nolint:noctx // a person
	require.NoError(w.t, err)
	require.NoError(w.t, got.Body.Close())
	require.Equal(w.t, http.StatusSeeOther, got.StatusCode)
	back, err := got.Location()
	require.NoError(w.t, err)
	assert.Equal(w.t, "http://localhost/signed-in", back.Scheme+"://"+back.Host+back.Path)
	return back.Query()
}

func (w *signingIn) begin() string {
	w.t.Helper()
	at, err := w.app.BeginSignIn(w.ctx, w.who, w.connecting(), "http://localhost")
	require.NoError(w.t, err)
	return at
}

func (w *signingIn) finish(with url.Values) error {
	_, err := w.app.FinishSignIn(w.ctx, w.who, rand.Text(), with.Get("state"), with.Get("code"), with.Get("error"))
	w.app.StopSyncing()
	return err
}

// Who signs in is connected without any password; what lets Ebbe in is renewed by itself,
// and when it is taken back that is said.
func TestSigningInInsteadOfAPassword(t *testing.T) {
	w := onAServerWithSignIn(t)
	w.comes("INBOX", load(1))
	require.NoError(t, w.finish(w.answers(w.begin(), "yes")))
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Inbox))
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, "The co-op", list[0].SignIn)
	before, err := w.app.Secrets.Get(w.account)
	require.NoError(t, err)

	w.at.Expire()
	w.sync()
	after, err := w.app.Secrets.Get(w.account)
	require.NoError(t, err)
	assert.NotEqual(t, before, after)
	w.sync()

	// What is changed beside it leaves it as it is.
	c := w.connecting()
	c.SignIn = ""
	_, err = w.app.Connect(w.ctx, w.who, rand.Text(), c)
	require.NoError(t, err)
	w.app.StopSyncing()
	w.sync()

	w.at.Revoke(walks)
	err = w.app.SyncOnce(w.ctx, w.who, w.account)
	var f *post.Fault
	require.ErrorAs(t, err, &f)
	assert.Equal(t, post.AtPassword, f.Step)
	assert.Contains(t, f.Reason, "The co-op no longer lets Ebbe in")

	require.NoError(t, w.finish(w.answers(w.begin(), "yes")))
	w.sync()
	database, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.NotContains(t, strings.ToLower(database[0].Trouble), "sign in")
}

// A sign-in is good once, for whoever began it, and for the servers that it is for.
func TestSignInsAreNobodyElses(t *testing.T) {
	w := onAServerWithSignIn(t)
	require.ErrorContains(t, w.finish(w.answers(w.begin(), "no")), "not allowed")
	list, err := w.app.Remotes(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, list)

	with := w.answers(w.begin(), "yes")
	_, err = w.app.FinishSignIn(w.ctx, store.Own(2), rand.Text(), with.Get("state"), with.Get("code"), "")
	require.ErrorContains(t, err, "is over")
	require.NoError(t, w.finish(with), "what somebody else tried took nothing away")
	require.ErrorContains(t, w.finish(with), "is over")

	stolen := w.answers(w.begin(), "yes")
	other := w.answers(w.begin(), "yes")
	other.Set("code", stolen.Get("code")) // that was made for another verifier
	require.Error(t, w.finish(other))

	elsewhere := w.connecting()
	elsewhere.Outgoing.Host = "mail.elsewhere.example"
	_, err = w.app.BeginSignIn(w.ctx, w.who, elsewhere, "http://localhost")
	require.ErrorContains(t, err, "does not sign anybody in")
}
