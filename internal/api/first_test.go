package api_test

import (
	"compress/gzip"
	"encoding/json"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var firstAnswers = regexp.MustCompile(`(?s)<script type="application/json" id="first">(.*?)</script>`)

// Whoever is signed in gets the page with what it asks for first, word for word as it
// would be answered; nobody else is told anything, and nothing keeps it.
func TestThePageComesWithItsFirstAnswers(t *testing.T) {
	s := serve(t)
	status, page, header := s.send("GET", "/inbox", "")
	require.Equal(t, http.StatusOK, status)
	assert.NotContains(t, page, `id="first"`, "nobody is signed in")
	assert.Equal(t, "no-cache", header.Get("Cache-Control"))

	s.setUp()
	hostile := `</script><script>alert("1")</script> & <!--`
	require.NoError(t, s.mail("From: Bram <bram@freight.example>\r\nTo: ines@norrholm.example\r\nSubject: "+hostile+"\r\nMessage-ID: <a@freight.example>\r\n\r\nCan you?\r\n", "ines@norrholm.example"))
	status, page, header = s.send("GET", "/inbox", "")
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "no-store", header.Get("Cache-Control"))
	assert.Equal(t, 1, strings.Count(page, "<script"), "a letter ends no element of the page")
	found := firstAnswers.FindStringSubmatch(page)
	require.Len(t, found, 2)
	var answers map[string]json.RawMessage
	require.NoError(t, json.Unmarshal([]byte(found[1]), &answers))
	require.Contains(t, answers, "/api/session")
	require.Contains(t, answers, "/api/conversations/1", "with the letter that is opened")
	passing := regexp.MustCompile(`"now":"[^"]*"|"at":"[^"]*","count":[\d.e-]*`) // the clock goes on
	for path, along := range answers {
		status, asked, _ := s.send("GET", path, "")
		require.Equal(t, http.StatusOK, status, path)
		assert.JSONEq(t, passing.ReplaceAllString(asked, `"x":1`), passing.ReplaceAllString(string(along), `"x":1`), path)
	}
	var list struct{ Rows []struct{ Title string } }
	require.NoError(t, json.Unmarshal(answers["/api/places/inbox?cursor=&oldest=false"], &list))
	require.Len(t, list.Rows, 1)
	assert.Equal(t, hostile, list.Rows[0].Title)
}

// Long answers are packed for whoever takes that; short ones, and what flows, are not.
func TestLongAnswersArePacked(t *testing.T) {
	s := serve(t)
	s.setUp()
	ask := func(path string) *http.Response {
		r, err := http.NewRequest("GET", s.url+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "gzip")
		answer, err := s.client.Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { answer.Body.Close() })
		return answer
	}
	long := ask("/api/phrases/ready")
	require.Equal(t, "gzip", long.Header.Get("Content-Encoding"))
	text, err := gzip.NewReader(long.Body)
	require.NoError(t, err)
	whole, err := io.ReadAll(text)
	require.NoError(t, err)
	assert.True(t, json.Valid(whole))
	assert.Empty(t, ask("/api/session").Header.Get("Content-Encoding"))

	events := ask("/api/events")
	assert.Empty(t, events.Header.Get("Content-Encoding"))
	began := make(chan string)
	go func() {
		some := make([]byte, 20)
		n, _ := events.Body.Read(some)
		began <- string(some[:n])
	}()
	select {
	case first := <-began:
		assert.Contains(t, first, "event")
	case <-time.After(20 * time.Second):
		t.Fatal("an event is kept back")
	}
}
