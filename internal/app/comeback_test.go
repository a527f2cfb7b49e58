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
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) ahead() show.AheadView {
	w.t.Helper()
	v, err := w.app.Ahead(w.ctx, w.who)
	require.NoError(w.t, err)
	return v
}

func (w *world) waits() []show.Waiting {
	w.t.Helper()
	list, err := w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(w.t, err)
	return list
}

func (w *world) editAhead(action, phrase string, on ...app.EntryRef) error {
	_, err := w.app.EditAhead(w.ctx, w.who, app.EditingAhead{Command: rand.Text(), Action: action, On: on, When: phrase})
	return err
}

var bramAnswers = mail{id: "two@freight.example", from: "Bram <bram@freight.example>", subject: "Re: Crates", answers: bramAsks.id}

func TestPutOffUntilTheyAnswer(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	out := w.decide(decide.PutOff, w.row(decide.Inbox), until("when she answers"))
	assert.Equal(t, "Put off “Crates” until they answer", out.Title)
	require.Len(t, w.waits(), 1, "it stands in Waiting")
	assert.Empty(t, w.waits()[0].Until)
	assert.Equal(t, "they answer", w.row(decide.Later).Return)
	w.undo()
	assert.Empty(t, w.waits(), "undone with it")
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when bram answers"))
	w.pass(time.Hour)
	later := bramAnswers
	later.extra = "Received: by mx.example; Tue, 24 Nov 2026 09:00:00 +0100\r\n"
	w.receive(later)
	assert.Contains(t, w.row(decide.Inbox).Back, "answered by Bram")
	assert.Empty(t, w.waits(), "met")

	w.decide(decide.PutOff, w.row(decide.Inbox), until("when she answers"))
	w.pass(100 * 24 * time.Hour)
	assert.Empty(t, w.rows(decide.Inbox), "no date brings it back")
}

func TestPutOffUnlessSomebodyAnswers(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.decide(decide.PutOff, row, until("fri if nobody has answered"))
	entries := w.ahead().Entries
	require.Len(t, entries, 1, "one entry, not a return and a limit")
	assert.Equal(t, "limit", entries[0].Kind)
	assert.Equal(t, 1, w.overview().Ahead)
	w.pass(4 * 24 * time.Hour)
	assert.Contains(t, w.row(decide.Inbox).Back, "no answer from Bram since")

	w.decide(decide.PutOff, w.row(decide.Inbox), until("3d unless answered"))
	require.Len(t, w.waits(), 1, "the old one is let go")
	w.decide(decide.Done, w.row(decide.Later))
	assert.Empty(t, w.waits(), "whatever is decided takes its place")
	w.pass(10 * 24 * time.Hour)
	assert.Empty(t, w.rows(decide.Inbox))

	d := app.Deciding{Command: rand.Text(), Kind: decide.PutOff, On: nil, When: "when Gustav answers"}
	d.On = append(d.On, seen(w.row(decide.Archive)))
	_, err := w.app.Decide(w.ctx, w.who, d)
	require.ErrorContains(t, err, "Nobody called “gustav”")
}

func TestAPlaceBringsBackWhatWaitsForIt(t *testing.T) {
	w := newWorld(t)
	for _, name := range []string{"the orangery", "Town office"} {
		_, err := w.app.NewSpot(w.ctx, w.who, rand.Text(), name)
		require.NoError(t, err)
	}
	_, err := w.app.NewSpot(w.ctx, w.who, rand.Text(), " town  OFFICE ")
	require.ErrorContains(t, err, "already")
	spots, err := w.app.Spots(w.ctx, w.who)
	require.NoError(t, err)
	orangery := spots.Spots[0].ID
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when I am at the orangery or in 3 weeks"))
	assert.Contains(t, w.row(decide.Later).Return, "you are at the orangery, or Tue 15 Dec")

	be := func(id int64) { _, err := w.app.BeAt(w.ctx, w.who, rand.Text(), id); require.NoError(t, err) }
	be(spots.Spots[1].ID)
	assert.Empty(t, w.rows(decide.Inbox))
	be(orangery)
	assert.Contains(t, w.row(decide.Inbox).Back, "you are at the orangery")
	_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, On: seenAll(w.rows(decide.Inbox)), When: "at the orangery"})
	require.ErrorContains(t, err, "You are at “the orangery” now")
	w.undo()
	assert.Empty(t, w.rows(decide.Inbox), "saying so was undone, and what came of it")

	// The place is taken off the list: what waits for it is not lost.
	_, err = w.app.EditSpot(w.ctx, w.who, rand.Text(), orangery, nil, true)
	require.NoError(t, err)
	assert.Contains(t, w.row(decide.Inbox).Back, "is gone")
	_, err = w.app.EditSpot(w.ctx, w.who, rand.Text(), orangery, nil, true)
	require.ErrorContains(t, err, "no longer on your list")
}

func TestItSaysHowOftenItWasPutOffAndOffersTheSame(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	for range 3 {
		w.decide(decide.PutOff, w.row(decide.Inbox), until("in 3 days at 10:00"), sure)
		w.pass(74 * time.Hour)
	}
	row := w.row(decide.Inbox)
	assert.Contains(t, row.Back, "put off 3 times since Tue 24 Nov")
	require.NotNil(t, row.Same)
	assert.Equal(t, "in 3 days at 10:00", row.Same.Phrase)
	w.receive(bramAnswers)
	assert.Zero(t, w.row(decide.Inbox).PutOffs, "a letter from somebody else begins the count anew")
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri"))
	w.receive(mail{id: "three@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id})
	row = w.row(decide.Inbox)
	require.NotNil(t, row.Again, "the old time is offered once")
	w.decide(decide.PutOff, row, until(row.Again.Phrase))
	assert.Nil(t, w.row(decide.Later).Again)
}

func TestAheadHoldsAllThatIsToCome(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "l@x.example", from: "Lise <lise@x.example>", subject: "Moss"})
	w.receive(mail{id: "m@x.example", from: "Maren <maren@x.example>", subject: "Glass"})
	rows := w.rows(decide.Inbox)
	w.decide(decide.PutOff, rows[0], until("fri 10:00"))
	w.decide(decide.PutOff, rows[1], until("someday"))
	title, due, remind := "Ring the gate", "thu 12:00", "thu 9:00"
	_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Due: &due, Remind: &[]string{remind}})
	require.NoError(t, err)
	w.send(&rows[2], func(s *app.Sending) { s.Wait = "next month" })
	kinds := func() (out []string) {
		v := w.ahead()
		total := 0
		for _, g := range v.Groups {
			total += g.Count
		}
		assert.Equal(t, len(v.Entries), total)
		assert.Equal(t, len(v.Entries), w.overview().Ahead, "the count is true")
		for _, e := range v.Entries {
			out = append(out, e.Kind+" "+v.Groups[e.Group].Label)
		}
		return out
	}
	assert.Equal(t, []string{"reminder Thursday 26 November", "due Thursday 26 November", "return Friday 27 November", "limit Tuesday 1 December", "return No date"}, kinds())

	refs := func() (out []app.EntryRef) {
		for _, e := range w.ahead().Entries {
			out = append(out, app.EntryRef{Kind: e.Kind, ID: e.ID})
		}
		return out
	}
	require.NoError(t, w.editAhead("move", "2 dec 15:00", refs()...))
	assert.Equal(t, []string{"return Wednesday 2 December", "return Wednesday 2 December", "limit Wednesday 2 December", "reminder Wednesday 2 December", "due Wednesday 2 December"}, kinds(), "several at once")
	w.undo()
	assert.Len(t, kinds(), 5)
	assert.Equal(t, "reminder Thursday 26 November", kinds()[0], "undone as one")

	all := refs()
	require.ErrorContains(t, w.editAhead("fetch", "", all[0]), "can be fetched back")
	require.NoError(t, w.editAhead("fetch", "", all[2]))
	assert.Contains(t, w.row(decide.Inbox).Back, "fetched back")
	require.NoError(t, w.editAhead("cancel", "", all[0], all[1], all[3], all[4]))
	assert.Empty(t, w.ahead().Entries)
	require.ErrorContains(t, w.editAhead("cancel", "", all[4]), "no longer to come", "two tabs at once")
	require.ErrorContains(t, w.editAhead("move", "soonish", all[0]), "not a time")
	w.undo()
	w.undo()
	assert.Len(t, w.ahead().Entries, 5, "nothing is lost")
}

func TestLettersAreSpreadOverDaysWithRoom(t *testing.T) {
	w := newWorld(t)
	for i := range 7 {
		w.receive(mail{id: fmt.Sprint(i, "@x.example"), from: "a@x.example", subject: fmt.Sprint("Letter ", i)})
	}
	title, due, estimate := "Long work", "wed", 200
	_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Due: &due, Estimate: &estimate})
	require.NoError(t, err)
	rows := w.rows(decide.Inbox)
	var ids []int64
	for _, r := range rows {
		ids = append(ids, r.ID)
	}
	plan, err := w.app.Spread(w.ctx, w.who, ids, "week")
	require.NoError(t, err)
	require.Len(t, plan.Days, 3, "Wednesday to Friday")
	assert.Zero(t, plan.Days[0].Count, "nothing more on a full day")
	assert.Equal(t, 7, plan.Days[1].Count+plan.Days[2].Count)
	assert.Len(t, w.rows(decide.Inbox), 7, "a preview changes nothing")
	each := map[int64]string{}
	for _, e := range plan.Each {
		each[e.ID] = e.Phrase
	}
	out, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, On: seenAll(rows), Each: each})
	require.NoError(t, err)
	assert.Equal(t, "Put off 7 letters over 2 days", out.Title)
	assert.Empty(t, w.rows(decide.Inbox))
	w.undo()
	assert.Len(t, w.rows(decide.Inbox), 7)
}

func TestThePickerSaysWhatADayHolds(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	title, due, estimate := "Long work", "thu", 400
	_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Due: &due, Estimate: &estimate})
	require.NoError(t, err)
	_, err = w.app.NewSpot(w.ctx, w.who, rand.Text(), "Town office")
	require.NoError(t, err)
	v, err := w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "thu 10", Conversation: w.row(decide.Inbox).ID, Count: 1})
	require.NoError(t, err)
	require.Len(t, v.Days, 14)
	assert.Equal(t, show.DayLoad{Date: "2026-11-26", Weekday: "Thu", Number: 26, Planned: 400, Free: 270, Tasks: 1, Over: true}, v.Days[2])
	assert.Zero(t, v.Days[4].Free, "no time on Saturday")
	require.NotNil(t, v.Reading)
	assert.True(t, v.Reading.Over)
	assert.Contains(t, v.Reading.Why, "Thursday would be over-full: 401 min planned for 270 free")
	var labels []string
	for _, p := range v.Proposals {
		labels = append(labels, p.Words)
	}
	assert.Subset(t, labels, []string{"tomorrow 08:30", "when Bram answers", "when I am at Town office", "today 18:00", "someday"})
	v, err = w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "at the castle", Conversation: 1})
	require.NoError(t, err)
	assert.NotEmpty(t, v.Trouble)
}

// A place that nobody has named yet can be made on the way, and the contexts of
// follow-ups are offered where a place is asked for.
func TestAnUnknownPlaceCanBeMade(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	title, context := "Weigh the crates", "customs shed"
	_, err := w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{Title: &title, Context: &context})
	require.NoError(t, err)
	row := w.row(decide.Inbox)
	v, err := w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "when I am at the cold store or fri 10", Conversation: row.ID})
	require.NoError(t, err)
	require.NotNil(t, v.Reading, v.Trouble)
	assert.Equal(t, "cold store", v.Reading.Makes)
	assert.Equal(t, "when I am at cold store, or Fri 27 Nov, 10:00", v.Reading.Words)
	var made []string
	for _, p := range v.Proposals {
		made = append(made, p.Makes)
	}
	assert.Contains(t, made, "customs shed")

	_, err = w.app.NewSpot(w.ctx, w.who, rand.Text(), v.Reading.Makes)
	require.NoError(t, err)
	w.decide(decide.PutOff, row, until(v.Reading.Phrase))
	assert.Empty(t, w.rows(decide.Inbox))
	again, err := w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "when I am at the cold store", Conversation: row.ID})
	require.NoError(t, err)
	assert.Empty(t, again.Reading.Makes, "now it is known")
}

func TestSettingsChangeHowTimesAreRead(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri 14:00"))
	edit := func(f app.SettingsFields) error {
		_, err := w.app.EditSettings(w.ctx, w.who, rand.Text(), f)
		return err
	}
	bad, early, late, zero := "Nowhere/Land", "07:00", "06:00", 0
	require.ErrorContains(t, edit(app.SettingsFields{Zone: &bad}), "not a time zone")
	require.ErrorContains(t, edit(app.SettingsFields{DayStart: &early, DayEnd: &late}), "before it ends")
	require.ErrorContains(t, edit(app.SettingsFields{Share: &zero}), "percent")
	for _, times := range [][]when.Named{
		{{Name: "", Phrase: "fri"}}, {{Name: "x", Phrase: "soonish"}}, {{Name: "fri", Phrase: "mon"}}, {{Name: "a", Phrase: "fri"}, {Name: "A", Phrase: "mon"}},
		{{Name: "x", Phrase: "fri", Key: "ab"}},
	} {
		assert.Error(t, edit(app.SettingsFields{Times: &times}), "%v", times)
	}
	times := []when.Named{{Name: "after the rounds", Phrase: "15:10", Key: "R"}, {Name: "later today", Phrase: "in 4 hours"}}
	require.NoError(t, edit(app.SettingsFields{DayStart: &early, Times: &times}))
	s, err := w.app.Settings(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, "07:00", s.DayStart)
	require.Len(t, s.Times, 2)
	assert.Equal(t, "today 15:10", s.Times[0].Reads)
	assert.Equal(t, "r", s.Times[0].Key)
	v, err := w.app.ReadPhrase(w.ctx, w.who, show.Asking{Phrase: "tomorrow", Plain: true})
	require.NoError(t, err)
	assert.Equal(t, "tomorrow 07:00", v.Reading.Words)

	// Travelling: the wall-clock time is kept, the instant moves; undone, it moves back.
	zone := "America/New_York"
	before := *w.ahead().Entries[0].At
	require.NoError(t, edit(app.SettingsFields{Zone: &zone}))
	assert.Equal(t, 6*time.Hour, w.ahead().Entries[0].At.Sub(before))
	w.undo()
	assert.Equal(t, before, *w.ahead().Entries[0].At)
	w.undo()
	s, err = w.app.Settings(w.ctx, w.who)
	require.NoError(t, err)
	assert.Len(t, s.Times, len(when.UsualTimes))
}

func TestANudgeIsDraftedAndMovesTheLimit(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.Wait = "tomorrow" })
	first := w.waits()[0]
	_, err := w.app.Nudge(w.ctx, w.who, first.ID)
	require.NoError(t, err, "also while the first letter is still in the outbox")
	w.pass(26 * time.Hour)
	assert.True(t, w.waits()[0].Late)
	n, err := w.app.Nudge(w.ctx, w.who, first.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Bram <bram@freight.example>"}, n.Writing.To)
	assert.Contains(t, n.Writing.Text, "Dear Bram,\n\non Tuesday 24 November I wrote to you about “Crates”")
	assert.Equal(t, "Re: Crates", n.Writing.Subject)
	assert.Len(t, w.post.sent, 1, "nothing is sent by drafting")
	w.send(nil, func(s *app.Sending) { s.Writing, s.Conversation, s.Saw = n.Writing, n.Conversation, n.Last })
	require.Len(t, w.waits(), 1, "no second waiting")
	assert.False(t, w.waits()[0].Late)
	assert.Empty(t, w.rows(decide.Inbox))
	w.undo()
	assert.True(t, w.waits()[0].Late, "undone, the old limit is back")

	dropped := waiting.Dropped
	_, err = w.app.EditWaiting(w.ctx, w.who, rand.Text(), first.ID, &dropped, nil, false)
	require.NoError(t, err)
	_, err = w.app.Nudge(w.ctx, w.who, first.ID)
	require.ErrorContains(t, err, "no longer waited for")
	settled, err := w.app.WaitingList(w.ctx, w.who, true)
	require.NoError(t, err)
	require.Len(t, settled, 1)
	assert.Equal(t, "dropped", settled[0].State)
}

func TestTheDayLineLooksBackAndAhead(t *testing.T) {
	w := newWorld(t)
	day := func(away int) show.Day {
		d, err := w.app.Day(w.ctx, w.who, away)
		require.NoError(t, err)
		return d
	}
	for range 2 * 7 {
		w.receive(mail{id: rand.Text() + "@x.example", from: "a@x.example", subject: rand.Text(), extra: "Received: by mx.example; " + w.clock.Now().Format(time.RFC1123Z) + "\r\n"})
		w.pass(24 * time.Hour)
	}
	today := day(0)
	assert.Equal(t, "Tuesday 8 December", today.Label)
	require.NotEmpty(t, today.Expected)
	assert.InDelta(t, 14, today.Expected[0].Count, 1e-9, "it goes on from the count of now")
	assert.InDelta(t, 15, today.Expected[len(today.Expected)-1].Count, 0.7, "one a day is expected")
	yesterday := day(-1)
	assert.Empty(t, yesterday.Expected, "what was is not expected")
	assert.Equal(t, 14, yesterday.Curve[len(yesterday.Curve)-1].Count)
	assert.Equal(t, 13, yesterday.Curve[0].Count)
	tomorrow := day(1)
	assert.Empty(t, tomorrow.Curve)
	require.NotEmpty(t, tomorrow.Expected)
	assert.Greater(t, tomorrow.Expected[len(tomorrow.Expected)-1].Count, 14.5)
	w.decide(decide.PutOff, w.rows(decide.Inbox)[0], until("tomorrow 10:00"))
	assert.Len(t, day(1).Marks, 1)
	assert.Equal(t, day(366), day(9999), "a year at most")
}

func TestACatchUpSumsUpAndIsSpread(t *testing.T) {
	w := newWorld(t)
	catchUp := func() show.CatchUp {
		c, err := w.app.CatchUp(w.ctx, w.who)
		require.NoError(t, err)
		return c
	}
	w.receive(bramAsks)
	assert.False(t, catchUp().Due, "somebody new has nothing to catch up with")
	w.decide(decide.PutOff, w.row(decide.Inbox), until("tomorrow"))
	for i := range 5 {
		w.pass(time.Minute)
		w.receive(mail{id: fmt.Sprint(i, "@list.example"), from: "News <news@list.example>", subject: fmt.Sprint("Issue ", i)})
	}
	assert.False(t, catchUp().Due, "little, and not long away")
	w.pass(4 * 24 * time.Hour)
	w.receive(mail{id: "ask@x.example", from: "Oda <oda@x.example>", subject: "Visit", text: "Could you tell me when we may come?"})
	w.receive(mail{id: "note@y.example", from: "Per <per@y.example>", subject: "Note", text: "Lot 44 is yours."})
	c := catchUp()
	assert.True(t, c.Due, "long away")
	assert.Equal(t, 8, c.Total)
	var labels []string
	for _, g := range c.Groups {
		labels = append(labels, fmt.Sprint(g.Label, " ", len(g.On)))
	}
	assert.Equal(t, []string{"Came back 1", "People who ask something 1", "News 5", "Everything else 1"}, labels)

	_, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: c.Groups[2].On})
	require.NoError(t, err)
	assert.False(t, catchUp().Due, "once a decision was made it is over")
	w.undo()
	assert.Len(t, w.rows(decide.Inbox), 8)
	for i := range 51 {
		w.receive(mail{id: fmt.Sprint("many", i, "@z.example"), from: fmt.Sprint("z", i, "@z.example"), subject: fmt.Sprint("Many ", i)})
	}
	w.pass(time.Minute)
	assert.False(t, catchUp().Due, "what came in the same moment is not after it")
	for i := range 51 {
		w.receive(mail{id: fmt.Sprint("more", i, "@z.example"), from: fmt.Sprint("z", i, "@z.example"), subject: fmt.Sprint("More ", i)})
	}
	assert.True(t, catchUp().Due, "much at once")
}
