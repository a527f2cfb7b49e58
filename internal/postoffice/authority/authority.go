// Package authority stands in for where a person signs in to let a program read and send
// their letters (OAuth 2: RFC 6749, with PKCE, RFC 7636). It serves its two endpoints over
// HTTP on this machine; mail servers ask it whose an access token is.
package authority

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"html/template"
	"io/fs"
	"maps"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"time"
)

// How long what it gives is good for.
const (
	codeLasts   = time.Minute
	accessLasts = 10 * time.Minute
)

// Paths of its endpoints.
const (
	AuthorizePath = "/authorize"
	TokenPath     = "/token"
)

// Authority is one. Its fields are set before it serves.
type Authority struct {
	// Users are those who can sign in, by their addresses.
	Users []string
	// Client is the program that it knows.
	Client string
	// File is where it keeps who is signed in; "" for nowhere.
	File string
	Now  func() time.Time

	mu   sync.Mutex // guards all that follows
	kept kept
}

// kept are what was allowed, by the secrets that stand for it.
type kept struct{ Codes, Access, Fresh map[string]grant }

// grant is what somebody has allowed.
type grant struct {
	User, Redirect, Challenge string
	Until                     time.Time
}

// Load reads what it has kept; nothing is that.
func (a *Authority) Load() error {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.kept = kept{map[string]grant{}, map[string]grant{}, map[string]grant{}}
	text, err := os.ReadFile(a.File)
	if a.File == "" || errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return errors.Join(err, json.Unmarshal(text, &a.kept))
}

// save keeps it.
func (a *Authority) save() {
	text, err := json.Marshal(a.kept)
	if a.File == "" || err != nil {
		return
	}
	_ = os.WriteFile(a.File, text, 0o600) // who is not kept signs in again
}

// ServeHTTP serves both endpoints.
func (a *Authority) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch {
	case r.URL.Path == AuthorizePath && r.Method == http.MethodGet:
		a.ask(w, r)
	case r.URL.Path == AuthorizePath && r.Method == http.MethodPost:
		a.decide(w, r)
	case r.URL.Path == TokenPath && r.Method == http.MethodPost:
		a.token(w, r)
	default:
		http.NotFound(w, r)
	}
}

var page = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Sign in</title><style>:root{color-scheme:light dark}body{font:17px/1.5 system-ui,sans-serif;max-width:28rem;margin:12vh auto;padding:0 1.5rem}button{font:inherit;padding:.5rem 1rem;margin:1rem .5rem 0 0}</style>
<h1>Somebody’s mail</h1><p>This stands in for where you sign in to your mail service.</p>
<form method="post"><p>Let <b>Ebbe</b> read and send the letters of <b>{{.}}</b>?</p>
<button name="answer" value="yes" autofocus>Allow</button><button name="answer" value="no">Refuse</button></form></html>`))

// asked is what a program asks for; ok is false where that can't be trusted with an answer.
func (a *Authority) asked(q url.Values) (g grant, ok bool) {
	redirect, err := url.Parse(q.Get("redirect_uri"))
	local := err == nil && (redirect.Hostname() == "localhost" || redirect.Hostname() == "127.0.0.1")
	ok = local && q.Get("client_id") == a.Client && q.Get("response_type") == "code" && q.Get("code_challenge_method") == "S256" && q.Get("code_challenge") != ""
	user := q.Get("login_hint")
	if !slices.Contains(a.Users, user) {
		user = a.Users[0]
	}
	return grant{User: user, Redirect: q.Get("redirect_uri"), Challenge: q.Get("code_challenge")}, ok
}

func (a *Authority) ask(w http.ResponseWriter, r *http.Request) {
	g, ok := a.asked(r.URL.Query())
	if !ok {
		http.Error(w, "No program is known that asks so.", http.StatusBadRequest)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Referrer-Policy", "no-referrer")
	_ = page.Execute(w, g.User)
}

// decide sends the person back with a code, or with their refusal.
func (a *Authority) decide(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	g, ok := a.asked(q)
	back, err := url.Parse(g.Redirect)
	if !ok || err != nil {
		http.Error(w, "No program is known that asks so.", http.StatusBadRequest)
		return
	}
	answer := back.Query()
	answer.Set("state", q.Get("state"))
	if r.PostFormValue("answer") == "yes" {
		answer.Set("code", a.give(a.kept.Codes, g, codeLasts))
	} else {
		answer.Set("error", "access_denied")
	}
	back.RawQuery = answer.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

// give makes a secret that stands for a grant.
func (a *Authority) give(to map[string]grant, g grant, lasts time.Duration) string {
	a.mu.Lock()
	defer a.mu.Unlock()
	defer a.save()
	now := a.Now()
	maps.DeleteFunc(to, func(_ string, g grant) bool { return g.Until.Before(now) })
	secret := rand.Text()
	g.Until = now.Add(lasts)
	to[secret] = g
	return secret
}

// take gives what a secret stands for, once.
func (a *Authority) take(from map[string]grant, secret string) (grant, bool) {
	a.mu.Lock()
	defer a.mu.Unlock()
	defer a.save()
	g, ok := from[secret]
	delete(from, secret)
	return g, ok && !g.Until.Before(a.Now())
}

// refreshLasts is how long somebody stays signed in.
const refreshLasts = 90 * 24 * time.Hour

func (a *Authority) token(w http.ResponseWriter, r *http.Request) {
	var g grant
	ok := false
	switch r.PostFormValue("grant_type") {
	case "authorization_code":
		sum := sha256.Sum256([]byte(r.PostFormValue("code_verifier")))
		g, ok = a.take(a.kept.Codes, r.PostFormValue("code"))
		ok = ok && g.Redirect == r.PostFormValue("redirect_uri") && g.Challenge == base64.RawURLEncoding.EncodeToString(sum[:])
	case "refresh_token": // each is good once
		g, ok = a.take(a.kept.Fresh, r.PostFormValue("refresh_token"))
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	answer := map[string]any{"error": "invalid_grant", "error_description": "That is over, or never was."}
	if ok {
		answer = map[string]any{
			"access_token": a.give(a.kept.Access, g, accessLasts), "refresh_token": a.give(a.kept.Fresh, g, refreshLasts), "token_type": "Bearer", "expires_in": int(accessLasts.Seconds()),
		}
	} else {
		w.WriteHeader(http.StatusBadRequest)
	}
	_ = json.NewEncoder(w).Encode(answer)
}

// Allows tells whether an access token lets its bearer act for somebody.
func (a *Authority) Allows(user, token string) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	g, ok := a.kept.Access[token]
	return ok && !g.Until.Before(a.Now()) && strings.EqualFold(g.User, user)
}

// Revoke ends all that somebody has allowed.
func (a *Authority) Revoke(user string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, m := range []map[string]grant{a.kept.Codes, a.kept.Access, a.kept.Fresh} {
		maps.DeleteFunc(m, func(_ string, g grant) bool { return g.User == user })
	}
}

// Expire ends all access tokens; who has a refresh token gets another.
func (a *Authority) Expire() {
	a.mu.Lock()
	defer a.mu.Unlock()
	clear(a.kept.Access)
}
