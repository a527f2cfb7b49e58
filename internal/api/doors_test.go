package api_test

import (
	"bufio"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/store"
)

func TestEightAtOnceMakeOneOwner(t *testing.T) {
	s := serve(t)
	var made sync.WaitGroup
	codes := make(chan int, 8)
	for i := range 8 {
		made.Go(func() {
			body := fmt.Sprintf(`{"name":"N%d","address":"n%d@norrholm.example","password":"%s","zone":"UTC"}`, i, i, goodPassword)
			answer, err := http.Post(s.url+"/api/setup", "application/json", strings.NewReader(body))
			if assert.NoError(t, err) {
				_ = answer.Body.Close()
				codes <- answer.StatusCode
			}
		})
	}
	made.Wait()
	close(codes)
	ok := 0
	for code := range codes {
		if code == http.StatusOK {
			ok++
			continue
		}
		assert.Equal(t, http.StatusConflict, code)
	}
	assert.Equal(t, 1, ok)
	people, err := s.app.Store.People(t.Context())
	require.NoError(t, err)
	assert.Len(t, people, 1)
}

// Whatever is refused is refused in one form, with its kind.
func TestAllRefusalsHaveOneForm(t *testing.T) {
	s := serve(t)
	s.setUp()
	stranger := *s
	stranger.client = &http.Client{}
	cases := []struct {
		who          *server
		method, path string
		body         any
		fields       []string
		status       int
		kind         string
	}{
		{s, "GET", "/api/nowhere", nil, nil, 404, "not-found"},
		{s, "DELETE", "/api/overview", nil, nil, 405, "wrong-method"},
		{s, "POST", "/inbox", nil, nil, 405, "wrong-method"},
		{s, "GET", "/api/letters/x/page", nil, nil, 404, "not-found"},
		{s, "GET", "/api/letters/7/original", nil, nil, 404, "not-found"},
		{s, "GET", "/api/export?format=scroll", nil, nil, 400, "invalid"},
		{s, "GET", "/api/tasks/file?format=x", nil, nil, 400, "invalid"},
		{s, "GET", "/feed/short.ics", nil, nil, 404, "not-found"},
		{s, "PUT", "/api/imports/9/files/1?name=x", "x", nil, 404, "not-found"},
		{s, "POST", "/api/undo", map[string]int{"entry": -1}, nil, 422, "invalid"},
		{s, "POST", "/api/undo", map[string]string{"command": rand.Text()}, nil, 422, "refused"},
		{s, "POST", "/api/undo", nil, []string{"Sec-Fetch-Site", "cross-site"}, 403, "cross-site"},
		{s, "GET", "/api/overview", nil, []string{"Host", "evil.example"}, 421, "wrong-host"},
		{s, "GET", "/", nil, []string{"Host", "evil.example:8600"}, 421, "wrong-host"},
		{s, "GET", "/api/overview", nil, []string{"Ebbe-Person", "99"}, 409, "somebody-else"},
		{s, "GET", "/api/overview", nil, []string{"Ebbe-Person", "1", "Ebbe-Inbox", "99"}, 409, "somebody-else"},
		{&stranger, "GET", "/api/overview", nil, nil, 401, "signed-out"},
		{&stranger, "GET", "/api/archive", nil, nil, 401, "signed-out"},
		{&stranger, "GET", "/api/events", nil, nil, 401, "signed-out"},
		{&stranger, "GET", "/api/letters/1/page", nil, nil, 401, "signed-out"},
	}
	for _, c := range cases {
		name := c.method + " " + c.path
		var p api.ProblemView
		answer := c.who.call(c.method, c.path, c.body, &p, c.fields...)
		assert.Equal(t, c.status, answer.StatusCode, name)
		assert.Equal(t, "application/problem+json", answer.Header.Get("Content-Type"), name)
		assert.Equal(t, c.kind, p.Kind, name)
		assert.Equal(t, c.status, p.Status, name)
		assert.NotEmpty(t, p.Detail, name)
	}
}

func TestTheServersOwnNamesAreKnown(t *testing.T) {
	s := serve(t)
	for _, host := range []string{"localhost", "LOCALHOST:8600", "127.0.0.1:1", "[::1]:8600", "192.168.1.20"} {
		assert.Equal(t, http.StatusOK, s.call("GET", "/api/session", nil, nil, "Host", host).StatusCode, host)
	}
}

// Somebody who tries passwords keeps the owner out of no device that she has
// used before, and gains nothing by other spellings of the name.
func TestTriesOfOthersKeepNobodyOut(t *testing.T) {
	s := serve(t)
	s.setUp()
	enter := func(c *http.Client, name, password string) int {
		body, err := json.Marshal(map[string]string{"name": name, "password": password})
		require.NoError(t, err)
		answer, err := c.Post(s.url+"/api/session", "application/json", strings.NewReader(string(body)))
		require.NoError(t, err)
		defer answer.Body.Close()
		_, err = io.Copy(io.Discard, answer.Body)
		require.NoError(t, err)
		return answer.StatusCode
	}
	stranger := &http.Client{}
	tried := 0
	for _, name := range []string{"ines@norrholm.example", "INES@norrholm.example", "ineſ@norrholm.example", " ines@norrholm.example", "ｉnes@norrholm.example"} {
		for range 4 {
			if enter(stranger, name, "wrong") == http.StatusUnauthorized {
				tried++
			}
		}
	}
	assert.LessOrEqual(t, tried, 6, "one name has one limit, however it is written")
	assert.Equal(t, http.StatusTooManyRequests, enter(stranger, "ines@norrholm.example", goodPassword), "a stranger has to wait")
	require.Equal(t, http.StatusOK, s.call("DELETE", "/api/session", nil, nil).StatusCode)
	assert.Equal(t, http.StatusOK, enter(s.client, "ineS@norrholm.example", goodPassword), "she does not")
}

func TestCookiesAreSecureBehindTLS(t *testing.T) {
	s := serve(t)
	s.setUp()
	body := map[string]string{"name": "ines@norrholm.example", "password": goodPassword}
	plain := s.call("POST", "/api/session", body, nil)
	assert.NotContains(t, strings.Join(plain.Header.Values("Set-Cookie"), "\n"), "Secure")
	proxied := s.call("POST", "/api/session", body, nil, "X-Forwarded-Proto", "https")
	for _, c := range proxied.Header.Values("Set-Cookie") {
		assert.Contains(t, c, "Secure")
	}
}

func TestStreamsEndWithTheSession(t *testing.T) {
	s := serve(t)
	s.setUp()
	answer, err := s.client.Get(s.url + "/api/events")
	require.NoError(t, err)
	defer answer.Body.Close()
	lines := bufio.NewScanner(answer.Body)
	require.True(t, lines.Scan())
	assert.Equal(t, "event: ready", lines.Text())
	require.Equal(t, http.StatusOK, s.call("DELETE", "/api/session", nil, nil).StatusCode)
	var rest []string
	for lines.Scan() {
		rest = append(rest, lines.Text())
	}
	assert.Contains(t, rest, "event: signed-out")
}

// Clients that ask for everything and read nothing hold up nobody.
func TestWhoReadsNothingStallsNobody(t *testing.T) {
	s := serve(t)
	s.setUp()
	big := strings.Repeat(rand.Text()+"\r\n", 4000)
	for i := range 40 {
		require.NoError(t, s.mail(fmt.Sprintf("From: a@x.example\r\nSubject: %d\r\nMessage-ID: <%d@x.example>\r\n\r\n%s%d\r\n", i, i, big, i), "ines@norrholm.example"))
	}
	cookies := s.client.Jar.(*cookiejar.Jar)
	request, err := http.NewRequest("GET", s.url+"/api/archive", nil)
	require.NoError(t, err)
	for _, c := range cookies.Cookies(request.URL) {
		request.AddCookie(c)
	}
	for range 6 {
		conn, err := net.Dial("tcp", request.URL.Host)
		require.NoError(t, err)
		defer conn.Close()
		require.NoError(t, request.Write(conn))
		_, err = bufio.NewReaderSize(conn, 16).ReadString('\n') // it has begun, and is left at that
		require.NoError(t, err)
	}
	ctx, stop := context.WithTimeout(t.Context(), time.Minute)
	defer stop()
	require.NoError(t, s.app.Store.Read(ctx, store.Own(1), func(*store.Tx) error { return nil }))
	db, err := sql.Open("sqlite3", "file:"+s.app.Store.Path())
	require.NoError(t, err)
	defer db.Close()
	var busy, inLog, moved int
	require.NoError(t, db.QueryRow("PRAGMA wal_checkpoint(TRUNCATE)").Scan(&busy, &inLog, &moved))
	assert.Zero(t, busy, "nobody pins the log of the database")
}

// What can't be read to its end never looks whole.
func TestADownloadThatFailsIsNoGoodAnswer(t *testing.T) {
	s := serve(t)
	s.setUp()
	require.NoError(t, s.mail(evil, "ines@norrholm.example"))
	db, err := sql.Open("sqlite3", "file:"+s.app.Store.Path())
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("UPDATE blobs SET packed = x'00'")
	require.NoError(t, err)
	for _, path := range []string{"/api/export?format=mbox", "/api/export?format=eml", "/api/export?format=maildir"} {
		var p api.ProblemView
		answer := s.call("GET", path, nil, &p)
		assert.Equal(t, http.StatusInternalServerError, answer.StatusCode, path)
		assert.Equal(t, "broken", p.Kind, path)
	}
	answer := s.call("GET", "/api/archive", nil, nil)
	assert.Equal(t, http.StatusOK, answer.StatusCode, "the archive takes the rest, and names it")
	assert.NotEmpty(t, answer.Header.Get("Content-Length"))
}
