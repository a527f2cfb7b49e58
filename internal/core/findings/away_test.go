package findings

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/when"
)

func TestAway(t *testing.T) {
	now := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
	c := when.Standard(time.UTC)
	for text, want := range map[string]string{
		"I am in the field without a network until Thursday 26 November. For urgent matters ask Lise.": "2026-11-26",
		"I am away until 1 December and read no mail.":                                                 "2026-12-01",
		"Out of office till 2026-12-04.":                                                               "2026-12-04",
		"I am back on Monday.":                                                                         "2026-11-30",
		"Returning on Wed, 2 December 2026; thank you":                                                 "2026-12-02",
		"On leave through Friday\n\nRegards":                                                           "2026-11-27",
		"I will answer until I can. Back on 3 December!":                                               "2026-12-03",
		"I am away, no date.":                                                                          "",
		"Away until further notice.":                                                                   "",
		"":                                                                                             "",
	} {
		got := ""
		if r, ok := Away(text, now, c); ok {
			got = r.UTC.Format("2006-01-02")
		}
		assert.Equal(t, want, got, "%q", text)
	}
}
