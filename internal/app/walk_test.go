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
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func TestALetterArrivesAndIsDecided(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	assert.Equal(t, "Crates", row.Title)
	assert.Equal(t, "Can you confirm the four crate sizes?", row.Ask)
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Equal(t, "Confirm the four crate sizes", c.Action)
	assert.True(t, row.Unread && row.Asks)
	for kind, place := range map[decide.Kind]decide.Place{decide.Done: decide.Archive, decide.ToBin: decide.Bin, decide.ToJunk: decide.Junk} {
		w.decide(kind, row)
		assert.Equal(t, row.ID, w.row(place).ID)
		assert.Empty(t, w.rows(decide.Inbox))
		w.undo()
		assert.Equal(t, row.ID, w.row(decide.Inbox).ID, "undone: %s", kind)
	}
}

func TestTheSameCommandIsDoneOnce(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	d := app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "in 2 hours", On: []store.Seen{{ID: row.ID, Last: row.Last}}}
	first, err := w.app.Decide(w.ctx, w.who, d)
	require.NoError(t, err)
	w.pass(time.Hour)
	again, err := w.app.Decide(w.ctx, w.who, d)
	require.NoError(t, err)
	assert.Equal(t, first, again)
	w.pass(time.Hour)
	assert.Equal(t, "back since today 10:20, put off today", w.row(decide.Inbox).Back)
	w.receive(bramAsks)
	w.receive(bramAsks)
	assert.Equal(t, 1, w.row(decide.Inbox).Letters, "a repeat is recognised")
}

func TestUndoGoesSeveralStepsBackAndLeavesWhatChangedSince(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{row.ID}, Mark: "star"})
	require.NoError(t, err)
	filed := w.decide(decide.File, row, func(d *app.Deciding) { d.Labels = []string{"loans"} })
	w.decide(decide.ToBin, row)

	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), filed.Entry, true)
	require.NoError(t, err)
	assert.Len(t, out.Left, 1, "the place was changed since")
	assert.Empty(t, w.row(decide.Bin).Labels, "the label was not")

	w.undo() // the bin
	assert.Equal(t, decide.Archive, w.row(decide.Archive).Place)
	w.undo() // the star
	assert.False(t, w.row(decide.Archive).Star)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), 0, true)
	var p *app.Problem
	assert.ErrorAs(t, err, &p, "nothing is left to undo")
}

func TestPutOffUnderAHold(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "two@x.example", from: "eva@x.example", subject: "Day"})
	for _, r := range w.rows(decide.Inbox) {
		phrase := "today 10:00"
		if r.Title == "Day" {
			phrase = "tomorrow"
		}
		w.decide(decide.PutOff, r, until(phrase))
	}
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	w.pass(2 * time.Hour)
	assert.Equal(t, "Crates", w.row(decide.Inbox).Title, "a minute comes through any hold")
	w.receive(mail{id: "three@x.example", from: "eva@x.example", subject: "Held"})
	w.pass(24 * time.Hour)
	assert.Len(t, w.rows(decide.Inbox), 1, "a day waits for the next delivery")
	assert.Equal(t, 1, w.overview().Held)
	assert.True(t, w.overview().Gate.Asks, "an indefinite hold asks after twelve hours")
	found, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "held"})
	require.NoError(t, err)
	assert.Empty(t, found.Rows, "a held letter is not found")

	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Len(t, w.rows(decide.Inbox), 3)
	assert.False(t, w.overview().Gate.Open, "let in now: the state stays")
	found, err = w.app.Search(w.ctx, w.who, show.Asked{Q: "held"})
	require.NoError(t, err)
	assert.Len(t, found.Rows, 1)
}

func TestATimedHoldEndsByItself(t *testing.T) {
	w := newWorld(t)
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "13:00"})
	require.NoError(t, err)
	w.receive(bramAsks)
	assert.Empty(t, w.rows(decide.Inbox))
	w.pass(10 * time.Hour) // the machine slept over it
	row := w.row(decide.Inbox)
	assert.Equal(t, "Let in at 13:00", row.Group.Label, "let in at its own time")
	assert.True(t, w.overview().Gate.Open)
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "in 1 hour"})
	require.NoError(t, err)
	w.undo()
	assert.True(t, w.overview().Gate.Open, "holding can be undone")
}

func TestSomebodyElsesLetterBringsBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri 14:00"))
	w.pass(time.Minute)
	w.receive(mail{id: "two@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id})
	row := w.row(decide.Inbox)
	assert.Equal(t, 2, row.Letters)
	assert.Contains(t, row.Back, "answered by Bram")
	assert.Equal(t, "Fri 27 Nov, 14:00", row.Again.Words)

	stale := row
	w.receive(mail{id: "three@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id})
	out := w.decide(decide.Done, stale)
	assert.Equal(t, []int64{row.ID}, out.New, "a letter that was not seen is not covered")
	assert.Equal(t, "New since you decided", w.row(decide.Inbox).Group.Label)
}

func TestAnswerIsSentAfterTheDelayAndCanBeUndoneBefore(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	sent := w.send(&row, nil)
	assert.Empty(t, w.rows(decide.Inbox))
	w.pass(9 * time.Second)
	assert.Empty(t, w.post.sent)
	undone := w.undo()
	assert.NotEmpty(t, undone.Draft, "the draft is given back")
	assert.Equal(t, row.ID, w.row(decide.Inbox).ID)
	w.pass(time.Minute)
	assert.Empty(t, w.post.sent, "it never left")
	assert.NotZero(t, sent.Outgoing)

	w.send(&row, nil)
	w.pass(10 * time.Second)
	require.Len(t, w.post.sent, 1)
	l := letter.Parse(w.post.sent[0])
	assert.Equal(t, []string{bramAsks.id}, l.InReplyTo)
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	require.Len(t, c.LetterList, 2)
	assert.True(t, c.LetterList[1].Own)
	after := w.undo()
	assert.Contains(t, after.Left, "The letter has gone.")
	assert.Empty(t, after.Draft)
	assert.Equal(t, row.ID, w.row(decide.Inbox).ID, "its place is restored all the same")
	w.receive(mail{id: l.MessageID, from: "ines@norrholm.example", to: "ines@norrholm.example", subject: l.Subject})
}

func TestALetterThatCantLeaveIsTriedAgainOrBroughtBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, nil)
	w.post.answer = assert.AnError
	w.pass(10 * time.Second)
	w.post.answer = nil
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1)

	w.receive(mail{id: "two@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id})
	row = w.row(decide.Inbox)
	w.send(&row, nil)
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	w.post.refusing("550 nobody of that name", "bram@freight.example")
	w.pass(10 * time.Second)
	assert.Contains(t, w.row(decide.Inbox).Back, "could not be delivered")
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	require.Len(t, c.Outbox, 1)
	assert.Equal(t, "failed", c.Outbox[0].State)
}

func TestHandOnWaitsAndComesBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) {
		s.Kind, s.To, s.Wait = "hand-on", []string{"Henrik <henrik@norrholm.example>"}, "2d"
	})
	assert.Equal(t, 1, w.overview().Waiting)
	w.pass(time.Minute)
	sentID := letter.Parse(w.post.sent[0]).MessageID

	w.receive(mail{id: "ooo@n.example", from: "henrik@norrholm.example", subject: "Out of office", answers: sentID, extra: "Auto-Submitted: auto-replied\r\n"})
	list, err := w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 1, "an automatic answer is none")
	assert.Equal(t, "Out of office", list[0].Away)
	assert.Empty(t, w.rows(decide.Inbox), "nor does it bring anything back")

	w.pass(49 * time.Hour)
	assert.Contains(t, w.row(decide.Inbox).Back, "no answer from")
	dropped := waiting.Dropped
	_, err = w.app.EditWaiting(w.ctx, w.who, rand.Text(), list[0].ID, &dropped, nil, false)
	require.NoError(t, err)
	assert.Zero(t, w.overview().Waiting)
	w.undo()
	assert.Equal(t, 1, w.overview().Waiting)

	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	w.receive(mail{id: "yes@n.example", from: "henrik@norrholm.example", subject: "Re: Crates", answers: sentID})
	assert.Zero(t, w.overview().Waiting, "an answer meets it on receipt, also when held")
}

func TestFollowUpsLiveAndRing(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	due, remind := "today 12:00", "today 11:30"
	made := w.decide(decide.FollowUp, row, func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{Due: &due, Remind: &[]string{remind}} })
	list, err := w.app.FollowUps(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Confirm the four crate sizes", list[0].Title)
	assert.Equal(t, row.ID, list[0].Letters[0].Conversation)
	assert.Empty(t, w.rows(decide.Inbox))

	w.pass(4 * time.Hour)
	ringing := w.overview().Ringing
	require.Len(t, ringing, 1)
	assert.Equal(t, followup.Overdue, ringing[0].Group)
	_, err = w.app.QuietReminder(w.ctx, w.who, rand.Text(), ringing[0].Reminder, "in 10 min")
	require.NoError(t, err)
	assert.Empty(t, w.overview().Ringing)
	w.pass(10 * time.Minute)
	assert.Len(t, w.overview().Ringing, 1, "put off, it rings again")
	rang, err := w.app.Rang(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, rang, 1)
	assert.Equal(t, "today 12:30", rang[0].Words)
	assert.False(t, rang[0].Seen)

	done := followup.Done
	_, err = w.app.EditFollowUp(w.ctx, w.who, rand.Text(), made.FollowUp, app.FollowUpFields{Status: &done}, 0)
	require.NoError(t, err)
	assert.Zero(t, w.overview().FollowUp)
	w.undo()
	assert.Equal(t, 1, w.overview().FollowUp)

	empty, past := " ", "yesterday"
	for _, bad := range []app.FollowUpFields{{Title: &empty}, {Due: &past}} {
		_, err = w.app.EditFollowUp(w.ctx, w.who, rand.Text(), made.FollowUp, bad, 0)
		var p *app.Problem
		assert.ErrorAs(t, err, &p)
	}
}

func TestFlagIsALightFollowUp(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	on := []store.Seen{{ID: row.ID, Last: row.Last}}
	for _, want := range []int{1, 0} {
		_, err := w.app.Flag(w.ctx, w.who, rand.Text(), on, "")
		require.NoError(t, err)
		assert.Len(t, w.row(decide.Inbox).FollowUps, want)
	}
	w.undo()
	assert.Equal(t, "today", w.row(decide.Inbox).FollowUps[0].Due)
}

func TestABinnedLetterIsPurgedUnlessAFollowUpNeedsIt(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "two@x.example", from: "eva@x.example", subject: "Gone", text: "purple"})
	for _, r := range w.rows(decide.Inbox) {
		if r.Title == "Crates" {
			w.decide(decide.FollowUp, r, func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{}; d.Stay = true })
		}
		w.decide(decide.ToBin, r)
	}
	w.pass(31 * 24 * time.Hour)
	assert.Equal(t, "Crates", w.row(decide.Bin).Title)
	found, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "purple"})
	require.NoError(t, err)
	assert.Empty(t, found.Rows)

	list, err := w.app.FollowUps(w.ctx, w.who, false)
	require.NoError(t, err)
	done := followup.Done
	_, err = w.app.EditFollowUp(w.ctx, w.who, rand.Text(), list[0].ID, app.FollowUpFields{Status: &done}, 0)
	require.NoError(t, err)
	w.pass(time.Minute)
	assert.Empty(t, w.rows(decide.Bin))
	closed, err := w.app.FollowUps(w.ctx, w.who, true)
	require.NoError(t, err)
	link := closed[0].Letters[0]
	assert.True(t, link.Purged)
	assert.Equal(t, "Crates", link.Subject)
}

func TestOneLetterToTwoAccountsIsOneRow(t *testing.T) {
	w := newWorld(t)
	both := bramAsks
	both.to = "ines@norrholm.example, walks@norrholm.example"
	raw := both.bytes(start)
	for _, to := range []string{"ines@norrholm.example", "walks@norrholm.example"} {
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: to, Source: "smtp", Raw: raw, At: w.clock.Now()}))
	}
	row := w.row(decide.Inbox)
	assert.Equal(t, 1, row.Letters)
	assert.Len(t, row.Accounts, 2)
}

func TestALateParentJoinsTwoConversations(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@x.example", from: "eva@x.example", subject: "One"})
	w.receive(mail{id: "b@x.example", from: "eva@x.example", subject: "Two"})
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 2)
	w.decide(decide.Done, rows[0])
	w.receive(mail{id: "c@x.example", from: "eva@x.example", subject: "Both", extra: "References: <a@x.example> <b@x.example>\r\n"})
	row := w.row(decide.Inbox)
	assert.Equal(t, 3, row.Letters)
	younger := max(rows[0].ID, rows[1].ID)
	c, err := w.app.Open(w.ctx, w.who, younger)
	require.NoError(t, err)
	assert.Equal(t, row.ID, c.ID, "the younger id leads on")

	journal, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	assert.Equal(t, "post", journal[0].Actor)
}

func TestZeroIsLowWater(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.pass(time.Hour)
	w.decide(decide.Done, w.row(decide.Inbox))
	o := w.overview()
	require.NotNil(t, o.LowWater)
	assert.Equal(t, "2026-11-24T08:20:00Z", o.LowWater.Format(time.RFC3339))
	assert.Equal(t, 1, o.High)
	w.pass(time.Minute)
	w.undo()
	w.pass(time.Minute)
	w.decide(decide.Done, w.row(decide.Inbox))
	assert.Len(t, w.overview().Zeros, 2, "a later zero adds its time")
	day, err := w.app.Day(w.ctx, w.who, 0)
	require.NoError(t, err)
	assert.Len(t, day.Recent, 1)
}

func TestManyAtOnceAndBackAgain(t *testing.T) {
	w := newWorld(t)
	const n = 700
	for i := range n {
		w.receive(mail{id: fmt.Sprintf("%d@x.example", i), from: "eva@x.example", subject: fmt.Sprint("Letter ", i)})
	}
	all, err := w.app.Everything(w.ctx, w.who, decide.Inbox, 0)
	require.NoError(t, err)
	require.Len(t, all, n)
	_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "fri", On: all})
	require.NoError(t, err)
	assert.Equal(t, n, w.overview().Ahead)
	w.undo()
	assert.Equal(t, n, w.overview().Inbox)
	assert.Zero(t, w.overview().Ahead)
	rows := 0
	for cursor := ""; ; {
		page, err := w.app.List(w.ctx, w.who, decide.Inbox, true, 0, cursor)
		require.NoError(t, err)
		rows += len(page.Rows)
		if cursor = page.Next; cursor == "" {
			break
		}
	}
	assert.Equal(t, n, rows, "pages neither lose nor double a row")
}
