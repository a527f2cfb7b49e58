package api

import (
	"encoding/json"
	"io/fs"
	"log/slog"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// Every route is in the API's description, and everything described is a route.
func TestTheDescriptionIsComplete(t *testing.T) {
	s, err := store.Open(filepath.Join(t.TempDir(), "ebbe.db"))
	require.NoError(t, err)
	defer s.Close()
	log := slog.New(slog.DiscardHandler)
	var page fs.FS = fstest.MapFS{}
	_, router := newServer(Config{App: app.New(s, clockwork.NewRealClock(), log), Demo: noDemo{}, Page: page, Log: log})
	text, err := Describe()
	require.NoError(t, err)
	var described struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			Responses   map[string]struct {
				Content map[string]any `json:"content"`
			} `json:"responses"`
		} `json:"paths"`
	}
	require.NoError(t, json.Unmarshal(text, &described))

	param := regexp.MustCompile(`:(\w+)`)
	routed := map[string]bool{}
	for _, r := range router.Routes() {
		path := param.ReplaceAllString(r.Path, "{$1}")
		routed[strings.ToLower(r.Method)+" "+path] = true
		op, ok := described.Paths[path][strings.ToLower(r.Method)]
		assert.True(t, ok, "%s %s is not described", r.Method, path)
		assert.NotEmpty(t, op.OperationID, path)
		assert.Contains(t, op.Responses["default"].Content, "application/problem+json", "%s %s", r.Method, path)
	}
	for path, methods := range described.Paths {
		for method := range methods {
			assert.True(t, routed[method+" "+path], "%s %s is described, but is none", method, path)
		}
	}
}
