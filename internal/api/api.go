// Package api serves Ebbe over HTTP: typed operations for the page, letters'
// own pages and attachments, and a stream of changes. Handlers translate
// between HTTP and the use cases, nothing more.
package api

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"reflect"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

var problemType = reflect.TypeFor[ProblemView]()

// Demo is what the demo bar can do; nil outside the demo, where its
// operations don't exist.
type Demo interface {
	MoveClock(ctx context.Context, to string) error
	SendLetter(ctx context.Context, who store.Who, kind string) (string, error)
	Phone() []PhoneLetter
	OnPhone(ctx context.Context, folder string, uid uint32, act, to string) error
}

// PhoneLetter is a letter as the phone of the demo shows it.
type PhoneLetter struct {
	Folder  string `json:"folder"`
	UID     uint32 `json:"uid"`
	From    string `json:"from"`
	Subject string `json:"subject"`
	Read    bool   `json:"read"`
	Star    bool   `json:"star"`
}

// Config is what the API is made of.
type Config struct {
	App  *app.App
	Demo Demo
	// Hosts are the names by which this server is known, besides localhost and
	// its addresses; in lower case.
	Hosts []string
	// Proxies are the addresses of proxies whose word on clients is taken.
	Proxies []string
	// Secure tells that people reach it over TLS, whatever a request says.
	Secure bool
	// MetricsToken lets whoever has it read what is measured from elsewhere; "" for
	// nobody.
	MetricsToken string
	// Page is the built interface.
	Page fs.FS
	Log  *slog.Logger
}

type server struct {
	Config
	sessions *scs.SessionManager
	doors    *doors
	streams  streams
	metrics  *metrics
	shared   shelf
	engine   http.Handler
	font     string // of letters, see paperFont
}

// New makes the handler of everything that Ebbe serves.
func New(c Config) http.Handler {
	// Cross-site requests are turned away by what the browser says of them
	// (Sec-Fetch-Site, Origin); cookies are SameSite besides.
	protection := http.NewCrossOriginProtection()
	protection.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { refuse(w, errCrossSite) }))
	s, router := newServer(c)
	return protection.Handler(packing(s.watched(router)))
}

func newServer(c Config) (*server, *gin.Engine) {
	gin.SetMode(gin.ReleaseMode)
	s := &server{Config: c, sessions: newSessions(c.App.Store), doors: newDoors(deviceSecret(c.App.Store)), font: paperFont(c.Page), metrics: newMetrics(c)}
	router := gin.New()
	router.HandleMethodNotAllowed = true
	if err := router.SetTrustedProxies(c.Proxies); err != nil {
		c.Log.Warn("a proxy is not trusted", "reason", err)
	}
	router.Use(s.metrics.timed, s.recover, s.host, s.headers, s.session)
	s.describe(humagin.New(router, s.config()))
	s.raw(router)
	router.NoRoute(s.page)
	router.NoMethod(func(c *gin.Context) { s.fail(c, errWrongMethod) })
	s.engine = router
	return s, router
}

const deviceFact = "secret of known devices"

// deviceSecret is kept with the database, so that devices stay known.
func deviceSecret(s *store.Store) []byte {
	ctx := context.Background()
	secret, err := s.Fact(ctx, deviceFact)
	if err == nil && secret == "" {
		secret = rand.Text()
		err = s.SetFact(ctx, deviceFact, secret)
	}
	if err != nil {
		secret = rand.Text() // devices are known until the next start
	}
	return []byte(secret)
}

// Describe gives the API's description (OpenAPI 3.1) as JSON.
func Describe() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &server{Config: Config{Demo: noDemo{}}}
	a := humagin.New(gin.New(), s.config())
	s.describe(a)
	s.describeRaw(a)
	text, err := a.OpenAPI().MarshalJSON()
	if err != nil {
		return nil, err
	}
	// Sorted by name and a line for each value, so that changes can be read.
	var sorted any
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&sorted); err != nil {
		return nil, err
	}
	text, err = json.MarshalIndent(sorted, "", "  ")
	return append(text, '\n'), err
}

type noDemo struct{}

func (noDemo) MoveClock(context.Context, string) error                       { return nil }
func (noDemo) SendLetter(context.Context, store.Who, string) (string, error) { return "", nil }
func (noDemo) Phone() []PhoneLetter                                          { return nil }
func (noDemo) OnPhone(context.Context, string, uint32, string, string) error { return nil }

func (s *server) config() huma.Config {
	huma.DefaultArrayNullable = false // lists that are empty are written as such
	c := huma.DefaultConfig("Ebbe", "1")
	c.Formats = formats()
	c.DocsPath, c.OpenAPIPath, c.SchemasPath = "", "", ""
	c.CreateHooks = nil // no $schema links in answers
	return c
}

// recover answers a request whose handler panicked. One that is to be cut off
// is: gin's own recovery would end it as if all were well.
func (s *server) recover(c *gin.Context) {
	defer func() {
		what := recover()
		if what == nil {
			return
		}
		if what == http.ErrAbortHandler || c.Writer.Written() { //nolint:errorlint // it is thrown, not returned
			panic(http.ErrAbortHandler)
		}
		s.Log.Error("a request panicked", "path", c.Request.URL.Path, "reason", what, "stack", string(debug.Stack()))
		s.fail(c, fmt.Errorf("panic: %v", what))
	}()
	c.Next()
}

// host refuses requests that name another host than this server: a page of
// another site whose name was made to lead here (DNS rebinding) is not the
// page's own.
func (s *server) host(c *gin.Context) {
	if s.knows(c.Request.Host) {
		return
	}
	s.fail(c, errWrongHost)
}

func (s *server) knows(hostport string) bool {
	name := hostport
	if host, _, err := net.SplitHostPort(hostport); err == nil {
		name = host
	}
	name = strings.ToLower(strings.Trim(strings.TrimSuffix(name, "."), "[]"))
	// An address is no name that could lead here by another's doing.
	return name == "localhost" || strings.HasSuffix(name, ".localhost") || net.ParseIP(name) != nil || slices.Contains(s.Hosts, name)
}

// policy allows the page its own files and nothing else: no inline script, no
// frame but letters, no talk with any other host.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; " +
	"connect-src 'self'; frame-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

func (s *server) headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

// page serves the built interface; every path that is no file is a view of it.
func (s *server) page(c *gin.Context) {
	path := strings.TrimPrefix(c.Request.URL.Path, "/")
	if strings.HasPrefix(path, "api/") || strings.HasPrefix(path, "feed/") {
		s.fail(c, errNoSuchThing)
		return
	}
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		s.fail(c, errWrongMethod)
		return
	}
	if info, err := fs.Stat(s.Page, path); err != nil || info.IsDir() {
		path = "index.html"
	}
	if strings.HasPrefix(path, "assets/") { // their names carry a hash
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		c.Header("Cache-Control", "no-cache")
	}
	for _, packed := range []struct{ coding, ending string }{{"br", ".br"}, {"gzip", ".gz"}} {
		if !strings.Contains(c.GetHeader("Accept-Encoding"), packed.coding) {
			continue
		}
		if _, err := fs.Stat(s.Page, path+packed.ending); err == nil {
			c.Header("Content-Encoding", packed.coding)
			c.Header("Content-Type", contentType(path))
			path += packed.ending
			break
		}
	}
	c.Header("Vary", "Accept-Encoding")
	if strings.HasSuffix(path, ".webmanifest") {
		c.Header("Content-Type", "application/manifest+json")
	}
	content, err := fs.ReadFile(s.Page, path)
	if err != nil {
		c.String(http.StatusNotFound, "The interface is not built; run make.")
		return
	}
	if path == "index.html" {
		if told := false; c.Request.Method == http.MethodGet {
			if content, told = s.withFirst(c, content); told {
				c.Header("Cache-Control", "no-store") // it is one person's now
			}
		}
	}
	http.ServeContent(c.Writer, c.Request, path, time.Time{}, bytes.NewReader(content))
}

func contentType(path string) string {
	switch {
	case strings.HasSuffix(path, ".js"):
		return "text/javascript; charset=utf-8"
	case strings.HasSuffix(path, ".css"):
		return "text/css; charset=utf-8"
	case strings.HasSuffix(path, ".svg"):
		return "image/svg+xml"
	}
	return "text/html; charset=utf-8"
}
