package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// The answer to a command says what it has made stale; where it was carried out
// before, that everything may be. What only reads makes nothing stale.
func TestAnswersSayWhatIsStale(t *testing.T) {
	s := serve(t)
	s.setUp()
	news, stop := s.app.Listen(store.Own(1))
	defer stop()
	s.letter(1, "Bram <bram@freight.example>", "Crates")
	<-news
	var list show.RowPage
	answer := s.call("GET", "/api/places/inbox", nil, &list)
	assert.Empty(t, answer.Header.Get("Ebbe-Stale"))
	require.Len(t, list.Rows, 1)
	row := list.Rows[0]

	done := map[string]any{"command": "done-with-it", "kind": "done", "on": []map[string]any{{"id": row.ID, "last": row.Last, "version": row.Version}}}
	answer = s.call("POST", "/api/decisions", done, nil)
	require.Equal(t, 200, answer.StatusCode)
	assert.Contains(t, answer.Header.Get("Ebbe-Stale"), "list")
	assert.Contains(t, answer.Header.Get("Ebbe-Stale"), "journal")
	told := <-news
	assert.Equal(t, "done-with-it", told.Command)
	answer = s.call("POST", "/api/decisions", done, nil)
	assert.Equal(t, "*", answer.Header.Get("Ebbe-Stale"), "it was carried out before, and the answer may be lost")

	// Decided on what stood before: refused, with the way on.
	done["command"], done["kind"] = "and-binned-too", "bin"
	answer = s.call("POST", "/api/decisions", done, nil)
	assert.Equal(t, 422, answer.StatusCode)
	assert.Empty(t, answer.Header.Get("Ebbe-Stale"))
}
