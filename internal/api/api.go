// Package api serves Ebbe over HTTP: typed operations for the page, letters'
// own pages and attachments, and a stream of changes. Handlers translate
// between HTTP and the use cases, nothing more.
package api

import (
	"bytes"
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// Demo is what the demo bar can do; nil outside the demo, where its
// operations don't exist.
type Demo interface {
	MoveClock(ctx context.Context, to string) error
	SendLetter(ctx context.Context, owner int64) (string, error)
}

// Config is what the API is made of.
type Config struct {
	App  *app.App
	Demo Demo
	// Page is the built interface.
	Page fs.FS
	Log  *slog.Logger
}

type server struct {
	Config
	sessions *scs.SessionManager
	attempts *attempts
}

// New makes the handler of everything that Ebbe serves.
func New(c Config) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	s := &server{Config: c, sessions: newSessions(c.App.Store), attempts: newAttempts()}
	router := gin.New()
	router.Use(gin.CustomRecoveryWithWriter(nil, s.recover), s.headers, s.session)
	s.describe(humagin.New(router, s.config()))
	s.raw(router)
	router.NoRoute(s.page)
	// Cross-site requests are turned away by what the browser says of them
	// (Sec-Fetch-Site, Origin); cookies are SameSite besides.
	return http.NewCrossOriginProtection().Handler(router)
}

// Describe gives the API's description (OpenAPI 3.1) as JSON.
func Describe() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &server{Config: Config{Demo: noDemo{}}}
	a := humagin.New(gin.New(), s.config())
	s.describe(a)
	return a.OpenAPI().MarshalJSON()
}

type noDemo struct{}

func (noDemo) MoveClock(context.Context, string) error           { return nil }
func (noDemo) SendLetter(context.Context, int64) (string, error) { return "", nil }

func (s *server) config() huma.Config {
	huma.DefaultArrayNullable = false // lists that are empty are written as such
	c := huma.DefaultConfig("Ebbe", "1")
	c.DocsPath, c.OpenAPIPath, c.SchemasPath = "", "", ""
	c.CreateHooks = nil // no $schema links in answers
	return c
}

func (s *server) recover(c *gin.Context, what any) {
	if what == http.ErrAbortHandler { //nolint:errorlint // it is thrown, not returned
		panic(what) // a download that is to be cut off
	}
	s.Log.Error("a request failed", "path", c.Request.URL.Path, "reason", what)
	c.AbortWithStatus(http.StatusInternalServerError)
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
	if strings.HasPrefix(path, "api/") || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		c.Status(http.StatusNotFound)
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
	if strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
		if _, err := fs.Stat(s.Page, path+".gz"); err == nil {
			c.Header("Content-Encoding", "gzip")
			c.Header("Content-Type", contentType(path))
			path += ".gz"
		}
	}
	c.Header("Vary", "Accept-Encoding")
	content, err := fs.ReadFile(s.Page, path)
	if err != nil {
		c.String(http.StatusNotFound, "The interface is not built; run make.")
		return
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

// failure turns an error of a use case into an answer (RFC 9457).
func (s *server) failure(err error) error {
	var p *app.Problem
	switch {
	case err == nil:
		return nil
	case errors.As(err, &p):
		return huma.Error422UnprocessableEntity(p.Reason)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("That is no longer there.")
	case errors.Is(err, context.Canceled):
		return huma.Error503ServiceUnavailable("The request was cut off.")
	}
	s.Log.Error("a request failed", "reason", err)
	return huma.Error500InternalServerError("Something went wrong in Ebbe; nothing was changed. It is written in the server's log.")
}
