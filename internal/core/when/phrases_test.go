package when

import (
	"bufio"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type reading struct{ phrase, want string }

// table reads testdata/phrases.txt, which says how a line is written.
func table(t testing.TB) (out []reading) {
	t.Helper()
	f, err := os.Open("testdata/phrases.txt")
	require.NoError(t, err)
	defer f.Close()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		line := lines.Text()
		if strings.TrimSpace(line) == "" || strings.HasPrefix(line, "#") {
			continue
		}
		phrase, want, ok := strings.Cut(line, " | ")
		require.True(t, ok, line)
		out = append(out, reading{phrase, want})
	}
	return out
}

func TestPhrases(t *testing.T) {
	now, c := tuesday(t)
	cases := table(t)
	assert.GreaterOrEqual(t, len(cases), 300)
	for _, k := range cases {
		phrase, want := k.phrase, k.want
		r, err := Read(phrase, now, c)
		got := "refused"
		switch {
		case err != nil:
			var refusal *Error
			assert.ErrorAs(t, err, &refusal, phrase)
			assert.NotEmpty(t, refusal.Reason)
		case r.Precision == Open:
			got = "someday"
		default:
			got = r.UTC.In(c.Zone).Format("2006-01-02 15:04")
			if r.Precision == ToDay {
				got += " ~"
			}
		}
		assert.Equal(t, want, got, phrase)
	}
}
