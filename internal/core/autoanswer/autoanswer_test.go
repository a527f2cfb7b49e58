package autoanswer_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/letter"
)

var now = time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)

func asked(header string) autoanswer.Asked {
	raw := fmt.Sprintf("From: Bram <bram@freight.example>\r\nTo: ines@norrholm.example\r\nSubject: Crates\r\nMessage-ID: <one@freight.example>\r\n%s\r\nHello.\r\n", header)
	return autoanswer.Asked{Letter: letter.Parse([]byte(raw)), Own: []string{"ines@norrholm.example"}, Now: now}
}

func TestWhoGetsAnAutomaticAnswer(t *testing.T) {
	for name, c := range map[string]struct {
		header string
		change func(*autoanswer.Asked)
		why    string
	}{
		"a person":             {"", nil, ""},
		"by a return path":     {"Return-Path: <bram@mail.freight.example>\r\n", nil, ""},
		"a list":               {"List-Id: <seeds.list.example>\r\n", nil, "machine"},
		"a machine":            {"Auto-Submitted: auto-generated\r\n", nil, "machine"},
		"another responder":    {"Auto-Submitted: auto-replied\r\n", nil, "machine"},
		"bulk":                 {"Precedence: bulk\r\n", nil, "machine"},
		"no return path":       {"Return-Path: <>\r\n", nil, "machine"},
		"a list's return path": {"Return-Path: <owner-seeds@list.example>\r\n", nil, "takes no answers"},
		"junk":                 {"", func(a *autoanswer.Asked) { a.Junk = true }, "junk"},
		"own":                  {"", func(a *autoanswer.Asked) { a.Own = append(a.Own, "bram@freight.example") }, "own"},
		"not to me":            {"", func(a *autoanswer.Asked) { a.Own = []string{"walks@norrholm.example"} }, "not addressed"},
		"had one":              {"", func(a *autoanswer.Asked) { a.Last = now.Add(-6 * 24 * time.Hour) }, "within the last week"},
		"had one long ago":     {"", func(a *autoanswer.Asked) { a.Last = now.Add(-autoanswer.Period) }, ""},
		"nobody":               {"", func(a *autoanswer.Asked) { a.Letter.From = letter.Address{} }, "nobody"},
	} {
		a := asked(c.header)
		if c.change != nil {
			c.change(&a)
		}
		got := autoanswer.Refuse(a)
		if c.why == "" {
			assert.Empty(t, got, name)
		} else {
			assert.Contains(t, got, c.why, name)
		}
	}
}

// Two responders that answer everything they may end after one letter each way
// at most: an answer is marked as one, and so gets none.
func TestResponsesAreNotAnswered(t *testing.T) {
	first := autoanswer.Make(asked("").Letter, letter.Address{Name: "Ines", Email: "ines@norrholm.example"}, "Later.", "a@norrholm.example", now)
	raw, err := first.Bytes()
	require.NoError(t, err)
	l := letter.Parse(raw)
	assert.Equal(t, letter.AutoReply, l.Automatic)
	assert.Equal(t, "Auto: Crates", l.Subject)
	assert.Equal(t, []string{"one@freight.example"}, l.InReplyTo)
	assert.NotEmpty(t, autoanswer.Refuse(autoanswer.Asked{Letter: l, Own: []string{"bram@freight.example"}, Now: now}))
}

func TestPutOffSaysTheDay(t *testing.T) {
	text := autoanswer.PutOff("Bram", "Crates", now, "Ines")
	assert.Equal(t, "Dear Bram,\n\nyour letter “Crates” has reached me. I can't see to it at once; you can expect my answer on Tuesday 24 November.\n\nInes\n", text)
	assert.Contains(t, autoanswer.PutOff("", "", now, "Ines"), "Hello,\n\nyour letter has reached me.")
}
