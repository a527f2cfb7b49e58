package app

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/oauth2"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Provider is where people sign in to let Ebbe read and send their letters, instead of
// giving it a password (OAuth 2, RFC 6749; PKCE, RFC 7636; RFC 8252).
type Provider struct {
	// Name is what it is called; Hosts are the mail servers that take what it gives.
	Name  string   `koanf:"name"`
	Hosts []string `koanf:"hosts"`
	// ClientID and ClientSecret are by what Ebbe is known there; the secret may be "".
	ClientID     string   `koanf:"client-id"`
	ClientSecret string   `koanf:"client-secret"`
	AuthorizeURL string   `koanf:"authorize"`
	TokenURL     string   `koanf:"token"`
	Scopes       []string `koanf:"scopes"`
}

func (p Provider) config(back string) *oauth2.Config {
	return &oauth2.Config{
		ClientID: p.ClientID, ClientSecret: p.ClientSecret, RedirectURL: back, Scopes: p.Scopes,
		Endpoint: oauth2.Endpoint{AuthURL: p.AuthorizeURL, TokenURL: p.TokenURL},
	}
}

// signIns are the sign-ins under way. They don't outlive the process: who comes back to
// another begins anew.
type signIns struct {
	mu      sync.Mutex
	waiting map[string]signIn
	// renewing lets one renew a token at a time: many providers take each refresh token
	// once.
	renewing sync.Mutex
}

// signIn is one that waits for the person to come back.
type signIn struct {
	who        store.Who
	connecting Connecting
	back       string
	verifier   string
	until      time.Time
}

const (
	signInLasts   = 15 * time.Minute
	providerTime  = 20 * time.Second
	mostSignIns   = 1000
	signInIsOver  = "That sign-in is over. Begin it once more."
	signedInAnew  = "Sign in once more in the settings of this account."
	landingOfPage = "/signed-in"
)

// SignIn is somewhere to sign in, as it is shown.
type SignIn struct {
	Name  string   `json:"name"`
	Hosts []string `json:"hosts" doc:"The mail servers that it is for"`
}

// SignIns are where people can sign in.
func (a *App) SignIns() []SignIn {
	out := make([]SignIn, len(a.Providers))
	for i, p := range a.Providers {
		out[i] = SignIn{p.Name, p.Hosts}
	}
	return out
}

func (a *App) provider(name string) (Provider, bool) {
	i := slices.IndexFunc(a.Providers, func(p Provider) bool { return p.Name == name })
	if i < 0 {
		return Provider{}, false
	}
	return a.Providers[i], true
}

// isFor tells whether a mail server takes what the provider gives. Nothing is ever shown to
// another.
func (p Provider) isFor(host string) bool {
	return slices.ContainsFunc(p.Hosts, func(h string) bool { return strings.EqualFold(h, host) })
}

// BeginSignIn gives where the person goes to sign in for the mail server of an account;
// they come back to the page at its origin.
func (a *App) BeginSignIn(ctx context.Context, who store.Who, c Connecting, origin string) (string, error) {
	p, ok := a.provider(c.SignIn)
	if !ok {
		return "", work.Refuse("Nobody can sign in there from here.")
	}
	at, err := url.Parse(origin)
	if err != nil || at.Host == "" || at.Scheme != "https" && at.Scheme != "http" {
		return "", work.Invalid("origin", "The page doesn’t say where it is.")
	}
	if err := a.complete(ctx, who, &c); err != nil {
		return "", err
	}
	back := (&url.URL{Scheme: at.Scheme, Host: at.Host, Path: landingOfPage}).String()
	state, verifier := rand.Text()+rand.Text(), oauth2.GenerateVerifier()
	a.signing.mu.Lock()
	defer a.signing.mu.Unlock()
	if a.signing.waiting == nil {
		a.signing.waiting = map[string]signIn{}
	}
	now := time.Now()
	for s, w := range a.signing.waiting {
		if w.until.Before(now) {
			delete(a.signing.waiting, s)
		}
	}
	if len(a.signing.waiting) >= mostSignIns {
		return "", work.Refuse("Too many people are signing in just now.")
	}
	a.signing.waiting[state] = signIn{who, c, back, verifier, now.Add(signInLasts)}
	return p.config(back).AuthCodeURL(state, oauth2.AccessTypeOffline, oauth2.S256ChallengeOption(verifier), oauth2.SetAuthURLParam("login_hint", c.Login)), nil
}

// FinishSignIn connects the account for which somebody has signed in, with the code that
// they were given, or says why they were not (failed).
func (a *App) FinishSignIn(ctx context.Context, who store.Who, command, state, code, failed string) (Decided, error) {
	a.signing.mu.Lock()
	w, ok := a.signing.waiting[state]
	if ok && w.who == who {
		delete(a.signing.waiting, state)
	}
	a.signing.mu.Unlock()
	p, known := a.provider(w.connecting.SignIn)
	switch {
	case !ok || w.who != who || !known || w.until.Before(time.Now()):
		return Decided{}, work.Refuse(signInIsOver)
	case failed == "access_denied":
		return Decided{}, work.Refuse("Ebbe was not allowed to read the letters. Nothing was changed.")
	case failed != "" || code == "":
		return Decided{}, work.Refuse("%s let nobody in (%s). Nothing was changed.", p.Name, failed)
	}
	ctx, cancel := withClient(ctx)
	defer cancel()
	token, err := p.config(w.back).Exchange(ctx, code, oauth2.VerifierOption(w.verifier))
	if err != nil {
		return Decided{}, work.Refuse("%s", refusedBy(p, err).Reason)
	}
	secret, err := json.Marshal(token)
	if err != nil {
		return Decided{}, err
	}
	w.connecting.Password, w.connecting.bearer = string(secret), token.AccessToken
	return a.Connect(ctx, who, command, w.connecting)
}

// withClient bounds how long a provider may take.
func withClient(ctx context.Context) (context.Context, context.CancelFunc) {
	return context.WithTimeout(context.WithValue(ctx, oauth2.HTTPClient, &http.Client{Timeout: providerTime}), 3*providerTime)
}

// refusedBy says why a provider gave no token.
func refusedBy(p Provider, err error) *post.Fault {
	var answer *oauth2.RetrieveError
	if errors.As(err, &answer) {
		words := strings.TrimSuffix(strings.Join(strings.Fields(answer.ErrorDescription), " "), ".")
		if words == "" {
			words = answer.ErrorCode
		}
		return &post.Fault{Step: post.AtPassword, Reason: fmt.Sprintf("%s no longer lets Ebbe in: %s. %s", p.Name, words, signedInAnew), Err: err}
	}
	return &post.Fault{Step: post.AtPort, Reason: p.Name + " can’t be reached to sign in.", Err: err}
}

// login is how the account signs in at its mail server: with the password, or with a token
// that is still good; renew asks for another in any case.
func (a *App) login(ctx context.Context, r store.Remote, renew bool) (post.Login, error) {
	login := post.Login{User: r.Login}
	if r.SignIn != "" { // one at a time, from before it is read
		a.signing.renewing.Lock()
		defer a.signing.renewing.Unlock()
	}
	secret, err := a.Secrets.Get(r.AccountID)
	if err != nil {
		reason := "The password of this account is not known here any more. Type it anew in the settings."
		if r.SignIn != "" {
			reason = "Nobody is signed in for this account any more. " + signedInAnew
		}
		return login, &post.Fault{Step: post.AtPassword, Reason: reason, Err: err}
	}
	if r.SignIn == "" {
		login.Password = secret
		return login, nil
	}
	p, ok := a.provider(r.SignIn)
	var token oauth2.Token
	if err := json.Unmarshal([]byte(secret), &token); err != nil || !ok {
		return login, &post.Fault{Step: post.AtPassword, Reason: "Ebbe no longer knows how to sign in at " + r.SignIn + ".", Err: err}
	}
	if renew {
		token.Expiry = time.Unix(1, 0)
	}
	ctx, cancel := withClient(ctx)
	defer cancel()
	now, err := p.config("").TokenSource(ctx, &token).Token()
	if err != nil {
		return login, refusedBy(p, err)
	}
	if now.AccessToken != token.AccessToken {
		text, err := json.Marshal(now)
		if err != nil {
			return login, err
		}
		if err := a.Secrets.Set(r.AccountID, string(text)); err != nil {
			return login, err
		}
	}
	login.Bearer = now.AccessToken
	return login, nil
}
