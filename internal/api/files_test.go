package api_test

import (
	"archive/zip"
	"bytes"
	"crypto/rand"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
)

// send makes a request that is not JSON.
func (s *server) send(method, path, body string) (status int, text string, head http.Header) {
	s.t.Helper()
	r, err := http.NewRequest(method, s.url+path, strings.NewReader(body))
	require.NoError(s.t, err)
	answer, err := s.client.Do(r)
	require.NoError(s.t, err)
	defer answer.Body.Close()
	read, err := io.ReadAll(answer.Body)
	require.NoError(s.t, err)
	return answer.StatusCode, string(read), answer.Header
}

// upload imports one file and waits until it is taken in.
func (s *server) upload(name, content string) app.ImportView {
	s.t.Helper()
	var im app.ImportView
	s.call("POST", "/api/imports", map[string]any{"command": rand.Text(), "name": name, "inboxDays": 36500}, &im)
	status, text, _ := s.send("PUT", fmt.Sprintf("/api/imports/%d/files/0?name=%s", im.ID, url.QueryEscape(name)), content)
	require.Equal(s.t, http.StatusNoContent, status, text)
	s.call("POST", fmt.Sprintf("/api/imports/%d/start", im.ID), nil, &im)
	s.app.WaitForImports()
	var list []app.ImportView
	s.call("GET", "/api/imports", nil, &list)
	require.NotEmpty(s.t, list)
	return list[0]
}

const box = "From a@x.example Mon Nov 23 08:00:00 2026\nFrom: Ada <a@x.example>\nSubject: First\nMessage-ID: <1@x.example>\n\n>From the start.\n\n" +
	"From b@x.example Mon Nov 23 09:00:00 2026\nFrom: Bo <b@x.example>\nSubject: Second\nMessage-ID: <2@x.example>\n\nHi.\n\n"

func zipped(t *testing.T, text string) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader([]byte(text)), int64(len(text)))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		content, err := io.ReadAll(r)
		require.NoError(t, err)
		out[f.Name] = string(content)
	}
	return out
}

func TestFilesGoInAndOutByHTTP(t *testing.T) {
	s := serve(t)
	s.setUp()
	im := s.upload("letters.mbox", box)
	assert.Equal(t, "done", im.State)
	assert.Equal(t, 2, im.New)
	assert.Equal(t, 2, s.upload("again.mbox", box).Known)

	_, text, head := s.send("GET", "/api/export?format=mbox", "")
	assert.Equal(t, box, text, "out as it came in")
	assert.Contains(t, head.Get("Content-Disposition"), "Ebbe letters.mbox")
	_, text, _ = s.send("GET", "/api/export?format=mbox&search=hi", "")
	assert.Equal(t, box[strings.Index(box, "From b@"):], text)
	for _, none := range []string{"search=nothinglikethis", "label=none"} {
		_, text, _ = s.send("GET", "/api/export?format=mbox&"+none, "")
		assert.Empty(t, text, "%s is not everything", none)
	}
	_, text, _ = s.send("GET", "/api/export?format=eml&conversations=1", "")
	assert.Len(t, zipped(t, text), 1)
	_, text, _ = s.send("GET", "/api/export?format=maildir", "")
	for name, letter := range zipped(t, text) {
		assert.Regexp(t, `^cur/|^new/|^tmp/`, name)
		assert.NotContains(t, letter, ">From", "the quoting belongs to the mbox")
	}
	_, text, _ = s.send("GET", "/api/archive", "")
	assert.Contains(t, zipped(t, text), "archive.json")
}

func TestBadUploadsAndDownloadsAreRefused(t *testing.T) {
	s := serve(t)
	for _, path := range []string{"/api/export?format=mbox", "/api/archive"} {
		status, _, _ := s.send("GET", path, "")
		assert.Equal(t, http.StatusUnauthorized, status, "only for who is signed in")
	}
	s.setUp()
	for path, want := range map[string]int{
		"/api/imports/9/files/0?name=x": http.StatusNotFound,
		"/api/imports/x/files/0?name=x": http.StatusNotFound,
		"/api/imports/9/files/-1":       http.StatusNotFound,
	} {
		status, _, _ := s.send("PUT", path, box)
		assert.Equal(t, want, status, path)
	}
	for path, want := range map[string]int{"/api/export?format=scroll": http.StatusBadRequest, "/api/export?format=mbox&conversations=1,x": http.StatusBadRequest} {
		status, _, _ := s.send("GET", path, "")
		assert.Equal(t, want, status, path)
	}
	im := s.upload("letters.zip", "PK\x03\x04 not really")
	status, why, _ := s.send("PUT", fmt.Sprintf("/api/imports/%d/files/1?name=late", im.ID), box)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, why, "begun already")
	assert.NotEqual(t, "running", im.State)
	assert.Zero(t, im.New)
	assert.NotEmpty(t, im.Troubles, "it says which file could not be read")
}
