package api_test

import (
	"encoding/json"
	"net/http"
	"net/http/cookiejar"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
)

// operation is one of the API's description.
type operation struct {
	id, method, path string
	takes            bool // a JSON body
}

var inPath = regexp.MustCompile(`\{(\w+)\}`)

// at is the path with an id of nobody's in it.
func (o operation) at(id string) string { return inPath.ReplaceAllString(o.path, id) }

// operations are those of the description, but for those that anybody may call.
func operations(t *testing.T) (out []operation) {
	t.Helper()
	text, err := api.Describe()
	require.NoError(t, err)
	var described struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			RequestBody *struct {
				Content map[string]any `json:"content"`
			} `json:"requestBody"`
		} `json:"paths"`
	}
	require.NoError(t, json.Unmarshal(text, &described))
	open := []string{"session", "sign-in", "sign-out", "set-up", "calendar", "events", "demo-clock", "demo-letter", "demo-phone", "demo-on-phone"}
	for path, methods := range described.Paths {
		for method, o := range methods {
			if slices.Contains(open, o.OperationID) {
				continue
			}
			one := operation{o.OperationID, strings.ToUpper(method), path, false}
			if o.RequestBody != nil {
				_, one.takes = o.RequestBody.Content["application/json"]
			}
			out = append(out, one)
		}
	}
	require.Greater(t, len(out), 80)
	return out
}

// problem reads what a refusal says.
func problem(t *testing.T, text string) (p api.ProblemView) {
	t.Helper()
	require.NoError(t, json.Unmarshal([]byte(text), &p), text)
	return p
}

// Whoever is not signed in reads and does nothing, whatever is asked.
func TestNothingIsDoneSignedOut(t *testing.T) {
	s := serve(t)
	s.setUp()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	s.client = &http.Client{Jar: jar}
	for _, o := range operations(t) {
		status, text, _ := s.send(o.method, o.at("1"), "{}")
		// What can't be understood may be refused first; nothing else may come.
		if status == http.StatusUnprocessableEntity || status == http.StatusBadRequest {
			assert.Equal(t, "invalid", problem(t, text).Kind, o.id)
			continue
		}
		assert.Equal(t, http.StatusUnauthorized, status, "%s: %s", o.id, text)
		assert.Equal(t, "signed-out", problem(t, text).Kind, o.id)
	}
}

// A body that is none of the operation's is refused as invalid, and says so.
func TestWrongBodiesAreRefused(t *testing.T) {
	s := serve(t)
	s.setUp()
	tried := 0
	for _, o := range operations(t) {
		if !o.takes {
			continue
		}
		for _, body := range []string{`{"nonsense": true}`, `[]`, `{`, `{"command": 7}`} {
			status, text, _ := s.send(o.method, o.at("1"), body)
			assert.Contains(t, []int{http.StatusUnprocessableEntity, http.StatusBadRequest}, status, "%s %s: %s", o.id, body, text)
			assert.Equal(t, "invalid", problem(t, text).Kind, "%s %s", o.id, body)
		}
		tried++
	}
	assert.Greater(t, tried, 50)
}

// What is not there, or somebody else's, is neither read nor changed, and never
// breaks anything.
func TestWhatIsNotThereIsRefused(t *testing.T) {
	s := serve(t)
	s.setUp()
	tried := 0
	for _, o := range operations(t) {
		if !strings.Contains(o.path, "{") || strings.Contains(o.path, "{place}") || slices.Contains([]string{"save-draft", "drop-draft", "files", "begin-file"}, o.id) { // a draft may not be known yet
			continue
		}
		for _, id := range []string{"987654321", "0", "-1", "x"} {
			status, text, _ := s.send(o.method, o.at(id), `{"command": "a-command-`+id+`"}`)
			if status < 400 && id == "0" && o.id == "propose-follow-up" {
				continue // 0 is none
			}
			assert.True(t, status >= 400 && status < 500, "%s of %s: %d %s", o.id, id, status, text)
			assert.NotEmpty(t, problem(t, text).Kind, o.id)
		}
		tried++
	}
	assert.Greater(t, tried, 25)
}
