package app_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sorting"
)

// news is a newsletter by which everybody's is known.
func news(n int) mail {
	m := load(n)
	m.from, m.extra = "Moss <news@moss.example>", byList
	return m
}

// What is sorted out lies in the folder of its kind there; moved there from one to another, or to
// the inbox, that is a correction as if it was moved here, with all that lies there of the same sender.
func sortedThere(t *testing.T, w *twoSides) {
	w.connect()
	for n := 1; n <= 3; n++ {
		w.comes("INBOX", news(n))
	}
	w.sync()
	require.Len(t, w.rows(decide.Shallows), 3)
	for n := 1; n <= 3; n++ {
		assert.Equal(t, []string{"Shallows/Reading"}, w.lies(fmt.Sprintf("Load %d", n)))
	}
	w.phone("Shallows/Reading", "Load 1", moves("Shallows/Notices"))
	w.sync()
	assert.Equal(t, "elsewhere", w.latest().Actor)
	assert.Equal(t, "To notices elsewhere, from now on: “Load 1”", w.latest().Title)
	for n := 1; n <= 3; n++ {
		assert.Equal(t, []string{`Shallows/Notices`}, bare(w.lies(fmt.Sprintf("Load %d", n))))
	}
	assert.Equal(t, 3, w.shoal(sorting.Notices).N)
	w.takeBack(w.latest().Entry)
	w.sync()
	assert.Equal(t, []string{`Shallows/Reading`}, bare(w.lies("Load 2")), "taken back as one")

	w.phone("Shallows/Reading", "Load 2", moves("INBOX"))
	w.sync()
	assert.Len(t, w.rows(decide.Inbox), 3)
	assert.Equal(t, []string{`INBOX`}, bare(w.lies("Load 3")))
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, sorting.Person, list[0].Kind)
	w.comes("INBOX", news(4))
	w.sync()
	assert.Equal(t, []string{`INBOX`}, bare(w.lies("Load 4")), "and what comes later stays there")
	w.sound()
}

// bare is where letters lie, without their flags.
func bare(list []string) (out []string) {
	for _, l := range list {
		folder, _, _ := strings.Cut(l, ` \`)
		out = append(out, folder)
	}
	return out
}

// From the inbox to a kind, to the folder of all kinds, and out of one to the archive.
func sortedFromThePhone(t *testing.T, w *twoSides) {
	for n := 1; n <= 3; n++ {
		w.comes("INBOX", load(n))
	}
	w.connect()
	w.phone("INBOX", "Load 1", moves("Shallows/Receipts"))
	w.put("Shallows", nil)
	w.phone("INBOX", "Load 2", moves("Shallows"))
	w.sync()
	assert.Equal(t, []string{"Shallows/Receipts"}, bare(w.lies("Load 1")))
	assert.Equal(t, []string{"Shallows/Reading"}, bare(w.lies("Load 2")), "it is moved on")
	assert.Equal(t, 1, w.shoal(sorting.Receipts).N)
	w.phone("Shallows/Receipts", "Load 1", moves("Archive"))
	w.sync()
	assert.Equal(t, []string{"Load 1"}, w.titles(decide.Archive))
	w.sync()
	assert.Equal(t, []string{"Archive"}, bare(w.lies("Load 1")))
	w.sound()
}

// What lay among kinds before the account was connected lies there here too.
func sortedBefore(t *testing.T, w *twoSides) {
	w.put("Shallows", nil)
	w.comes("Shallows/Notices", load(1))
	w.connect()
	assert.Equal(t, 1, w.shoal(sorting.Notices).N)
	w.sync()
	assert.Equal(t, []string{"Shallows/Notices"}, bare(w.lies("Load 1")))
	w.decide(decide.Done, w.row(decide.Shallows))
	w.sync()
	assert.Equal(t, []string{"Archive"}, bare(w.lies("Load 1")))
	w.sound()
}
