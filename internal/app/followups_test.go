package app_test

import (
	"crypto/rand"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) capture(line string) int64 {
	w.t.Helper()
	out, err := w.app.Capture(w.ctx, w.who, rand.Text(), line)
	require.NoError(w.t, err, line)
	return out.FollowUp
}

func (w *world) followed(id int64) show.Followed {
	w.t.Helper()
	f, err := w.app.FollowUp(w.ctx, w.who, id)
	require.NoError(w.t, err)
	return f
}

func (w *world) track(f app.FollowUpFields, ids ...int64) app.Edited {
	w.t.Helper()
	out, err := w.app.EditFollowUps(w.ctx, w.who, rand.Text(), ids, f, 0)
	require.NoError(w.t, err)
	return out
}

func (w *world) board(by followup.Layout, f followup.Filter) show.Board {
	w.t.Helper()
	b, err := w.app.Board(w.ctx, w.who, show.Arranged{By: by, Filter: f})
	require.NoError(w.t, err)
	return b
}

// lanes prints a board as "Label: title, title | …".
func lanes(b show.Board) string {
	titles := map[int64]string{}
	for _, c := range b.Cards {
		titles[c.ID] = c.Title
	}
	var out []string
	for _, l := range b.Lanes {
		var names []string
		for _, id := range l.IDs {
			names = append(names, titles[id])
		}
		out = append(out, l.Label+": "+strings.Join(names, ", "))
	}
	return strings.Join(out, " | ")
}

func TestALineOfPlainWordsBecomesAFollowUp(t *testing.T) {
	w := newWorld(t)
	v, err := w.app.ReadCapture(w.ctx, w.who, "send lift height to Bram fri 10, high, for loan, by phone, 15 min")
	require.NoError(t, err)
	assert.Len(t, v.Chips, 5)
	f := w.followed(w.capture("send lift height to Bram fri 10, high, for loan, by phone, 15 min, remind 1 day before at 9, every fri"))
	assert.Equal(t, "send lift height to Bram", f.Title)
	assert.Equal(t, "Fri 27 Nov, 10:00", f.Due)
	assert.Equal(t, followup.High, f.Priority)
	assert.Equal(t, []any{"loan", "phone", 15, "every fri", "Thu 26 Nov, 09:00"}, []any{f.Project, f.Context, f.Estimate, f.Recurs, f.Remind})
	require.Len(t, f.History, 1)
	v, err = w.app.ReadCapture(w.ctx, w.who, "ring him, for l")
	require.NoError(t, err)
	assert.Equal(t, []string{"ring him, for loan"}, v.Complete)
	for _, bad := range []string{"", "  ", "clean, every 31 february", "x, remind someday"} {
		_, err := w.app.Capture(w.ctx, w.who, rand.Text(), bad)
		assert.Error(t, err, bad)
	}
	assert.Equal(t, 1, w.overview().FollowUp)
}

func TestBadFieldsAreRefused(t *testing.T) {
	w := newWorld(t)
	id := w.capture("Write, fri 10:00")
	for name, c := range map[string]struct {
		f   app.FollowUpFields
		say string
	}{
		"starts after it is due":   {app.FollowUpFields{Start: ref("sat")}, "due before it starts"},
		"due before it starts":     {app.FollowUpFields{Start: ref("thu"), Due: ref("wed 9:00")}, "due before it starts"},
		"reminder after due":       {app.FollowUpFields{Remind: &[]string{"fri 11:00"}}, "after it is due"},
		"a recurrence that is not": {app.FollowUpFields{Recurs: ref("every 31 february")}, "never comes"},
		"a long note":              {app.FollowUpFields{Notes: ref(strings.Repeat("x", 10<<20))}, "longer than 1 MB"},
		"no title":                 {app.FollowUpFields{Title: ref(" ")}, "needs a title"},
		"a long name":              {app.FollowUpFields{Project: ref(strings.Repeat("x", 200))}, "too long"},
		"a stage that is gone":     {app.FollowUpFields{Stage: ref(int64(99))}, "no longer there"},
		"an unreadable due":        {app.FollowUpFields{Due: ref("soonish")}, "soonish"},
		"made late":                {app.FollowUpFields{Lane: &app.LaneRef{By: followup.ByDue, Key: "overdue"}}, "name a day"},
		"an odd priority":          {app.FollowUpFields{Lane: &app.LaneRef{By: followup.ByPriority, Key: "huge"}}, "priority"},
	} {
		_, err := w.app.EditFollowUp(w.ctx, w.who, rand.Text(), id, c.f, 0)
		require.ErrorContains(t, err, c.say, name)
	}
	assert.Equal(t, "Fri 27 Nov, 10:00", w.followed(id).Due, "nothing was changed")
	w.track(app.FollowUpFields{Recurs: ref("FREQ=DAILY")}, id)
	assert.Equal(t, "every day", w.followed(id).Recurs, "a rule without an end is fine: one is made at a time")
}

func TestARecurringFollowUpMakesTheNextOne(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	made := w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) {
		d.FollowUp = &app.FollowUpFields{Due: ref("tomorrow to fri 10:00"), Recurs: ref("every fri"), Remind: &[]string{"1 day before at 9"}, Checklist: &[]followup.Item{{Text: "a", Done: true}}}
	}).FollowUp
	done := followup.Done
	out := w.track(app.FollowUpFields{Status: &done}, made)
	require.Len(t, out.Next, 1)
	next := w.followed(out.Next[0])
	assert.Equal(t, "Fri 4 Dec, 10:00", next.Due)
	assert.Equal(t, "Wed 2 Dec", next.Start)
	assert.Equal(t, "Thu 3 Dec, 09:00", next.Remind)
	assert.Equal(t, []followup.Item{{Text: "a"}}, next.Checklist)
	assert.Len(t, next.Letters, 1, "the letter goes along")
	assert.Empty(t, w.followed(made).Recurs)
	w.undo()
	assert.Equal(t, 1, w.overview().FollowUp, "undone, there is one again")
	assert.Equal(t, "every fri", w.followed(made).Recurs)

	_, err := w.app.SkipFollowUp(w.ctx, w.who, rand.Text(), made)
	require.NoError(t, err)
	assert.Equal(t, "Fri 4 Dec, 10:00", w.followed(made).Due)
	w.pass(30 * 24 * time.Hour)
	out = w.track(app.FollowUpFields{Status: &done}, made)
	assert.Equal(t, "tomorrow 10:00", w.followed(out.Next[0]).Due, "what was missed is not made up for")

	after := w.capture("Water, fri, 3 days after done")
	out = w.track(app.FollowUpFields{Status: &done}, after)
	assert.Equal(t, "Sun 27 Dec", w.followed(out.Next[0]).Due)
	twice := w.capture("Twice, tomorrow, every day, 2 times")
	require.NotEmpty(t, w.followed(twice).Recurs)
	ended := w.capture("Ends, every day until tomorrow")
	for range 2 {
		out = w.track(app.FollowUpFields{Status: &done}, ended)
		if len(out.Next) > 0 {
			ended = out.Next[0]
		}
	}
	assert.Empty(t, out.Next, "the series has ended")
	w.track(app.FollowUpFields{Recurs: ref("")}, twice)
	assert.Empty(t, w.followed(twice).Recurs)
}

func TestRecurrenceKeepsTheClockOverTheChange(t *testing.T) {
	w := newWorld(t)
	w.pass(120 * 24 * time.Hour) // 24 March; clocks go forward on the 28th
	id := w.capture("Rota, thu 9:00, every thu, remind 1 hour before")
	done := followup.Done
	next := w.followed(w.track(app.FollowUpFields{Status: &done}, id).Next[0])
	assert.Equal(t, "Thu 1 Apr, 09:00", next.Due)
	assert.Equal(t, "Thu 1 Apr, 08:00", next.Remind)
	assert.Equal(t, "07:00", next.DueAt.UTC().Format("15:04"), "summer time")
}

func TestRemindersMoveWithTheDue(t *testing.T) {
	w := newWorld(t)
	id := w.capture("Write, fri 10:00, remind 1 hour before, remind thu 15:00, remind when due")
	words := func() (out []string) {
		for _, r := range w.followed(id).Reminders {
			out = append(out, r.Words+" "+r.State)
		}
		return out
	}
	assert.Equal(t, []string{"Thu 26 Nov, 15:00 set", "Fri 27 Nov, 09:00 set", "Fri 27 Nov, 10:00 set"}, words())
	w.track(app.FollowUpFields{Due: ref("mon 12:00")}, id)
	assert.Equal(t, []string{"Thu 26 Nov, 15:00 set", "Mon 30 Nov, 11:00 set", "Mon 30 Nov, 12:00 set"}, words())
	require.NoError(t, w.editAhead("move", "tue 12:00", app.EntryRef{Kind: "due", ID: id}), "from Ahead too")
	assert.Equal(t, "Tue 1 Dec, 11:00 set", words()[1])
	w.track(app.FollowUpFields{Due: ref("")}, id)
	assert.Contains(t, words(), "1 hour before set", "without a due it waits for one")
	w.undo()
	w.pass(2*24*time.Hour + 8*time.Hour)
	assert.Equal(t, "today 15:00", w.overview().Ringing[0].Remind, "the one that rings is shown")
	w.pass(5 * 24 * time.Hour)
	assert.Len(t, w.overview().Ringing, 1)
	assert.True(t, w.overview().Ringing[0].Rang)
	w.track(app.FollowUpFields{Remind: &[]string{}}, id)
	assert.Empty(t, w.overview().Ringing)
}

func TestTheBoardLaysOutAndIsPutTogether(t *testing.T) {
	w := newWorld(t)
	a := w.capture("A, today, high, for Loan, by phone, 30 min")
	b := w.capture("B, tomorrow, for Board, owner Henrik")
	c := w.capture("C, urgent")
	w.capture("D, in 3 months")
	assert.Equal(t, "Today: A | This week: B | This month:  | Further on: D | Someday: C", lanes(w.board(followup.ByDue, followup.Filter{})))
	assert.Equal(t, "Urgent: C | High: A | Normal: B, D | Low: ", lanes(w.board(followup.ByPriority, followup.Filter{})))
	assert.Equal(t, "Board: B | Loan: A | No project: C, D", lanes(w.board(followup.ByProject, followup.Filter{})))
	assert.Equal(t, "Henrik: B | Nobody: A, C, D", lanes(w.board(followup.ByPerson, followup.Filter{})))
	assert.Equal(t, "phone: A | Anywhere: C, B, D", lanes(w.board(followup.ByContext, followup.Filter{})))
	board := w.board(followup.ByDue, followup.Filter{Text: "loan PHONE"})
	assert.Equal(t, "Today: A | This week:  | This month:  | Someday: ", lanes(board))
	assert.Equal(t, []int{1, 4}, []int{board.Total, board.All})
	assert.Equal(t, 1, w.board(followup.ByDue, followup.Filter{Mine: true, Most: 20, Priority: []followup.Priority{followup.Urgent, followup.Low}}).Total)

	put := func(by followup.Layout, key string, ids ...int64) {
		w.track(app.FollowUpFields{Lane: &app.LaneRef{By: by, Key: key}}, ids...)
	}
	put(followup.ByDue, "week", a, c)
	assert.Equal(t, "Fri 27 Nov", w.followed(c).Due, "the last working day of the week")
	put(followup.ByDue, "week", b)
	assert.Equal(t, "tomorrow", w.followed(b).Due, "what is there already keeps its due")
	put(followup.ByDue, "someday", c)
	assert.Empty(t, w.followed(c).Due)
	put(followup.ByPriority, "low", a, b, c)
	assert.Equal(t, 3, w.board(followup.ByPriority, followup.Filter{Priority: []followup.Priority{followup.Low}}).Total)
	w.undo()
	assert.Equal(t, followup.Urgent, w.followed(c).Priority, "undone as one")
	assert.Equal(t, followup.High, w.followed(a).Priority)

	_, err := w.app.RenameIn(w.ctx, w.who, rand.Text(), "project", "Loan", "Bromeliad loan")
	require.NoError(t, err)
	assert.Equal(t, "Bromeliad loan", w.followed(a).Project)
	_, err = w.app.RenameIn(w.ctx, w.who, rand.Text(), "project", "Bromeliad loan", "")
	require.NoError(t, err)
	assert.Empty(t, w.followed(a).Project, "a removed project leaves its follow-ups")
	w.undo()
	assert.Equal(t, "Bromeliad loan", w.followed(a).Project)
}

func TestStagesAndKeptFilters(t *testing.T) {
	w := newWorld(t)
	for _, name := range []string{"Draft", "Review", "Print"} {
		_, err := w.app.NewStage(w.ctx, w.who, rand.Text(), app.StageFields{Name: &name})
		require.NoError(t, err)
	}
	_, err := w.app.NewStage(w.ctx, w.who, rand.Text(), app.StageFields{Name: ref("draft")})
	require.ErrorContains(t, err, "already")
	id := w.capture("Write it, stage review")
	stages := w.board(followup.ByStage, followup.Filter{}).Stages
	_, err = w.app.EditStage(w.ctx, w.who, rand.Text(), stages[2].ID, app.StageFields{Position: ref(0), Most: ref(1)})
	require.NoError(t, err)
	assert.Equal(t, "No stage:  | Print:  | Draft:  | Review: Write it", lanes(w.board(followup.ByStage, followup.Filter{})))
	w.track(app.FollowUpFields{Lane: &app.LaneRef{By: followup.ByStage, Key: fmt.Sprint(stages[2].ID)}}, id)
	assert.Equal(t, stages[2].ID, w.followed(id).Stage)
	_, err = w.app.EditStage(w.ctx, w.who, rand.Text(), stages[2].ID, app.StageFields{Remove: true})
	require.NoError(t, err)
	assert.Equal(t, "No stage: Write it | Draft:  | Review: ", lanes(w.board(followup.ByStage, followup.Filter{})))
	w.undo()
	assert.Equal(t, stages[2].ID, w.followed(id).Stage)
	_, err = w.app.EditStage(w.ctx, w.who, rand.Text(), 999, app.StageFields{})
	require.ErrorContains(t, err, "no longer there")

	keep := func(name string, f followup.Filter) {
		_, err := w.app.KeepFilter(w.ctx, w.who, rand.Text(), name, followup.ByStage, f)
		require.NoError(t, err)
	}
	keep("Short", followup.Filter{Most: 10})
	keep("short", followup.Filter{Most: 20})
	kept := w.board(followup.ByDue, followup.Filter{}).Filters
	require.Len(t, kept, 1)
	assert.Equal(t, show.KeptFilter{ID: kept[0].ID, Name: "Short", By: followup.ByStage, Filter: followup.Filter{Most: 20}}, kept[0])
	_, err = w.app.DropFilter(w.ctx, w.who, rand.Text(), kept[0].ID)
	require.NoError(t, err)
	_, err = w.app.DropFilter(w.ctx, w.who, rand.Text(), kept[0].ID)
	require.ErrorContains(t, err, "no longer there")
}

func TestTwoTabsEditOneFollowUp(t *testing.T) {
	w := newWorld(t)
	id := w.capture("Write, fri")
	seen := w.followed(id).Version
	change := func(f app.FollowUpFields) app.Edited {
		out, err := w.app.EditFollowUp(w.ctx, w.who, rand.Text(), id, f, seen)
		require.NoError(t, err)
		return out
	}
	assert.Empty(t, change(app.FollowUpFields{Title: ref("Write it")}).Over)
	assert.Empty(t, change(app.FollowUpFields{Project: ref("Loan")}).Over, "another field: both count")
	out := change(app.FollowUpFields{Title: ref("Write to her")})
	assert.Equal(t, []app.Overwritten{{Field: "title", Was: "Write it"}}, out.Over, "the later one counts, the earlier is offered")
	f := w.followed(id)
	assert.Equal(t, []string{"Write to her", "Loan"}, []string{f.Title, f.Project})
	assert.Len(t, f.History, 4)
}

func TestAFlagWithTimes(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	flag := func(phrase string) error {
		_, err := w.app.Flag(w.ctx, w.who, rand.Text(), seenAll(w.rows(decide.Inbox)), phrase)
		return err
	}
	require.NoError(t, flag("tomorrow to fri, remind thu 10"))
	id := w.row(decide.Inbox).FollowUps[0].ID
	f := w.followed(id)
	assert.Equal(t, []string{"tomorrow", "Fri 27 Nov", "Thu 26 Nov, 10:00"}, []string{f.Start, f.Due, f.Remind})
	require.NoError(t, flag("mon"), "an open flag gets the new time")
	assert.Len(t, w.row(decide.Inbox).FollowUps, 1)
	assert.Equal(t, "Mon 30 Nov", w.followed(id).Due)
	require.ErrorContains(t, flag("fri, mon"), "second due")
	require.ErrorContains(t, flag(","), "Type a time")
	require.NoError(t, flag(""))
	assert.Empty(t, w.row(decide.Inbox).FollowUps, "flagged again: done")
}

func TestTodayIsMadeToFit(t *testing.T) {
	w := newWorld(t)
	w.capture("Must, today 15:00, urgent, 200 min")
	a := w.capture("A, today, 60 min")
	b := w.capture("B, today, low, 100 min")
	fit, err := w.app.Fit(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, []int{360, 270, 0}, []int{fit.Planned, fit.Free, fit.Left})
	require.Len(t, fit.Moves, 1)
	assert.Equal(t, show.FitOne{ID: b, Title: "B", Estimate: 100, To: fit.Moves[0].To, Words: "tomorrow"}, fit.Moves[0])
	_, err = w.app.TakeFit(w.ctx, w.who, rand.Text(), []app.FitMove{{ID: b, To: fit.Moves[0].To}, {ID: 999, To: "fri"}})
	require.NoError(t, err)
	assert.Equal(t, "tomorrow", w.followed(b).Due)
	w.undo()
	assert.Equal(t, "today", w.followed(b).Due)
	done := followup.Done
	w.track(app.FollowUpFields{Status: &done}, a, b)
	_, err = w.app.TakeFit(w.ctx, w.who, rand.Text(), []app.FitMove{{ID: b, To: "fri"}})
	require.ErrorContains(t, err, "nothing left to move")
}

func TestNotesAreMarkdownThatRunsNothing(t *testing.T) {
	html, err := followup.NotesHTML("# Plan\n\n- [x] *one*\n\n<script>alert(1)</script> ![p](http://x.example/p.png) [a](javascript:alert(1)) https://x.example")
	require.NoError(t, err)
	assert.Contains(t, html, "<h1>Plan</h1>")
	assert.Contains(t, html, `<em>one</em>`)
	for _, bad := range []string{"<script", "<img", "javascript:"} {
		assert.NotContains(t, html, bad)
	}
}

func TestDoneOnesKeepTheirLetterAndAreReopened(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	id := w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{} }).FollowUp
	done, open := followup.Done, followup.Open
	w.track(app.FollowUpFields{Status: &done}, id)
	board, err := w.app.Board(w.ctx, w.who, show.Arranged{By: followup.ByDue, Closed: true, Filter: followup.Filter{Text: "crate"}})
	require.NoError(t, err)
	require.Len(t, board.Lanes, 1)
	assert.Equal(t, "November 2026", board.Lanes[0].Label)
	assert.Len(t, w.followed(id).Letters, 1)
	assert.Len(t, w.followed(id).History, 2)
	w.track(app.FollowUpFields{Status: &open}, id)
	assert.Equal(t, 1, w.overview().FollowUp)
}

func TestHandingOverWaitsAndComesBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	id := w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{Due: ref("fri"), Notes: ref("All four.")} }).FollowUp
	hand := func() {
		n, err := w.app.HandOver(w.ctx, w.who, id)
		require.NoError(t, err)
		assert.Contains(t, n.Writing.Text, "can you see to this by Fri 27 Nov, please: Confirm the four crate sizes\n\nAll four.")
		n.Writing.To = []string{"Henrik <henrik@x.example>"}
		w.send(nil, func(s *app.Sending) { s.Writing, s.Conversation, s.Saw = n.Writing, n.Conversation, n.Last })
	}
	hand()
	f := w.followed(id)
	assert.Equal(t, []any{followup.Waiting, "Henrik"}, []any{f.Status, f.Assignee})
	w.undo()
	assert.Equal(t, followup.Open, w.followed(id).Status, "undone with the letter")
	hand()
	w.pass(time.Minute)
	sent := string(w.post.sent[0])
	assert.Contains(t, sent, "four crate sizes", "the letter goes along")
	require.Len(t, w.waits(), 1)
	w.pass(5 * 24 * time.Hour)
	assert.Equal(t, followup.Open, w.followed(id).Status, "at the limit it comes back")
	assert.Contains(t, w.row(decide.Inbox).Back, "no answer from Henrik")

	noLetter := w.capture("Ring the gate")
	n, err := w.app.HandOver(w.ctx, w.who, noLetter)
	require.NoError(t, err)
	n.Writing.To = []string{"Lise <lise@x.example>"}
	w.send(nil, func(s *app.Sending) { s.Writing = n.Writing })
	w.pass(time.Minute)
	assert.Equal(t, followup.Waiting, w.followed(noLetter).Status)
	id2 := strings.Trim(strings.SplitN(strings.SplitN(string(w.post.sent[1]), "Message-Id: ", 2)[1], "\r\n", 2)[0], "<>")
	w.receive(mail{id: "ok@x.example", from: "Lise <lise@x.example>", subject: "Re: Ring", answers: id2, extra: "Received: by mx.example; " + w.clock.Now().Format(time.RFC1123Z) + "\r\n"})
	assert.Equal(t, followup.Open, w.followed(noLetter).Status, "answered, it is to be looked at")
}

func TestAFollowUpWaits(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	wait := func(id int64, until string) error {
		_, err := w.app.WaitFollowUp(w.ctx, w.who, rand.Text(), id, until)
		return err
	}
	id := w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{} }).FollowUp
	require.ErrorContains(t, wait(id, "someday"), "limit")
	require.NoError(t, wait(id, "fri"))
	assert.Equal(t, followup.Waiting, w.followed(id).Status)
	require.Len(t, w.waits(), 1)
	plain := w.capture("Think")
	require.NoError(t, wait(plain, "thu 10:00"))
	assert.Equal(t, "Thu 26 Nov, 10:00", w.followed(plain).Remind)
	w.pass(5 * 24 * time.Hour)
	assert.Equal(t, followup.Open, w.followed(id).Status)
	done := followup.Done
	w.track(app.FollowUpFields{Status: &done}, id)
	require.ErrorContains(t, wait(id, "fri"), "no longer open")
}
