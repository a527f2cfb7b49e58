package api_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/smtp"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

type server struct {
	t      *testing.T
	url    string
	client *http.Client
	app    *app.App
	smtp   string
}

// serve runs an Ebbe that nobody owns yet, with its post office.
func serve(t *testing.T) *server {
	t.Helper()
	return serveAt(t, filepath.Join(t.TempDir(), "ebbe.db"))
}

// serveAt serves a database that may be there already.
func serveAt(t *testing.T, path string) *server {
	t.Helper()
	return serveBy(t, "sqlite3", path)
}

// serveBy serves it by another driver of SQLite.
func serveBy(t *testing.T, driver, path string) *server {
	t.Helper()
	s, err := store.OpenBy(driver, path)
	require.NoError(t, err)
	a := app.New(s, clockwork.NewRealClock(), slog.New(slog.DiscardHandler))
	mail, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	office := &postoffice.Office{App: a, Log: a.Log}
	office.Start(mail)
	a.Sender = post.Relay{Addr: mail.Addr().String(), Timeout: 5 * time.Second}
	page := fstest.MapFS{"index.html": {Data: []byte("<!doctype html><!--first-->")}, "assets/a.js": {Data: []byte("1")}}
	web := httptest.NewServer(api.New(api.Config{App: a, Page: page, Log: a.Log}))
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	t.Cleanup(func() {
		web.Close()
		_ = office.Stop()
		_ = s.Close()
	})
	return &server{t, web.URL, &http.Client{Jar: jar}, a, mail.Addr().String()}
}

// call sends JSON and reads the answer into out, unless that is nil.
func (s *server) call(method, path string, in, out any, fields ...string) *http.Response {
	s.t.Helper()
	body, err := json.Marshal(in)
	require.NoError(s.t, err)
	r, err := http.NewRequest(method, s.url+path, bytes.NewReader(body))
	require.NoError(s.t, err)
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(fields); i += 2 {
		if r.Header.Set(fields[i], fields[i+1]); fields[i] == "Host" {
			r.Host = fields[i+1]
		}
	}
	answer, err := s.client.Do(r)
	require.NoError(s.t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(s.t, err)
	if out != nil {
		require.NoError(s.t, json.Unmarshal(text, out), "%s", text)
	}
	return answer
}

const goodPassword = "ten characters"

func (s *server) setUp() {
	s.t.Helper()
	answer := s.call("POST", "/api/setup", map[string]string{"name": "Ines", "address": "ines@norrholm.example", "password": goodPassword, "zone": "Europe/Oslo"}, nil)
	require.Equal(s.t, http.StatusOK, answer.StatusCode)
}

// mail sends a letter in from any SMTP client.
func (s *server) mail(raw string, to ...string) error {
	return smtp.SendMail(s.smtp, nil, "bram@freight.example", to, []byte(raw))
}

func TestTheFirstRunMakesTheOwnerOnce(t *testing.T) {
	s := serve(t)
	var session api.SessionView
	s.call("GET", "/api/session", nil, &session)
	assert.Equal(t, "setup", session.State)
	short := s.call("POST", "/api/setup", map[string]string{"name": "I", "address": "i@n.example", "password": "short", "zone": ""}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, short.StatusCode)
	s.setUp()
	s.call("GET", "/api/session", nil, &session)
	assert.Equal(t, "signed-in", session.State)
	assert.Empty(t, session.People, "outside the demo nobody is listed")
	again := s.call("POST", "/api/setup", map[string]string{"name": "Eve", "address": "eve@n.example", "password": goodPassword, "zone": ""}, nil)
	assert.Equal(t, http.StatusConflict, again.StatusCode)
	demo := s.call("POST", "/api/demo/clock", map[string]string{"to": "hour"}, nil)
	assert.Equal(t, http.StatusNotFound, demo.StatusCode, "outside the demo its bar does not exist")
}

func TestSigningIn(t *testing.T) {
	s := serve(t)
	s.setUp()
	assert.Equal(t, http.StatusOK, s.call("DELETE", "/api/session", nil, nil).StatusCode)
	assert.Equal(t, http.StatusUnauthorized, s.call("GET", "/api/overview", nil, nil).StatusCode)
	enter := func(password string) *http.Response {
		return s.call("POST", "/api/session", map[string]string{"name": "Ines@norrholm.example", "password": password}, nil)
	}
	assert.Equal(t, http.StatusUnauthorized, enter("wrong").StatusCode)
	demo := s.call("POST", "/api/session", map[string]int{"person": 1}, nil)
	assert.Equal(t, http.StatusUnauthorized, demo.StatusCode, "one click is for the demo")
	answer := enter(goodPassword)
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	cookie := answer.Header.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Strict")
	assert.Equal(t, http.StatusOK, s.call("GET", "/api/overview", nil, nil).StatusCode)
	limited := false
	for range 8 {
		limited = limited || enter("wrong").StatusCode == http.StatusTooManyRequests
	}
	assert.True(t, limited, "tries are limited")
}

func TestOtherSitesAreTurnedAway(t *testing.T) {
	s := serve(t)
	s.setUp()
	undo := map[string]string{"command": rand.Text()}
	cross := s.call("POST", "/api/undo", undo, nil, "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, http.StatusForbidden, cross.StatusCode)
	origin := s.call("POST", "/api/undo", undo, nil, "Origin", "https://elsewhere.example")
	assert.Equal(t, http.StatusForbidden, origin.StatusCode)
	page := s.call("GET", "/inbox", nil, nil)
	policy := page.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self'")
	assert.NotContains(t, strings.Split(policy, "style-src")[0], "unsafe-inline")
	assert.Equal(t, "nosniff", page.Header.Get("X-Content-Type-Options"))
}

const evil = "From: Bram <bram@freight.example>\r\nTo: ines@norrholm.example\r\nSubject: Page\r\nMessage-ID: <evil@freight.example>\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\nMIME-Version: 1.0\r\n" +
	"Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/html\r\n\r\n<p>Hello<script>alert(1)</script></p>\r\n.a line that begins with a dot\r\n" +
	"--b\r\nContent-Type: text/html\r\nContent-Disposition: attachment; filename=\"../../run.html\"\r\n\r\n<script>alert(1)</script>\r\n--b--\r\n"

func TestALetterBySMTPIsServedSoThatNothingRuns(t *testing.T) {
	s := serve(t)
	s.setUp()
	news, stop := s.app.Listen(store.Own(1))
	defer stop()
	require.NoError(t, s.mail(evil, "ines@norrholm.example"))
	<-news
	var list show.RowPage
	s.call("GET", "/api/places/inbox", nil, &list)
	require.Len(t, list.Rows, 1)
	var c show.Conversation
	s.call("GET", "/api/conversations/1", nil, &c)
	letter := c.LetterList[0]

	get := func(path string) (string, http.Header) {
		answer, err := s.client.Get(s.url + path)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return string(text), answer.Header
	}
	page, head := get("/api/letters/1/page")
	assert.Contains(t, page, "Hello")
	assert.NotContains(t, page, "alert")
	assert.Contains(t, head.Get("Content-Security-Policy"), "sandbox")
	assert.NotContains(t, head.Get("Content-Security-Policy"), "allow-scripts")

	require.Len(t, letter.Parts, 1)
	_, head = get("/api/letters/1/parts/0")
	assert.Equal(t, "application/octet-stream", head.Get("Content-Type"))
	assert.Contains(t, head.Get("Content-Disposition"), "attachment")
	assert.NotContains(t, head.Get("Content-Disposition"), "/")

	raw, _ := get("/api/letters/1/original")
	assert.Equal(t, evil, raw, "byte for byte, dots unstuffed")

	for _, path := range []string{"/api/letters/9/page", "/api/letters/1/parts/7", "/api/letters/x/page", "/api/letters/1/parts/-1"} {
		answer, err := s.client.Get(s.url + path)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		assert.Equal(t, http.StatusNotFound, answer.StatusCode, path)
	}
}

func TestNobodySeesAnotherPersonsLetters(t *testing.T) {
	s := serve(t)
	s.setUp()
	other, err := s.app.Store.AddPerson(context.Background(), store.Person{Name: "Eve", SignIn: "eve", Zone: "UTC"}, []store.Account{{Address: "eve@norrholm.example"}}, time.Now())
	require.NoError(t, err)
	require.NoError(t, s.mail(strings.ReplaceAll(evil, "ines@", "eve@"), "eve@norrholm.example"))
	for _, path := range []string{"/api/conversations/1", "/api/letters/1", "/api/letters/1/page", "/api/letters/1/original", "/api/letters/1/parts/0"} {
		assert.Equal(t, http.StatusNotFound, s.call("GET", path, nil, nil).StatusCode, path)
	}
	decide := map[string]any{"command": rand.Text(), "kind": "bin", "on": []map[string]int{{"id": 1, "last": 1}}}
	assert.Equal(t, http.StatusUnprocessableEntity, s.call("POST", "/api/decisions", decide, nil).StatusCode)
	page, err := s.app.List(context.Background(), other, "inbox", false, 0, "")
	require.NoError(t, err)
	assert.Len(t, page.Rows, 1, "it was not touched")
	var found show.SearchPage
	s.call("GET", "/api/search?q=hello", nil, &found)
	assert.Empty(t, found.Rows)
}

func TestRefusalsSayWhatToDo(t *testing.T) {
	s := serve(t)
	s.setUp()
	require.NoError(t, s.mail(evil, "ines@norrholm.example"))
	on := []map[string]int{{"id": 1, "last": 1}}
	for name, body := range map[string]map[string]any{
		"no time":       {"kind": "later", "on": on},
		"unreadable":    {"kind": "later", "on": on, "when": "soonish"},
		"the past":      {"kind": "later", "on": on, "when": "2020-01-01"},
		"nothing named": {"kind": "done", "on": []int{}},
		"a long label":  {"kind": "file", "on": on, "labels": []string{strings.Repeat("x", 100)}},
	} {
		body["command"] = rand.Text()
		var trouble struct{ Detail string }
		answer := s.call("POST", "/api/decisions", body, &trouble)
		assert.Equal(t, http.StatusUnprocessableEntity, answer.StatusCode, name)
		assert.NotEmpty(t, trouble.Detail, name)
		assert.Contains(t, answer.Header.Get("Content-Type"), "application/problem+json")
	}
	refused := s.call("POST", "/api/letters", map[string]any{"command": rand.Text(), "writing": map[string]any{
		"kind": "new", "from": "somebody@else.example", "to": []string{"a@b.example"}, "subject": "x", "text": "y"}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, refused.StatusCode, "only from own addresses")
}

func TestChangesAreStreamed(t *testing.T) {
	s := serve(t)
	s.setUp()
	r, err := http.NewRequestWithContext(t.Context(), "GET", s.url+"/api/events", nil)
	require.NoError(t, err)
	answer, err := s.client.Do(r)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, "text/event-stream", answer.Header.Get("Content-Type"))
	buf := make([]byte, 4096)
	n, err := answer.Body.Read(buf)
	require.NoError(t, err)
	assert.Contains(t, string(buf[:n]), "event: ready")
	require.NoError(t, s.mail(evil, "ines@norrholm.example"))
	n, err = answer.Body.Read(buf)
	require.NoError(t, err)
	assert.Contains(t, string(buf[:n]), `"conversation"`)
}
