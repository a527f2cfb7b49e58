package app_test

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// at lets somebody else act on the inbox of the world.
func (w *world) at(who store.Who) *world {
	other := *w
	other.who = who
	return &other
}

// colleague is somebody else at the same inbox, in another zone.
func (w *world) colleague() *world {
	tove, err := w.app.Store.AddPerson(w.ctx, store.Person{Name: "Tove", SignIn: "tove", Zone: "America/Halifax"},
		[]store.Account{{Address: "tove@norrholm.example", Name: "Tove"}}, start)
	require.NoError(w.t, err)
	return w.at(store.Who{Person: tove.Person, Inbox: w.who.Inbox})
}

// What belongs to one person is theirs: stars, what was read, their latest step.
func TestTwoPersonsAtOneInbox(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.mark("star", false, row.ID)
	require.NoError(t, w.app.See(w.ctx, w.who, row.ID, row.Last))

	assert.True(t, w.row(decide.Inbox).Star)
	assert.False(t, w.row(decide.Inbox).Unread)
	assert.False(t, tove.row(decide.Inbox).Star, "a star is one person's")
	assert.True(t, tove.row(decide.Inbox).Unread, "and so is what was read")
	found := func(w *world) int {
		page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "mark:starred"})
		require.NoError(t, err)
		return len(page.Rows)
	}
	assert.Equal(t, 1, found(w))
	assert.Equal(t, 0, found(tove))

	tove.decide(decide.Done, tove.row(decide.Inbox))
	w.row(decide.Archive)
	_, err := w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	assert.False(t, w.row(decide.Archive).Star, "the latest step of one's own is taken back, not the colleague's")
	_, err = tove.app.Undo(w.ctx, tove.who, rand.Text(), 0, true)
	require.NoError(t, err)
	tove.row(decide.Inbox)

}

// What a day came to is each person's own account, also of days that are over and kept.
func TestDaysAreEachPersonsOwn(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	_, err := tove.app.EditSettings(w.ctx, tove.who, rand.Text(), app.SettingsFields{Zone: new("Europe/Oslo")})
	require.NoError(t, err)
	w.receive(bramAsks)
	w.decide(decide.Done, w.row(decide.Inbox))
	w.pass(24 * time.Hour)
	decided := func(w *world) int {
		days, err := w.app.Days(w.ctx, w.who, show.AMonth, "")
		require.NoError(t, err)
		return days.All.Decided
	}
	for range 2 {
		assert.Equal(t, 1, decided(w))
		assert.Zero(t, decided(tove))
	}
}

// A star set by one is not taken back by another who undoes the step.
func TestAnotherUndoesNoStar(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	w.receive(bramAsks)
	w.mark("star", false, w.row(decide.Inbox).ID)
	step := tove.mark("star", false, w.row(decide.Inbox).ID)
	_, err := w.app.Undo(w.ctx, w.who, rand.Text(), step.Entry, true)
	require.NoError(t, err)
	assert.True(t, tove.row(decide.Inbox).Star)
	assert.True(t, w.row(decide.Inbox).Star)
}

// Conversations that are joined keep the stars of everybody; parted again, too.
func TestAJoinKeepsEverybodysStars(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "One"})
	w.receive(mail{id: "b@x.example", from: "p@x.example", subject: "Two"})
	ids := map[string]int64{}
	for _, r := range w.rows(decide.Inbox) {
		ids[r.Title] = r.ID
	}
	w.mark("star", false, ids["One"])
	tove.mark("star", false, ids["Two"])
	w.receive(mail{id: "c@x.example", from: "p@x.example", subject: "Both", extra: "References: <a@x.example> <b@x.example>\r\n"})
	assert.True(t, w.row(decide.Inbox).Star)
	assert.True(t, tove.row(decide.Inbox).Star)
	// What was in one's sight before a letter of the inbox itself, stays so.
	assert.True(t, tove.row(decide.Inbox).Unread)
}

// Words are read by the days and the zone of the person who says them.
func TestWordsAreReadAsThePersonMeansThem(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	w.receive(bramAsks)
	row := tove.row(decide.Inbox)
	_, err := tove.app.Decide(w.ctx, tove.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, On: []store.Seen{{ID: row.ID, Last: row.Last}}, When: "tomorrow 09:00"})
	require.NoError(t, err)
	at := w.row(decide.Later).ReturnAt
	// There it is before four, so the day that ends is still today.
	assert.Equal(t, "2026-11-24T13:00:00Z", at.UTC().Format("2006-01-02T15:04:05Z"))
}

// The version of a decision is of what the person saw: putting off elsewhere is
// as much a decision as moving.
func TestADecisionChecksWhatWasSeen(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri 14:00"))
	seen := tove.row(decide.Later)
	entries := []app.EntryRef{{Kind: "return", ID: seen.ID, Version: &seen.Version}}
	_, err := w.app.EditAhead(w.ctx, w.who, app.EditingAhead{Command: rand.Text(), Action: "move", On: entries, When: "mon 9:00"})
	require.NoError(t, err)

	_, err = tove.app.EditAhead(w.ctx, tove.who, app.EditingAhead{Command: rand.Text(), Action: "cancel", On: entries})
	var p *app.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "decided-since", p.Kind)
	on := []store.Seen{{ID: seen.ID, Last: seen.Last, Version: &seen.Version}}
	_, err = tove.app.Decide(w.ctx, tove.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: on})
	require.ErrorAs(t, err, &p)
	w.row(decide.Later)

	// Undone, it is what was seen again.
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	done, err := tove.app.Decide(w.ctx, tove.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: on})
	require.NoError(t, err)
	require.Len(t, done.Now, 1)
	assert.Equal(t, w.row(decide.Archive).Version, *done.Now[0].Version)
}

// Delivery is planned for the inbox: whoever acts on it, it is the inbox's plan that
// holds, and the one that is changed.
func TestThePlanIsTheInboxes(t *testing.T) {
	w := newWorld(t)
	tove := w.colleague()
	text := "mon-fri 13:00"
	_, err := tove.app.PutPlan(w.ctx, tove.who, rand.Text(), 0, &show.PlanDraft{Text: &text})
	require.NoError(t, err)
	w.receive(bramAsks)
	assert.Empty(t, w.rows(decide.Inbox), "held by the plan that the colleague put in force")
	assert.Equal(t, 1, tove.overview().Held)
	own := w.at(store.Own(tove.who.Person))
	assert.True(t, own.overview().Gate.Open, "the colleague's own inbox has no plan")
	w.pass(5 * time.Hour)
	w.row(decide.Inbox)
}

// A letter of one's own is no unread one, also where it begins a conversation.
func TestOwnLettersAreSeen(t *testing.T) {
	w := newWorld(t)
	w.send(nil, nil)
	w.pass(time.Minute)
	assert.False(t, w.row(decide.Archive).Unread)

	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	assert.True(t, row.Unread)
	require.NoError(t, w.app.See(w.ctx, w.who, row.ID, row.Last))
	w.send(&row, nil)
	w.pass(time.Minute)
	for _, r := range w.rows(decide.Archive) {
		assert.False(t, r.Unread, r.Title)
	}
}
