package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

const (
	cookieName   = "ebbe_session"
	sessionDays  = 30
	personKey    = "person"
	deviceCookie = "ebbe_device"
	deviceYears  = 2
)

func newSessions(s *store.Store) *scs.SessionManager {
	m := scs.New()
	m.Store = s
	m.Lifetime = sessionDays * 24 * time.Hour
	m.HashTokenInStore = true
	return m
}

type whoKey struct{}

// whoOf is the signed-in person at the inbox that the page works on; the zero
// Who if nobody is signed in.
func whoOf(ctx context.Context) store.Who {
	who, _ := ctx.Value(whoKey{}).(store.Who)
	return who
}

// asking is what of a request decides about sessions.
type asking struct {
	token, device, address string
	secure                 bool // it came by TLS
}

type askingKey struct{}

func askingOf(ctx context.Context) asking {
	a, _ := ctx.Value(askingKey{}).(asking)
	return a
}

// session finds out who is asking. A page says as whom it works, and on which
// inbox: what it would do as somebody else, who has signed in in the same browser
// since, is refused, and so is what it would do to an inbox that isn't theirs.
func (s *server) session(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
		return
	}
	var a asking
	a.token, _ = c.Cookie(cookieName)
	a.device, _ = c.Cookie(deviceCookie)
	a.address = c.ClientIP()
	a.secure = s.Secure || c.Request.TLS != nil || c.GetHeader("X-Forwarded-Proto") == "https"
	ctx, err := s.sessions.Load(c.Request.Context(), a.token)
	if err != nil {
		s.fail(c, fmt.Errorf("read the session: %w", err))
		return
	}
	ctx = context.WithValue(ctx, askingKey{}, a)
	person := s.sessions.GetInt64(ctx, personKey)
	if person != 0 {
		ctx = context.WithValue(ctx, whoKey{}, store.Own(person))
		if c.Request.URL.Path != "/api/session" && (!says(c, "Ebbe-Person", person) || !says(c, "Ebbe-Inbox", person)) {
			s.fail(c, errSomebodyElse)
			return
		}
	}
	c.Request = c.Request.WithContext(ctx)
}

// says tells whether a header, where there is one, names this id.
func says(c *gin.Context, header string, id int64) bool {
	said := c.GetHeader(header)
	return said == "" || said == strconv.FormatInt(id, 10)
}

// personOf is whose a session is at this moment; 0 once it has ended.
func (s *server) personOf(ctx context.Context, token string) int64 {
	ctx, err := s.sessions.Load(context.WithoutCancel(ctx), token)
	if err != nil {
		return 0
	}
	return s.sessions.GetInt64(ctx, personKey)
}

// signIn begins a new session, with a new token, and makes its cookie.
func (s *server) signIn(ctx context.Context, person int64) ([]string, error) {
	was := askingOf(ctx)
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.streams.end(was.token)
	s.sessions.Put(ctx, personKey, person)
	token, expiry, err := s.sessions.Commit(ctx)
	cookie := http.Cookie{
		Name: cookieName, Value: token, Path: "/", Expires: expiry, HttpOnly: true, Secure: was.secure, SameSite: http.SameSiteStrictMode,
	}
	device := http.Cookie{
		Name: deviceCookie, Value: s.doors.known(person), Path: "/", MaxAge: deviceYears * 365 * 24 * 3600, HttpOnly: true, Secure: was.secure, SameSite: http.SameSiteStrictMode,
	}
	return []string{cookie.String(), device.String()}, err
}

func (s *server) signOut(ctx context.Context) ([]string, error) {
	was := askingOf(ctx)
	err := s.sessions.Destroy(ctx)
	s.streams.end(was.token)
	cookie := http.Cookie{Name: cookieName, Path: "/", MaxAge: -1, HttpOnly: true, Secure: was.secure, SameSite: http.SameSiteStrictMode}
	return []string{cookie.String()}, err
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
		if p.ID == whoOf(ctx).Person {
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
	SetCookie []string `header:"Set-Cookie"`
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
	name := foldName(in.Body.Name)
	found, hash := int64(0), wrongPassword()
	for _, p := range people {
		if foldName(p.SignIn) == name && p.Password != "" {
			found, hash = p.ID, p.Password
		}
	}
	asks := askingOf(ctx)
	// Others' tries never keep somebody out of a device that they have used
	// before: there only wrong passwords are counted, and by themselves.
	trusted := found != 0 && s.doors.knows(asks.device, found)
	if !trusted && !s.doors.allow(name, asks.address) {
		return nil, tooManyTries()
	}
	match, err := s.doors.compare(ctx, in.Body.Password, hash)
	if err != nil {
		return nil, s.failure(err)
	}
	if trusted && !match && !s.doors.allow(asks.device, asks.device) {
		return nil, tooManyTries()
	}
	if !match || found == 0 {
		return nil, huma.Error401Unauthorized("Name and password don't match.")
	}
	return s.entered(ctx, found)
}

func tooManyTries() error {
	return huma.Error429TooManyRequests("Too many tries. Wait ten seconds and try again.")
}

func (s *server) entered(ctx context.Context, person int64) (*sessionOutput, error) {
	cookie, err := s.signIn(ctx, person)
	if err != nil {
		return nil, s.failure(err)
	}
	view, err := s.sessionView(context.WithValue(ctx, whoKey{}, store.Own(person)))
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
	hash, err := argon2id.CreateHash(in.Body.Password, argon2id.DefaultParams)
	if err != nil {
		return nil, s.failure(err)
	}
	who, err := s.App.Store.AddFirstPerson(ctx, store.Person{Name: in.Body.Name, SignIn: address.Key(), Password: hash, Zone: in.Body.Zone},
		[]store.Account{{Address: address.Email, Name: in.Body.Name, Label: address.Email}}, s.App.Now())
	if errors.Is(err, store.ErrNotFirst) {
		return nil, huma.Error409Conflict("Ebbe has an owner already. Sign in.")
	}
	if err != nil {
		return nil, s.failure(err)
	}
	return s.entered(ctx, who.Person)
}
