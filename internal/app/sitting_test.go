package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) sits() show.SittingView {
	w.t.Helper()
	s, err := w.app.Sitting(w.ctx, w.who)
	require.NoError(w.t, err)
	return s
}

func (w *world) sitDown(minutes int, heap sitting.Heap) int64 {
	w.t.Helper()
	made, err := w.app.BeginSitting(w.ctx, w.who, app.SittingDown{Command: rand.Text(), Minutes: minutes, Heap: heap})
	require.NoError(w.t, err)
	return made.ID
}

func (w *world) sitOn(id int64, f app.SittingFields) app.Decided {
	w.t.Helper()
	d, err := w.app.EditSitting(w.ctx, w.who, rand.Text(), id, f)
	require.NoError(w.t, err)
	return d
}

func comes(s show.SittingView) (titles []string) {
	for _, r := range s.Next {
		titles = append(titles, r.Title)
	}
	return titles
}

var wholeInbox = sitting.Heap{Place: decide.Inbox}

// A sitting goes through what was there when it began; what is skipped comes again, what comes joins
// the end, what is undone comes back, and it ends in its account.
func TestASitting(t *testing.T) {
	w := newWorld(t)
	assert.Zero(t, w.sits().ID)
	_, err := w.app.BeginSitting(w.ctx, w.who, app.SittingDown{Command: rand.Text(), Heap: wholeInbox})
	assert.ErrorContains(t, err, "Nothing waits for a decision in the inbox.")
	for i := range 4 {
		w.receive(mail{id: fmt.Sprint("l", i), from: fmt.Sprintf("p%d@school.example", i), subject: fmt.Sprint("Letter ", i)})
	}
	id := w.sitDown(15, wholeInbox)
	s := w.sits()
	assert.Equal(t, []string{"Letter 3", "Letter 2", "Letter 1", "Letter 0"}, comes(s))
	assert.Equal(t, s.Began.Add(15*time.Minute), *s.Until)
	assert.Nil(t, s.Zero, "nothing tells of the pace")

	w.clock.Advance(20 * time.Second)
	w.decide(decide.Done, s.Next[0].Row)
	skipped := w.sitOn(id, app.SittingFields{Skip: s.Next[1].ID})
	assert.Equal(t, "Skipped “Letter 2”", skipped.Title)
	w.receive(mail{id: "late", from: "late@school.example", subject: "Late"})
	s = w.sits()
	assert.Equal(t, []string{"Letter 1", "Letter 0", "Letter 2", "Late"}, comes(s))
	assert.True(t, s.Next[2].Skipped)
	assert.True(t, s.Next[3].New)
	assert.Equal(t, []int{4, 3, 1, 1}, []int{s.Total, s.Left, s.New, s.Done})
	assert.InDelta(t, 20, s.Pace, 0.1)
	require.NotNil(t, s.Zero)
	assert.Equal(t, w.clock.Now().Add(time.Minute).UTC(), s.Zero.UTC())
	assert.Nil(t, s.ZeroFrom)

	w.takeBack(0) // the skip
	w.takeBack(0) // the decision
	assert.Equal(t, []string{"Letter 3", "Letter 2", "Letter 1", "Letter 0", "Late"}, comes(w.sits()))
	assert.Empty(t, w.sits().Decided)

	w.decide(decide.Done, w.sits().Next[0].Row)
	w.sitOn(id, app.SittingFields{Minutes: 10})
	assert.Equal(t, w.sits().Began.Add(25*time.Minute), *w.sits().Until)
	w.clock.Advance(time.Minute)
	end := w.sitOn(id, app.SittingFields{End: true})
	s = w.sits()
	require.NotNil(t, s.Ended)
	assert.Equal(t, "1 done with", s.Sums)
	assert.Len(t, s.Decided, 1)
	w.decide(decide.ToBin, w.rows(decide.Inbox)[0])
	assert.Len(t, w.sits().Decided, 1, "what is decided afterwards is not of it")
	_, err = w.app.EditSitting(w.ctx, w.who, rand.Text(), id, app.SittingFields{Skip: w.rows(decide.Inbox)[0].ID})
	assert.ErrorContains(t, err, "has ended already")
	w.takeBack(end.Entry)
	assert.Nil(t, w.sits().Ended, "it goes on")
	w.sound()
}

// A sitting is of one heap alone; another one ends it.
func TestHeapsOfSittings(t *testing.T) {
	w := newWorld(t)
	for i := range 3 {
		w.receive(mail{id: fmt.Sprint("a", i), from: "oda@school.example", subject: fmt.Sprint("Walk ", i)})
	}
	w.receive(mail{id: "b", from: "bram@freight.example", subject: "Crates"})
	w.receive(mail{id: "news", from: "news@moss.example", subject: "Moss weekly", extra: "List-Id: <news.moss.example>\r\nList-Unsubscribe: <https://moss.example/u>\r\n"})
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), Mark: "star", On: []int64{w.rows(decide.Inbox)[0].ID}})
	require.NoError(t, err)
	for _, c := range []struct {
		heap  sitting.Heap
		words string
		comes []string
	}{
		{wholeInbox, "the inbox", []string{"Crates", "Walk 2", "Walk 1", "Walk 0"}},
		{sitting.Heap{Place: decide.Inbox, Oldest: true}, "the inbox", []string{"Walk 0", "Walk 1", "Walk 2", "Crates"}},
		{sitting.Heap{Place: decide.Inbox, Starred: true}, "what is starred in the inbox", []string{"Crates"}},
		{sitting.Heap{Place: decide.Inbox, By: "sender", Key: "oda@school.example", Words: "letters from Oda"}, "letters from Oda", []string{"Walk 2", "Walk 1", "Walk 0"}},
		{sitting.Heap{Place: decide.Shallows, Kind: "reading"}, "Reading", []string{"Moss weekly"}},
	} {
		w.sitDown(0, c.heap)
		s := w.sits()
		assert.Equal(t, c.comes, comes(s), c.words)
		assert.Equal(t, c.words, s.Heap)
		assert.Nil(t, s.Until)
	}
	for _, bad := range []app.SittingDown{
		{Heap: sitting.Heap{Place: decide.Archive}}, {Heap: sitting.Heap{Place: decide.Inbox, By: "mood"}}, {Heap: wholeInbox, Minutes: 500}, {Heap: wholeInbox, Minutes: -1},
	} {
		bad.Command = rand.Text()
		_, err := w.app.BeginSitting(w.ctx, w.who, bad)
		assert.Error(t, err, "%v", bad)
	}
	w.sound()
}

// What is likely decided is told where it is sure, with its particulars, and follows undo.
func TestADecisionIsForetold(t *testing.T) {
	w := newWorld(t)
	for i := range 12 {
		w.receive(mail{id: fmt.Sprint("bill", i), from: "Billing <office@gas.example>", subject: fmt.Sprint("Statement ", i), text: "The statement of the month is attached."})
		w.decide(decide.File, w.row(decide.Inbox), func(d *app.Deciding) { d.Labels = []string{"Accounts/Gas"} })
		w.receive(mail{id: fmt.Sprint("oda", i), from: "oda@school.example", subject: fmt.Sprint("Thanks ", i), text: "Thank you for yesterday."})
		w.decide(decide.PutOff, w.row(decide.Inbox), until("tomorrow 10:00"))
	}
	foretold := func(id, from string) *show.Foretold {
		w.receive(mail{id: id, from: from, subject: "Now " + id, text: "Thank you."})
		require.NoError(t, w.app.Learn(w.ctx))
		open, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
		require.NoError(t, err)
		w.decide(decide.Done, w.row(decide.Inbox))
		return open.Foretold
	}
	f := foretold("x", "office@gas.example")
	require.NotNil(t, f)
	assert.Equal(t, show.Foretold{Kind: decide.File, Label: "Accounts/Gas", Words: "under Accounts/Gas", Reason: "you filed all of the last 10 letters from them", Taken: true}, *f)
	f = foretold("y", "oda@school.example")
	require.NotNil(t, f)
	assert.Equal(t, decide.PutOff, f.Kind)
	assert.Equal(t, "tomorrow 10:00", f.When)
	assert.Equal(t, "until tomorrow 10:00", f.Words)
	assert.Nil(t, foretold("z", "nobody@nowhere.example"), "of strangers nothing is told")
}
