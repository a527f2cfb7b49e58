package api_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every instant that a page reads is written in one form, in UTC.
func TestInstantsHaveOneForm(t *testing.T) {
	s := serve(t)
	s.setUp()
	require.NoError(t, s.mail("From: Rolf <rolf@post.example>\r\nTo: ines@norrholm.example\r\nSubject: Can you come on friday at 10?\r\n\r\nHello.\r\n", "ines@norrholm.example"))
	s.do("/api/appointments", map[string]any{"title": "Walk", "when": "tomorrow 10 to 11"})
	s.do("/api/follow-ups", map[string]any{"title": "Print the list", "due": "tomorrow"})
	instant := regexp.MustCompile(`"\d{4}-\d\d-\d\dT[^"]*"`)
	seen := 0
	for _, path := range lists(t) {
		_, body, _ := s.send("GET", path, "")
		for _, at := range instant.FindAllString(body, -1) {
			seen++
			assert.True(t, strings.HasSuffix(at, `Z"`), "%s: %s", path, at)
		}
	}
	assert.Greater(t, seen, 20)
}
