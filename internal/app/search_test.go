package app_test

import (
	"crypto/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// Stars, flags, labels and files are found wherever their letters are.
func TestMarksAreFound(t *testing.T) {
	w := newWorld(t)
	for _, m := range []mail{
		{id: "a1", from: "p@x.example", subject: "Crates", text: "Four crates."},
		{id: "a2", from: "p@x.example", subject: "Orchids", text: "Four orchids in crates."},
		{id: "a3", from: "p@x.example", subject: "Ropes", text: "Long ones."},
	} {
		w.receive(m)
	}
	at := map[string]show.Row{}
	for _, r := range w.rows(decide.Inbox) {
		at[r.Title] = r
	}
	w.mark("star", false, at["Crates"].ID)
	_, err := w.app.Flag(w.ctx, w.who, rand.Text(), []store.Seen{seen(at["Orchids"])}, "")
	require.NoError(t, err)
	w.decide(decide.File, at["Ropes"], func(d *app.Deciding) { d.Labels = []string{"To keep"} })
	w.decide(decide.ToBin, at["Crates"])
	for typed, want := range map[string][]string{
		"mark:starred":            {"Crates"},
		"mark:flagged":            {"Orchids"},
		`label:"to keep"`:         {"Ropes"},
		"label:keep":              {"Ropes"},
		`label:"keep"`:            nil,
		"four":                    {"Crates", "Orchids"},
		"four -orchids":           {"Crates"},
		"-four":                   {"Ropes"},
		"subject:orch":            {"Orchids"},
		"subject:four":            nil,
		"with:file":               nil,
		"mark:starred from:p@x":   {"Crates"},
		"mark:starred -crates":    nil,
		"label:\"to keep\" ropes": {"Ropes"},
	} {
		var titles []string
		for _, r := range w.found(typed) {
			titles = append(titles, r.Title)
		}
		assert.ElementsMatch(t, want, titles, typed)
	}
	page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "form:p four"})
	require.NoError(t, err)
	assert.Contains(t, page.Problems[0].Says, "There is no field “form:”")
}
