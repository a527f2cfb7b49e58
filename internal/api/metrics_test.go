package api_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is measured is told to this machine only, names nobody, and counts what is done.
func TestMetrics(t *testing.T) {
	s := serve(t)
	s.setUp()
	get := func(header ...string) (int, string) {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.url+"/metrics", http.NoBody)
		require.NoError(t, err)
		for i := 0; i+1 < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		answer, err := s.client.Do(r)
		require.NoError(t, err)
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		return answer.StatusCode, string(text)
	}
	status, text := get()
	require.Equal(t, http.StatusOK, status)
	for _, line := range []string{`ebbe_letters_total{direction="in"}`, `ebbe_waiting{what="sends"} 0`, "ebbe_due_late_seconds", "ebbe_request_seconds_bucket"} {
		assert.Contains(t, text, line)
	}
	assert.False(t, strings.Contains(text, "@"), "no address")
	status, _ = get("X-Forwarded-For", "192.0.2.7")
	assert.Equal(t, http.StatusNotFound, status, "by way of a proxy")
	status, _ = get("X-Forwarded-For", "192.0.2.7", "Authorization", "Bearer wrong")
	assert.Equal(t, http.StatusNotFound, status)
	status, text, _ = s.send(http.MethodGet, "/healthz", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "ok\n", text)
}
