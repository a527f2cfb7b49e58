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
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/work"
)

func TestTheSenderIsToldWhenToExpectAnAnswer(t *testing.T) {
	w := newWorld(t)
	list := mail{id: "l@list.example", from: "News <news@list.example>", subject: "News", extra: "List-Id: <n.list.example>\r\n"}
	w.receive(bramAsks)
	w.receive(list)
	w.receive(mail{id: "more@freight.example", from: bramAsks.from, subject: "Lift"})
	rows := append(w.rows(decide.Inbox), w.rows(decide.Shallows)...)
	var ids []int64
	for _, r := range rows {
		ids = append(ids, r.ID)
	}
	v, err := w.app.Tell(w.ctx, w.who, ids, "fri 10:00")
	require.NoError(t, err)
	assert.Equal(t, []string{"Bram"}, v.To, "each person once")
	assert.Equal(t, []app.TellNot{{Name: "News", Why: "a machine or a list sent it"}}, v.Not)
	assert.Contains(t, v.Text, "expect my answer on Friday 27 November")
	_, err = w.app.Tell(w.ctx, w.who, ids, "when she answers")
	require.ErrorContains(t, err, "no date to tell")

	putOff := func(rows []show.Row) app.Decided {
		out, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, On: seenAll(rows), When: "fri", Tell: v.Text})
		require.NoError(t, err)
		return out
	}
	out := putOff(rows)
	assert.Equal(t, "Put off 3 letters until Fri 27 Nov, 08:30; told Bram", out.Title)
	w.undo()
	w.pass(time.Minute)
	assert.Empty(t, w.post.sent, "undone within ten seconds, nothing goes")

	putOff(rows)
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1)
	sent := letter.Parse(w.post.sent[0])
	assert.Equal(t, letter.AutoReply, sent.Automatic)
	assert.Empty(t, w.post.from[0], "its envelope names no sender")
	assert.Equal(t, []string{"bram@freight.example"}, w.post.to[0])
	assert.Len(t, w.rows(decide.Later), 3, "an own letter brings nothing back")

	w.undo()
	out = putOff(w.rows(decide.Inbox))
	assert.Contains(t, out.Title, "nobody could be told")
	w.pass(time.Minute)
	assert.Len(t, w.post.sent, 1, "once a week")
}

func TestSomedayLettersComeUpAFewAWeek(t *testing.T) {
	w := newWorld(t)
	w.pass(0) // the first look-through is worked out
	for i := range 7 {
		w.receive(mail{id: fmt.Sprint(i, "@x.example"), from: "a@x.example", subject: fmt.Sprint("Letter ", i)})
		w.decide(decide.PutOff, w.row(decide.Inbox), until("someday"))
		w.pass(time.Minute)
	}
	v := w.ahead()
	assert.Equal(t, "5 to look through Fri 27 Nov", v.Groups[len(v.Groups)-1].Note)
	w.pass(3*24*time.Hour + time.Hour)
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 5)
	assert.Equal(t, "from someday, for the weekly look, put off on Tue 24 Nov", rows[0].Back)
	assert.Equal(t, "Came back", rows[0].Group.Label)
	for _, r := range rows {
		assert.NotContains(t, []string{"Letter 5", "Letter 6"}, r.Title, "the longest away come first")
		w.decide(decide.PutOff, r, until(r.Same.Phrase))
	}
	w.pass(7 * 24 * time.Hour)
	var titles []string
	for _, r := range w.rows(decide.Inbox) {
		titles = append(titles, r.Title)
	}
	assert.Subset(t, titles, []string{"Letter 5", "Letter 6"}, "all have their turn")

	none, day := 0, 3
	_, err := w.app.EditSettings(w.ctx, w.who, rand.Text(), app.SettingsFields{LookCount: &none, LookDay: &day})
	require.NoError(t, err)
	w.pass(30 * 24 * time.Hour)
	assert.Len(t, w.rows(decide.Inbox), 5, "turned off")
}

func TestSomedayLettersWaitForTheEndOfAHold(t *testing.T) {
	w := newWorld(t)
	w.pass(0)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("someday"))
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "fri 12:00"})
	require.NoError(t, err)
	w.pass(3*24*time.Hour + time.Hour)
	assert.Empty(t, w.rows(decide.Inbox))
	w.pass(4 * time.Hour)
	assert.Contains(t, w.row(decide.Inbox).Back, "from someday")
}

func TestAllOfThemMustAnswer(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	sent := w.send(&row, func(s *app.Sending) {
		s.To, s.Wait, s.WaitAll = []string{"bram@freight.example", "Lise <lise@x.example>"}, "fri", true
	})
	w.pass(time.Minute)
	id := letter.Parse(w.post.sent[0]).MessageID
	require.NotZero(t, sent.Outgoing)
	answer := func(from string) {
		w.receive(mail{id: rand.Text() + "@x.example", from: from, subject: "Re: Crates", answers: id, extra: "Received: by mx.example; " + w.clock.Now().Format(time.RFC1123Z) + "\r\n"})
	}
	answer("Bram <bram@freight.example>")
	require.Len(t, w.waits(), 1)
	assert.True(t, w.waits()[0].All)
	assert.Equal(t, []string{"Bram"}, w.waits()[0].Answered)
	answer("Lise <lise@x.example>")
	assert.Empty(t, w.waits(), "now all have")
}

func TestTwoTabsSetAReturn(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox) // what both of them show
	w.decide(decide.PutOff, row, until("thu 10:00"))
	w.decide(decide.PutOff, row, until("fri 10:00 if nobody has answered"))
	require.Len(t, w.ahead().Entries, 1, "the later one counts, and none is doubled")
	assert.Equal(t, "limit", w.ahead().Entries[0].Kind)
	w.decide(decide.PutOff, row, until("fri 11:00"), sure)
	assert.Equal(t, "return", w.ahead().Entries[0].Kind)
	assert.Empty(t, w.waits())
	w.undo()
	w.undo()
	assert.Equal(t, "Thu 26 Nov, 10:00", w.ahead().Entries[0].Words, "undone, the earlier one counts again")
	w.pass(2*24*time.Hour + 2*time.Hour)
	assert.Len(t, w.rows(decide.Inbox), 1)
}

func TestABinnedLetterDoesNotReturn(t *testing.T) {
	w := newWorld(t)
	for _, phrase := range []string{"tomorrow 10:00", "tomorrow if nobody has answered", "someday"} {
		w.receive(mail{id: rand.Text() + "@x.example", from: "Bram <bram@freight.example>", subject: rand.Text()})
		w.decide(decide.PutOff, w.row(decide.Inbox), until(phrase))
		w.decide(decide.ToBin, w.row(decide.Later))
	}
	assert.Empty(t, w.ahead().Entries)
	w.pass(8 * 24 * time.Hour)
	assert.Empty(t, w.rows(decide.Inbox))
	assert.Len(t, w.rows(decide.Bin), 3)
}

func TestTheClockJumpsBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("in 2 hours"))
	w.pass(2 * time.Hour)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("in 20 minutes"))
	w.pass(-3 * time.Hour)
	assert.Empty(t, w.rows(decide.Inbox), "it comes back at its time, not before")
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	before := len(entries)
	w.pass(3*time.Hour + 20*time.Minute)
	assert.Len(t, w.rows(decide.Inbox), 1)
	entries, err = w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	assert.Len(t, entries, before+1, "what had happened does not happen again")
}

func TestWhatWasMissedHappensInOrderAtItsTime(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "m@x.example", from: "Maren <maren@x.example>", subject: "Glass"})
	rows := w.rows(decide.Inbox)
	title, remind := "Ring the gate", "thu 9:00"
	_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Remind: &[]string{remind}})
	require.NoError(t, err)
	w.decide(decide.PutOff, rows[0], until("thu 9:00"))
	w.send(&rows[1], func(s *app.Sending) { s.Wait = "wed 12:00" })
	w.pass(10 * 24 * time.Hour) // the machine slept
	_, err = w.app.RunDue(w.ctx)
	require.NoError(t, err)
	entries, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	var got []string
	for _, e := range entries {
		if e.Actor == work.ByClock {
			got = append(got, e.At.In(start.Location()).Format("2 15:04 ")+e.Title)
		}
	}
	assert.Equal(t, []string{"26 09:00 Reminder: Ring the gate", "26 09:00 Came back: “Glass”", "25 12:00 No answer from Bram: “Crates”"}, got[:3], "newest first; of two at once the return comes before the reminder")
	assert.Contains(t, w.rows(decide.Inbox)[0].Back, "since")
	assert.Len(t, w.overview().Ringing, 1)
}

// How long a letter can be undone is the person's own; the longest wait is too.
func TestLettersWaitAsLongAsThePersonSays(t *testing.T) {
	w := newWorld(t)
	set := func(seconds int) error {
		_, err := w.app.EditSettings(w.ctx, w.who, rand.Text(), app.SettingsFields{SendDelay: &seconds})
		return err
	}
	send := func() {
		_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Writing: show.Writing{Kind: "new", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Subject: "Crates", Text: "Four."}})
		require.NoError(t, err)
	}
	require.NoError(t, set(60))
	send()
	w.pass(59 * time.Second)
	assert.Empty(t, w.post.sent)
	w.undo()
	w.pass(time.Minute)
	assert.Empty(t, w.post.sent)
	send()
	w.pass(time.Minute)
	assert.Len(t, w.post.sent, 1)

	require.NoError(t, set(0))
	send()
	w.pass(time.Second)
	assert.Len(t, w.post.sent, 2)
	require.ErrorContains(t, set(601), "up to ten minutes")
	require.ErrorContains(t, set(-1), "up to ten minutes")
}
