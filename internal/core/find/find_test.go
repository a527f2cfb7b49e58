package find_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/find"
	"ebbe.example/ebbe/internal/core/when"
)

func TestParse(t *testing.T) {
	c := when.Standard(time.UTC)
	day := func(y int, m time.Month, d int) time.Time { return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }
	for typed, want := range map[string]find.Query{
		"":                                {},
		`x "east gate" `:                  {Words: []string{"x", "east gate"}},
		"crate sizes":                     {Words: []string{"crate", "sizes"}, Open: true},
		`"crate sizes" now `:              {Words: []string{"crate sizes", "now"}},
		"from:bram to:ines x":             {From: []string{"bram"}, To: []string{"ines"}, Words: []string{"x"}, Open: true},
		"FROM: to:":                       {}, // still being typed
		"subject:loan -orchid":            {Subject: []string{"loan"}, Not: []string{"orchid"}},
		`label:"to read" mark:starred`:    {Labels: []string{"to read"}, Starred: true},
		"mark:flagged with:file":          {Flagged: true, Files: true},
		"mark:st":                         {}, // still being typed
		"after:2026-11 before:2027":       {After: day(2026, 12, 1), Before: day(2027, 1, 1)},
		"before:2026 before:2027-03":      {Before: day(2026, 1, 1)},
		"after:2026 after:2025-03":        {After: day(2027, 1, 1)},
		"before:2026-11 before:soon":      {Before: day(2026, 11, 1), Problems: []string{"“soon” is not a day. Write it as 2026-11-24."}},
		"-":                               {},
		"http://x.example 14:30":          {Words: []string{"http://x.example", "14:30"}, Open: true},
		"mark:purple":                     {Problems: []string{"“purple” is not known there. Try mark:starred or mark:flagged."}},
		"form:bram":                       {Words: []string{"form:bram"}, Open: true, Problems: []string{"There is no field “form:”. There are from:, to:, subject:, before:, after:, label:, mark:, with:."}},
		"before:soon":                     {Problems: []string{"“soon” is not a day. Write it as 2026-11-24."}},
		"with:letters of a kind -\"a b\"": {Words: []string{"of", "a", "kind"}, Not: []string{"a b"}, Problems: []string{"“letters” is not known there. Try with:file."}},
	} {
		assert.Equal(t, want, find.Parse(typed, c), typed)
	}
	assert.True(t, find.Parse("from: - mark:", c).Empty())
	assert.False(t, find.Parse("with:file", c).Empty())
}

func TestMatch(t *testing.T) {
	q := find.Query{Words: []string{"crates", `si"ze`}, Open: true, From: []string{"bram"}, Subject: []string{"loan"}, Not: []string{"orchid", "a b", "-"}}
	assert.Equal(t, `sender : "bram" * AND subject : "loan" * AND "crates" AND "si ze" *`, q.Match())
	assert.Equal(t, `"orchid" OR "a b"`, q.Without())
}

// Whatever is typed, it is read.
func TestAnythingIsRead(t *testing.T) {
	c := when.Standard(time.UTC)
	rapid.Check(t, func(rt *rapid.T) {
		q := find.Parse(rapid.String().Draw(rt, "typed"), c)
		_, _ = q.Match(), q.Without()
	})
}
