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

// Follow-ups, appointments, people and the Journal are found beside letters, compared as they are.
func TestMoreThanLettersIsFound(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a1", from: `"Zoë Brandt" <zoe@x.example>`, subject: "Crème tiles", text: "Four of them."})
	w.mark("star", false, w.rows(decide.Inbox)[0].ID)
	w.track(app.FollowUpFields{Notes: ref("from Zoe")}, w.capture("Order the crème tiles"))
	_, err := w.app.NewAppointment(w.ctx, w.who, rand.Text(), app.AppointmentFields{Title: ref("Tiles with Zoë"), When: ref("tomorrow 10:00")}, 0)
	require.NoError(t, err)
	beside := func(typed string) (n [4]int) {
		found, err := w.app.SearchBeside(w.ctx, w.who, typed)
		require.NoError(t, err)
		return [4]int{len(found.FollowUps), len(found.Appointments), len(found.People), len(found.Journal)}
	}
	assert.Equal(t, [4]int{1, 1, 1, 2}, beside("zoe"))
	assert.Equal(t, [4]int{1, 0, 0, 3}, beside("CREME tile"))
	assert.Equal(t, [4]int{0, 1, 1, 2}, beside("brandt or (tiles with)"))
	assert.Zero(t, beside("from:zoe"), "only letters have that")
	assert.Zero(t, beside("zoe -tiles"))
	assert.Zero(t, beside(""))
}
