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

// A search that is kept is counted when one looks, renamed, replaced by one of its name, and forgotten.
func TestKeptSearches(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "1@x.example", from: "p@x.example", subject: "Ferns"})
	keep := func(name, q string) error {
		_, err := w.app.KeepSearch(w.ctx, w.who, rand.Text(), store.KeptSearch{Name: name, Query: q, Within: "at:inbox"})
		return err
	}
	kept := func(counted bool) (out []show.KeptSearch) {
		list, err := w.app.KeptSearches(w.ctx, w.who, counted)
		require.NoError(t, err)
		for _, k := range list {
			k.ID = 0
			out = append(out, k)
		}
		return out
	}
	require.Error(t, keep("None", "  "))
	require.Error(t, keep(" ", "ferns"))
	require.NoError(t, keep(" Green  things", "fern"))
	assert.Equal(t, []show.KeptSearch{{Name: "Green things", Q: "fern", Within: "at:inbox", N: 1}}, kept(true))
	require.NoError(t, keep("green things", "moss"))
	assert.Equal(t, []show.KeptSearch{{Name: "Green things", Q: "moss", Within: "at:inbox"}}, kept(true), "one of the same name")
	w.undo()
	require.NoError(t, keep("Moss", "moss"))
	list, err := w.app.KeptSearches(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Zero(t, list[0].N, "not counted")
	_, err = w.app.RenameSearch(w.ctx, w.who, rand.Text(), list[0].ID, "MOSS")
	require.Error(t, err, "there is one")
	_, err = w.app.RenameSearch(w.ctx, w.who, rand.Text(), list[0].ID, "Ferns")
	require.NoError(t, err)
	_, err = w.app.DropSearch(w.ctx, w.who, rand.Text(), list[1].ID)
	require.NoError(t, err)
	assert.Equal(t, []show.KeptSearch{{Name: "Ferns", Q: "fern", Within: "at:inbox", N: 1}}, kept(true))
	w.undo()
	assert.Len(t, kept(false), 2)
	_, err = w.app.DropSearch(w.ctx, w.who, rand.Text(), 99)
	require.Error(t, err)
}
