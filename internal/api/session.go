package api

import (
	"context"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

const (
	cookieName  = "ebbe_session"
	sessionDays = 30
	personKey   = "person"
)

func newSessions(s *store.Store) *scs.SessionManager {
	m := scs.New()
	m.Store = s
	m.Lifetime = sessionDays * 24 * time.Hour
	m.HashTokenInStore = true
	return m
}

type ownerKey struct{}

// ownerOf is the signed-in person; 0 if nobody is.
func ownerOf(ctx context.Context) int64 {
	owner, _ := ctx.Value(ownerKey{}).(int64)
	return owner
}

// session finds out who is asking.
func (s *server) session(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
		return
	}
	token, _ := c.Cookie(cookieName)
	ctx, err := s.sessions.Load(c.Request.Context(), token)
	if err != nil {
		s.Log.Error("the session could not be read", "reason", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	if owner := s.sessions.GetInt64(ctx, personKey); owner != 0 {
		ctx = context.WithValue(ctx, ownerKey{}, owner)
	}
	c.Request = c.Request.WithContext(ctx)
}

// signIn begins a new session, with a new token, and makes its cookie.
func (s *server) signIn(ctx context.Context, person int64) (string, error) {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return "", err
	}
	s.sessions.Put(ctx, personKey, person)
	token, expiry, err := s.sessions.Commit(ctx)
	cookie := http.Cookie{
		Name: cookieName, Value: token, Path: "/", Expires: expiry, HttpOnly: true, SameSite: http.SameSiteStrictMode,
	}
	return cookie.String(), err
}

func (s *server) signOut(ctx context.Context) (string, error) {
	err := s.sessions.Destroy(ctx)
	cookie := http.Cookie{Name: cookieName, Path: "/", MaxAge: -1, HttpOnly: true, SameSite: http.SameSiteStrictMode}
	return cookie.String(), err
}

// attempts limits how often a password can be tried, by name: a few at once,
// then one every ten seconds. Names are few, so the table stays small.
type attempts struct {
	mu   sync.Mutex
	by   map[string]*rate.Limiter
	rest *rate.Limiter
}

func newAttempts() *attempts {
	return &attempts{by: map[string]*rate.Limiter{}, rest: rate.NewLimiter(rate.Every(time.Second), 20)}
}

func (a *attempts) allow(name string) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	l := a.by[name]
	if l == nil {
		if len(a.by) > 1000 {
			return a.rest.Allow()
		}
		l = rate.NewLimiter(rate.Every(10*time.Second), 5)
		a.by[name] = l
	}
	return l.Allow() && a.rest.Allow()
}

// SessionView says who is signed in, and how one can be.
type SessionView struct {
	State  string       `json:"state" enum:"setup,signed-out,signed-in"`
	Demo   bool         `json:"demo"`
	People []PersonView `json:"people" doc:"In the demo: who can be entered as"`
	Me     *PersonView  `json:"me,omitempty"`
}

// PersonView is a person of the installation.
type PersonView struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

func (s *server) sessionView(ctx context.Context) (SessionView, error) {
	people, err := s.App.Store.People(ctx)
	out := SessionView{State: "signed-out", Demo: s.Demo != nil, People: []PersonView{}}
	if len(people) == 0 {
		out.State = "setup"
	}
	for _, p := range people {
		if s.Demo != nil {
			out.People = append(out.People, PersonView{p.ID, p.Name})
		}
		if p.ID == ownerOf(ctx) {
			out.State, out.Me = "signed-in", &PersonView{p.ID, p.Name}
		}
	}
	return out, err
}

type signInInput struct {
	Body struct {
		Name     string `json:"name,omitempty" maxLength:"200"`
		Password string `json:"password,omitempty" maxLength:"200"`
		Person   int64  `json:"person,omitempty" doc:"In the demo: enter as this person"`
	}
}

type sessionOutput struct {
	SetCookie string `header:"Set-Cookie"`
	Body      SessionView
}

// wrongPassword is verified against when the name is unknown, so that a wrong
// name takes as long as a wrong password.
var wrongPassword = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash("nobody's password", argon2id.DefaultParams)
	if err != nil {
		panic(err) // the system has no randomness: nothing works
	}
	return hash
})

func (s *server) enter(ctx context.Context, in *signInInput) (*sessionOutput, error) {
	people, err := s.App.Store.People(ctx)
	if err != nil {
		return nil, s.failure(err)
	}
	if s.Demo != nil && in.Body.Person != 0 {
		for _, p := range people {
			if p.ID == in.Body.Person {
				return s.entered(ctx, p.ID)
			}
		}
	}
	name := strings.ToLower(strings.TrimSpace(in.Body.Name))
	if !s.attempts.allow(name) {
		return nil, huma.Error429TooManyRequests("Too many tries. Wait ten seconds and try again.")
	}
	found, hash := int64(0), wrongPassword()
	for _, p := range people {
		if strings.EqualFold(p.SignIn, name) && p.Password != "" {
			found, hash = p.ID, p.Password
		}
	}
	match, err := argon2id.ComparePasswordAndHash(in.Body.Password, hash)
	if err != nil {
		return nil, s.failure(err)
	}
	if !match || found == 0 {
		return nil, huma.Error401Unauthorized("Name and password don't match.")
	}
	return s.entered(ctx, found)
}

func (s *server) entered(ctx context.Context, person int64) (*sessionOutput, error) {
	cookie, err := s.signIn(ctx, person)
	if err != nil {
		return nil, s.failure(err)
	}
	view, err := s.sessionView(context.WithValue(ctx, ownerKey{}, person))
	return &sessionOutput{cookie, view}, s.failure(err)
}

type setupInput struct {
	Body struct {
		Name     string `json:"name" minLength:"1" maxLength:"100"`
		Address  string `json:"address" minLength:"3" maxLength:"254"`
		Password string `json:"password" minLength:"10" maxLength:"200"`
		Zone     string `json:"zone" maxLength:"60"`
	}
}

// setup makes the owner; it works once, before there is anybody.
func (s *server) setup(ctx context.Context, in *setupInput) (*sessionOutput, error) {
	address, err := letter.CheckAddress(in.Body.Address)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(err.Error())
	}
	if _, err := time.LoadLocation(in.Body.Zone); err != nil {
		in.Body.Zone = "UTC"
	}
	people, err := s.App.Store.People(ctx)
	if err != nil {
		return nil, s.failure(err)
	}
	if len(people) > 0 {
		return nil, huma.Error409Conflict("Ebbe has an owner already. Sign in.")
	}
	hash, err := argon2id.CreateHash(in.Body.Password, argon2id.DefaultParams)
	if err != nil {
		return nil, s.failure(err)
	}
	id, err := s.App.Store.AddPerson(ctx, store.Person{Name: in.Body.Name, SignIn: address.Key(), Password: hash, Zone: in.Body.Zone},
		[]store.Account{{Address: address.Email, Name: in.Body.Name, Label: address.Email}}, s.App.Now())
	if err != nil {
		return nil, s.failure(err)
	}
	return s.entered(ctx, id)
}
