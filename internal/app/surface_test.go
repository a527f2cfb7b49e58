package app_test

import (
	"crypto/rand"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
)

// above are the titles of what has come up above the inbox.
func (w *world) above() (out []string) {
	w.t.Helper()
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, false, 0, "")
	require.NoError(w.t, err)
	for _, r := range page.Rows {
		if r.Group.Kind != "" {
			out = append(out, r.Title)
		}
	}
	return out
}

func (w *world) surfaceAt(kind sorting.Kind, text string) {
	w.t.Helper()
	_, err := w.app.SurfaceAt(w.ctx, w.who, rand.Text(), kind, text)
	require.NoError(w.t, err)
}

// until lets time pass up to a time of this day or the next.
func (w *world) until(clock string) {
	w.t.Helper()
	day, err := w.app.Day(w.ctx, w.who, 0)
	require.NoError(w.t, err)
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(w.t, err)
	now := day.Now.In(zone)
	at, err := time.ParseInLocation("15:04", clock, zone)
	require.NoError(w.t, err)
	to := time.Date(now.Year(), now.Month(), now.Day(), at.Hour(), at.Minute(), 0, 0, zone)
	if !to.After(now) {
		to = to.AddDate(0, 0, 1)
	}
	w.pass(to.Sub(now))
}

// A kind comes up at its round: what lay there by then stands above the inbox, once, and goes when
// it is cleared or passed over. Zero and low water know nothing of it.
func TestAKindComesUpByItself(t *testing.T) {
	w := newWorld(t)
	w.surfaceAt(sorting.Reading, "daily 15:00")
	assert.Equal(t, "mon-sun 15:00", w.shoal(sorting.Reading).Rounds)
	for i := range 2 {
		w.receive(mail{id: fmt.Sprintf("n%d@x.example", i), from: "news@x.example", subject: fmt.Sprintf("News %d", i), extra: byList})
	}
	w.receive(mail{id: "c@x.example", from: "climate@x.example", subject: "A notice", extra: byMachine})
	w.until("14:59")
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	assert.Equal(t, []show.Row{}, page.Rows, "an empty list is a list")
	w.until("15:00")
	assert.ElementsMatch(t, []string{"News 0", "News 1"}, w.above())
	assert.Zero(t, w.overview().Inbox)
	w.pass(time.Second)
	w.receive(mail{id: "late@x.example", from: "news@x.example", subject: "Late news", extra: byList})
	assert.NotContains(t, w.above(), "Late news", "it waits for the next round")

	w.decide(decide.Done, w.titled(decide.Shallows, "News 0"))
	assert.Equal(t, []string{"News 1"}, w.above())
	_, err = w.app.PassOver(w.ctx, w.who, rand.Text(), sorting.Reading)
	require.NoError(t, err)
	assert.Empty(t, w.above())
	_, err = w.app.PassOver(w.ctx, w.who, rand.Text(), sorting.Reading)
	assert.ErrorContains(t, err, "has not come up")
	w.undo()
	assert.Equal(t, []string{"News 1"}, w.above(), "and that is undone")
	w.decide(decide.Done, w.titled(decide.Shallows, "News 1"))
	assert.Empty(t, w.above(), "cleared")
	w.until("15:00")
	assert.Equal(t, []string{"Late news"}, w.above(), "the next day it comes up anew")
	w.surfaceAt(sorting.Reading, "")
	w.until("15:00")
	assert.Equal(t, []string{"Late news"}, w.above(), "what has come up stays until it is passed over")
	w.sound()
}

// A round in closed time comes up when that is over, and a hold lets nothing up.
func TestNoKindComesUpWhileDeliveryIsHeld(t *testing.T) {
	w := newWorld(t)
	w.plan("daily 9; closed 10-16\nreading: daily 15")
	w.receive(mail{id: "n@x.example", from: "news@x.example", subject: "News", extra: byList})
	_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	w.until("15:00")
	assert.Empty(t, w.above(), "it is closed")
	w.until("16:00")
	assert.Equal(t, []string{"News"}, w.above())
	w.sound()
}

// Nothing of a kind there: nothing comes up, and what comes later waits for the next round.
func TestAnEmptyKindDoesNotComeUp(t *testing.T) {
	w := newWorld(t)
	w.surfaceAt(sorting.Reading, "daily 15")
	w.until("15:00")
	w.receive(mail{id: "n@x.example", from: "news@x.example", subject: "News", extra: byList})
	assert.Empty(t, w.above())
	_, err := w.app.SurfaceAt(w.ctx, w.who, rand.Text(), sorting.Reading, "someday")
	assert.ErrorContains(t, err, "starts with no day")
	w.sound()
}

// Of many that have come up the newest stand there, and the head says how many there are.
func TestManyThatComeUpAreCounted(t *testing.T) {
	w := newWorld(t)
	w.surfaceAt(sorting.Notices, "daily 15")
	for i := range 30 {
		w.receive(mail{id: fmt.Sprintf("n%d@x.example", i), from: "climate@x.example", subject: fmt.Sprintf("Alarm %d", i), extra: byMachine})
	}
	w.until("15:00")
	assert.Len(t, w.above(), 20)
	page, err := w.app.List(w.ctx, w.who, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	assert.Contains(t, page.Rows[0].Group.Label, "the newest 20 of 30")
	w.sound()
}

// A code by which one signs in is held as anything else, until its owner lets such letters through:
// they are asked when the first one is held, and not again once they have.
func TestSignInCodesAreLetThroughWhereWished(t *testing.T) {
	w := newWorld(t)
	w.plan("daily 20:00")
	code := func(n int) mail {
		return mail{id: fmt.Sprintf("code%d@x.example", n), from: "door@desk.example", subject: fmt.Sprintf("Your code %d", n), extra: byMachine, text: "Use 481 922 to sign in."}
	}
	w.receive(mail{id: "p@x.example", from: "anton@x.example", subject: "Panes"})
	assert.False(t, w.overview().Codes)
	w.receive(code(1))
	assert.True(t, w.overview().Codes)
	assert.Empty(t, w.lies("Your code 1"))
	w.through(app.ThroughFields{Kind: delivery.ByCode})
	assert.False(t, w.overview().Codes)
	entry := w.delivery().Through[0]
	assert.Equal(t, "sign-in codes and links", entry.Words)
	_, err := w.app.LetThroughNow(w.ctx, w.who, rand.Text(), entry.ID)
	require.NoError(t, err)
	assert.Equal(t, decide.Inbox, w.lies("Your code 1"), "in the inbox, though a machine has sent it")
	w.receive(code(2))
	assert.Equal(t, decide.Inbox, w.lies("Your code 2"))
	assert.Empty(t, w.lies("Panes"))
	w.sound()
}

// What was imported is of no kind until its owner sorts it, all in one step that is undone as one.
func TestWhatWasThereBeforeIsSortedAsOne(t *testing.T) {
	w := newWorld(t)
	dir := t.TempDir()
	for i := range 3 {
		raw := mail{id: fmt.Sprintf("n%d@x.example", i), from: "news@x.example", subject: fmt.Sprintf("News %d", i), extra: byList}.bytes(w.clock.Now())
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.eml", i)), raw, 0o600))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "p.eml"), mail{id: "p@x.example", from: "anton@x.example", subject: "Panes"}.bytes(w.clock.Now()), 0o600))
	w.receive(mail{id: "a@away.example", from: "news@away.example", subject: "Away"})
	w.refuse(sorting.TurnedAway, sorting.ByAddress, w.titled(decide.Inbox, "Away"))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.eml"), mail{id: "a2@away.example", from: "news@away.example", subject: "Of before"}.bytes(w.clock.Now()), 0o600))
	w.importFile(dir, func(in *app.Importing) { in.InboxDays = 30 })
	shallows, err := w.app.Shallows(w.ctx, w.who)
	require.NoError(t, err)
	require.Equal(t, 5, shallows.Before)
	out, err := w.app.SortBefore(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	assert.Equal(t, "Sorted out what was there before: 3 reading; 1 conversation in the inbox", out.Title)
	assert.Equal(t, 3, w.shoal(sorting.Reading).N)
	assert.ElementsMatch(t, []string{"Today: Panes", "Today: Of before"}, w.titles(), "what is turned away is so as it comes")
	_, err = w.app.SortBefore(w.ctx, w.who, rand.Text())
	assert.ErrorContains(t, err, "is sorted")
	w.undo()
	assert.Len(t, w.titles(), 5)
	w.sound()
}
