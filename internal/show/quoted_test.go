package show_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/show"
)

// A letter that says no date, or none that can be read, is quoted with that of its coming,
// and a day that it speaks of is counted from there.
func TestALetterWithoutADate(t *testing.T) {
	d := begin(t)
	for _, date := range []string{"", "Date: when it suited us\r\n"} {
		l := d.brings("From: Bram <bram@freight.example>\r\nTo: ines@norrholm.example\r\nSubject: Crates\r\n" + date + "\r\nCould we meet on Friday at 10:00?\r\n")
		for kind, stamp := range map[string]string{"answer": "On Tue 24 Nov 2026, 08:20", "hand-on": "Tue 24 Nov 2026, 08:20"} {
			quoted, err := d.QuoteOf(d.Context(), d.who, l.ID, kind)
			require.NoError(t, err)
			assert.Contains(t, quoted, stamp)
		}
		offered, err := d.Suggestions(d.Context(), d.who, show.Writing{Kind: "answer", Letter: l.ID})
		require.NoError(t, err)
		require.NotEmpty(t, offered)
		assert.Equal(t, "Friday 27 November at 10:00 suits me.", offered[0].Text)
	}
}
