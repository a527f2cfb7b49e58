package app_test

import (
	"crypto/rand"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// arrive receives a letter with its envelope.
func (w *world) arrive(m mail, returnPath string) {
	w.t.Helper()
	to := m.to
	if to == "" {
		to = "ines@norrholm.example"
	}
	require.NoError(w.t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: to, Source: "smtp", Raw: m.bytes(start), At: w.clock.Now(), ReturnPath: &returnPath}))
}

func (w *world) mark(what string, off bool, ids ...int64) app.Decided {
	w.t.Helper()
	out, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: ids, Mark: what, Off: off})
	require.NoError(w.t, err)
	return out
}

// A letter that came in an empty envelope is a machine's, whatever it says: it
// gets no note, answers nothing that is waited for, and fetches nothing from
// the bin.
func TestAnEmptyEnvelopeIsAMachines(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.Wait = "1w" })
	w.pass(time.Minute)
	answer := mail{id: "bounce", from: "Bram <bram@freight.example>", subject: "Re: Crates", answers: bramAsks.id}
	w.arrive(answer, "")
	require.Len(t, w.waits(), 1, "nobody has answered")
	w.decide(decide.ToBin, w.row(decide.Archive))
	w.arrive(mail{id: "bounce2", from: "Bram <bram@freight.example>", subject: "Re: Crates", answers: bramAsks.id, text: "again"}, "")
	assert.Empty(t, w.rows(decide.Inbox))

	w.plan("daily 20:00")
	w.note(delivery.Between)
	sent := len(w.post.sent)
	w.arrive(mail{id: "n1", from: "A <a@x.example>", subject: "one"}, "")
	w.arrive(mail{id: "n2", from: "L <l@x.example>", subject: "two"}, "owner-list@x.example")
	w.arrive(mail{id: "n3", from: "owner-list@x.example", subject: "three"}, "b@x.example")
	w.pass(time.Second)
	assert.Len(t, w.post.sent, sent, "no notes to machines")
	w.arrive(mail{id: "n4", from: "C <c@x.example>", subject: "four"}, "c-bounces-here@y.example")
	w.pass(time.Second)
	require.Len(t, w.post.sent, sent+1)
	assert.Equal(t, []string{"c-bounces-here@y.example"}, w.post.to[sent], "the note goes to the return path")
	assert.Empty(t, w.post.from[sent])
}

func TestNobodyInJunkGetsANote(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.ToJunk, w.row(decide.Inbox))
	w.plan("daily 20:00")
	w.note(delivery.Between)
	w.receive(mail{id: "more", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id})
	w.pass(time.Second)
	assert.Empty(t, w.post.sent)
}

// A letter to two accounts that is held waits at both, and is let in at the
// first that opens, with both marks.
func TestAHeldLetterToTwoAccounts(t *testing.T) {
	for _, first := range []int64{1, 2} {
		w := newWorld(t)
		_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
		require.NoError(t, err)
		both := mail{id: "both", from: "Bram <bram@freight.example>", subject: "both", to: "ines@norrholm.example, walks@norrholm.example"}
		for _, to := range []string{"ines@norrholm.example", "walks@norrholm.example"} {
			require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: to, Source: "smtp", Raw: both.bytes(start), At: w.clock.Now()}))
		}
		assert.Equal(t, 1, w.overview().Held)
		out, err := w.app.LetIn(w.ctx, w.who, rand.Text(), first, false)
		require.NoError(t, err)
		assert.Equal(t, "1 letter let in", out.Title)
		assert.Equal(t, []int64{1, 2}, w.row(decide.Inbox).Accounts)
		assert.Zero(t, w.overview().Held)
	}
}

// A second copy that is held changes nothing of the row until it is let in.
func TestAHeldCopyChangesNothing(t *testing.T) {
	w := newWorld(t)
	letter := mail{id: "both", from: "Bram <bram@freight.example>", subject: "both", to: "ines@norrholm.example, walks@norrholm.example"}
	bring := func(to string) {
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: to, Source: "smtp", Raw: letter.bytes(start), At: w.clock.Now()}))
	}
	bring("ines@norrholm.example")
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Account: 2})
	require.NoError(t, err)
	bring("walks@norrholm.example")
	assert.Equal(t, []int64{1}, w.row(decide.Inbox).Accounts)
	assert.Zero(t, w.overview().Held, "no letter waits")
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 2, true)
	require.NoError(t, err)
	assert.Equal(t, []int64{1, 2}, w.row(decide.Inbox).Accounts)
}

// Undoing an import leaves what was used, by whatever use, and names it.
func TestUndoingAnImportLeavesWhatWasUsed(t *testing.T) {
	w := newWorld(t)
	folder := t.TempDir()
	for _, s := range []string{"alone", "starred", "flagged", "followed", "drafted", "answered"} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, s+".eml"), mail{id: s, from: "Bram <bram@freight.example>", subject: s}.bytes(start), 0o600))
	}
	v := w.importFile(folder, nil)
	require.Equal(t, 6, v.New)
	row := func(s string) show.Row { return w.titled(decide.Archive, s) }
	seen := func(s string) store.Seen { return store.Seen{ID: row(s).ID, Last: row(s).Last} }
	w.mark("star", false, row("starred").ID)
	_, err := w.app.Flag(w.ctx, w.who, rand.Text(), []store.Seen{seen("flagged")}, "")
	require.NoError(t, err)
	_, err = w.app.NewFollowUp(w.ctx, w.who, rand.Text(), app.FollowUpFields{}, seen("followed"))
	require.NoError(t, err)
	_, err = w.app.SaveDraft(w.ctx, w.who, rand.Text(), row("drafted").ID, show.Writing{Kind: "answer", Text: "Dear"})
	require.NoError(t, err)
	answered := row("answered")
	w.send(&answered, func(s *app.Sending) { s.Stay = true })
	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), v.Entry, true)
	require.NoError(t, err)
	assert.Contains(t, out.Title, "1 conversation binned")
	require.Len(t, out.Left, 5)
	for _, s := range []string{"starred", "flagged", "followed", "drafted", "answered"} {
		assert.Contains(t, strings.Join(out.Left, "\n"), "“"+s+"”")
	}
	assert.True(t, w.has(decide.Bin, "alone"))
}

// Undo follows a conversation that was joined to another since.
func TestUndoFollowsAJoin(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "Bram <bram@freight.example>", subject: "first", answers: "parent"})
	w.receive(mail{id: "b", from: "Tove <tove@else.example>", subject: "second", answers: "other"})
	a, b := w.titled(decide.Inbox, "first"), w.titled(decide.Inbox, "second")
	starred := w.mark("star", false, b.ID)
	w.receive(mail{id: "both", from: "Oda <oda@else.example>", subject: "links", extra: "References: <a> <b>\r\n"})
	row := w.row(decide.Inbox)
	assert.Equal(t, a.ID, row.ID)
	assert.True(t, row.Star)
	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), starred.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, "Undone: Starred “second”", out.Title)
	assert.Empty(t, out.Left)
	assert.False(t, w.row(decide.Inbox).Star, "the star is gone")
}

// Undo never claims what it did not do, and names what it leaves in people's
// words.
func TestUndoNamesWhatItLeaves(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a", from: "Bram <bram@freight.example>", subject: "Crates"})
	w.receive(mail{id: "b", from: "Tove <tove@else.example>", subject: "Rota"})
	a, b := w.titled(decide.Inbox, "Crates"), w.titled(decide.Inbox, "Rota")
	done, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: []store.Seen{{ID: a.ID, Last: a.Last}, {ID: b.ID, Last: b.Last}}})
	require.NoError(t, err)
	w.decide(decide.ToBin, w.titled(decide.Archive, "Crates"))
	for range 3 { // in the same order each time
		out, err := w.app.Undo(w.ctx, w.who, rand.Text(), done.Entry, true)
		require.NoError(t, err)
		assert.Equal(t, "Undone in part: Done with 2 letters", out.Title)
		assert.Equal(t, []string{"Left as it is: “Crates”, moved since."}, out.Left)
		_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: []store.Seen{{ID: b.ID, Last: b.Last}}})
		require.NoError(t, err)
		break
	}

	binned := w.decide(decide.ToBin, w.titled(decide.Archive, "Rota"))
	w.pass(31 * 24 * time.Hour)
	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), binned.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, "Nothing left to undo of: Binned “Rota”", out.Title)
	require.Len(t, out.Left, 1)
	assert.Contains(t, out.Left[0], "gone for good since")
}

func TestAnEmptyOrABorrowedIDTiesNothingTogether(t *testing.T) {
	w := newWorld(t)
	for i := range 3 {
		w.receive(mail{id: "", from: fmt.Sprintf("P <p%d@x.example>", i), subject: fmt.Sprint("empty ", i)})
		w.receive(mail{id: "the-same@x.example", from: fmt.Sprintf("Q <q%d@x.example>", i), subject: fmt.Sprint("borrowed ", i)})
	}
	assert.Len(t, w.rows(decide.Inbox), 6)
	w.receive(mail{id: "the-same@x.example", from: "Q <q0@x.example>", subject: "borrowed 0", text: "with the list’s footer"})
	assert.Len(t, w.rows(decide.Inbox), 6, "another version of one’s own letter is with it")
}

func TestWhatIsGoneIsSaid(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	out, err := w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: []store.Seen{{ID: row.ID, Last: row.Last}, {ID: 99, Last: 1}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"1 of them is no longer there."}, out.Left)
}

func TestAnUndoneSendWithoutADraftGivesItsTextBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.Draft, s.Text = "", "The whole answer." })
	out := w.undo()
	require.NotEmpty(t, out.Draft)
	drafts, err := w.app.Drafts(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, drafts, 1)
	assert.Equal(t, "The whole answer.", drafts[0].Writing.Text)
}

// Before the third time Ebbe asks, whoever puts off.
func TestTheThirdTimeIsAsked(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	for _, phrase := range []string{"tomorrow", "2d"} {
		w.decide(decide.PutOff, w.row(decide.Inbox), until(phrase))
		w.pass(49 * time.Hour)
	}
	row := w.row(decide.Inbox)
	d := app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "3d", On: []store.Seen{{ID: row.ID, Last: row.Last}}}
	_, err := w.app.Decide(w.ctx, w.who, d)
	var p *app.Problem
	require.True(t, errors.As(err, &p))
	assert.Equal(t, "put-off-again", p.Kind)
	assert.Equal(t, []string{"answer", "hand-on", "follow-up", "done", "later"}, p.Choices)
	d.Sure = true
	_, err = w.app.Decide(w.ctx, w.who, d)
	require.NoError(t, err)
	assert.Empty(t, w.rows(decide.Inbox))
}

// However something is put off once more, it is asked: one letter or many, by
// spreading, by moving in Ahead or by moving the limit of an answer.
func TestEveryWayOfPuttingOffAsks(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	for _, phrase := range []string{"tomorrow", "2d"} {
		w.decide(decide.PutOff, w.row(decide.Inbox), until(phrase))
		w.pass(49 * time.Hour)
	}
	w.receive(mail{id: "o1", from: "Tove <tove@else.example>", subject: "Ropes"})
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 2)
	often := rows[slices.IndexFunc(rows, func(r show.Row) bool { return r.Often })]
	asked := func(err error) {
		t.Helper()
		var p *app.Problem
		require.ErrorAs(t, err, &p)
		require.Equal(t, "put-off-again", p.Kind)
		require.Equal(t, []int64{often.ID}, p.On)
	}
	d := app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "3d", On: seenAll(rows)}
	_, err := w.app.Decide(w.ctx, w.who, d)
	asked(err)
	require.Len(t, w.rows(decide.Inbox), 2, "nothing of it was done")

	spread, err := w.app.Spread(w.ctx, w.who, []int64{rows[0].ID, rows[1].ID}, "next-week")
	require.NoError(t, err)
	d.When, d.Each = "", map[int64]string{}
	for _, e := range spread.Each {
		d.Each[e.ID] = e.Phrase
	}
	_, err = w.app.Decide(w.ctx, w.who, d)
	asked(err)

	w.decide(decide.PutOff, often, until("3d if nobody has answered"), sure)
	limit := app.EntryRef{Kind: "limit", ID: w.waits()[0].ID}
	e := app.EditingAhead{Command: rand.Text(), Action: "move", When: "5d", On: []app.EntryRef{limit}}
	_, err = w.app.EditAhead(w.ctx, w.who, e)
	asked(err)
	later := "5d"
	_, err = w.app.EditWaiting(w.ctx, w.who, rand.Text(), limit.ID, nil, &later, false)
	asked(err)
	e.When = "1d"
	_, err = w.app.EditAhead(w.ctx, w.who, e)
	require.NoError(t, err, "earlier is no putting off")
	assert.Contains(t, w.row(decide.Later).Return, "tomorrow", "the row says when it comes now")

	w.decide(decide.PutOff, w.row(decide.Later), until("2d"), sure)
	e = app.EditingAhead{Command: rand.Text(), Action: "move", When: "6d", On: []app.EntryRef{{Kind: "return", ID: often.ID}}}
	_, err = w.app.EditAhead(w.ctx, w.who, e)
	asked(err)
	e.Sure = true
	_, err = w.app.EditAhead(w.ctx, w.who, e)
	require.NoError(t, err)
}

// A letter that was put off until an answer comes never stays away because
// nothing is waited for any more.
func TestWhatWaitsForAnAnswerIsNeverStranded(t *testing.T) {
	dropped, met, none := waiting.Dropped, waiting.Met, ""
	for name, c := range map[string]struct {
		do    func(w *world, id int64) error
		place decide.Place
		waits int
	}{
		"dropped in Waiting": {func(w *world, id int64) error {
			_, err := w.app.EditWaiting(w.ctx, w.who, rand.Text(), id, &dropped, nil, false)
			return err
		}, decide.Inbox, 0},
		"said to be answered": {func(w *world, id int64) error {
			_, err := w.app.EditWaiting(w.ctx, w.who, rand.Text(), id, &met, nil, false)
			return err
		}, decide.Inbox, 0},
		"without a limit": {func(w *world, id int64) error {
			_, err := w.app.EditWaiting(w.ctx, w.who, rand.Text(), id, nil, &none, false)
			return err
		}, decide.Later, 1},
		"cancelled in Ahead": {func(w *world, id int64) error {
			_, err := w.app.EditAhead(w.ctx, w.who, app.EditingAhead{Command: rand.Text(), Action: "cancel", On: []app.EntryRef{{Kind: "limit", ID: id}}})
			return err
		}, decide.Archive, 0},
		"answered": {func(w *world, _ int64) error {
			row := w.row(decide.Later)
			w.send(&row, func(s *app.Sending) { s.Kind = "answer" })
			return nil
		}, decide.Archive, 0},
	} {
		t.Run(name, func(t *testing.T) {
			w := newWorld(t)
			w.receive(bramAsks)
			w.decide(decide.PutOff, w.row(decide.Inbox), until("3d if nobody has answered"))
			require.NoError(t, c.do(w, w.waits()[0].ID))
			w.row(c.place)
			assert.Len(t, w.waits(), c.waits)
			w.undo()
			w.row(decide.Later)
			require.Len(t, w.waits(), 1, "undone, it waits as before")
			w.pass(4 * 24 * time.Hour)
			w.row(decide.Inbox)
		})
	}
}

// Going back and forth: what was taken back is done again, until something else
// is done.
func TestRedo(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	redo := func() (app.Undone, error) { return w.app.Redo(w.ctx, w.who, rand.Text()) }
	_, err := redo()
	require.ErrorContains(t, err, "nothing to do again")
	w.mark("star", false, w.row(decide.Inbox).ID)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("when they answer"))
	w.undo()
	w.undo()
	assert.False(t, w.row(decide.Inbox).Star)
	assert.Empty(t, w.waits())
	out, err := redo()
	require.NoError(t, err)
	assert.Equal(t, "Done again: Starred “Crates”", out.Title)
	out, err = redo()
	require.NoError(t, err)
	assert.Equal(t, []int64{w.row(decide.Later).ID}, out.Conversations)
	assert.True(t, w.row(decide.Later).Star)
	assert.Len(t, w.waits(), 1)
	_, err = redo()
	require.ErrorContains(t, err, "nothing to do again")
	assert.Contains(t, w.undo().Title, "Undone: Put off", "and back once more")
	w.decide(decide.Done, w.row(decide.Inbox))
	_, err = redo()
	require.ErrorContains(t, err, "nothing to do again", "something else was done")

	w.receive(mail{id: "m1", from: "Tove <tove@else.example>", subject: "Ropes"})
	row := w.row(decide.Inbox)
	w.send(&row, func(s *app.Sending) { s.Kind = "answer" })
	w.undo()
	_, err = redo()
	require.ErrorContains(t, err, "can’t be done again by a key", "a letter leaves only when it is sent")
}

// The undo key says so before it goes on to something of another kind or day.
func TestUndoAsksBeforeItStrays(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	undo := func(sure bool) error {
		_, err := w.app.Undo(w.ctx, w.who, rand.Text(), 0, sure)
		return err
	}
	asked := func(err error, what string) {
		t.Helper()
		var p *app.Problem
		require.ErrorAs(t, err, &p)
		assert.Equal(t, "undo-further", p.Kind)
		assert.Contains(t, p.Reason, what)
	}
	_, err := w.app.EditSettings(w.ctx, w.who, rand.Text(), app.SettingsFields{WeekStart: ref(0)})
	require.NoError(t, err)
	w.mark("star", false, w.row(decide.Inbox).ID)
	w.decide(decide.Done, w.row(decide.Inbox))
	require.NoError(t, undo(false))
	require.NoError(t, undo(false), "two of one kind")
	asked(undo(false), "today 08:20")
	require.NoError(t, undo(true))

	w.decide(decide.Done, w.row(decide.Inbox))
	w.pass(24 * time.Hour)
	asked(undo(false), "Done with “Crates”")

	// A hold that is over is not taken back: that would do nothing.
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "in 1 hour"})
	require.NoError(t, err)
	assert.Contains(t, w.overview().Undo, "held")
	w.pass(2 * time.Hour)
	assert.Equal(t, "Done with “Crates”", w.overview().Undo)
}

// Two pages decide otherwise on one letter: the second is told, and nothing is
// done unseen.
func TestTheSecondOfTwoPagesIsTold(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.decide(decide.Done, row)
	d := app.Deciding{Command: rand.Text(), Kind: decide.ToBin, On: []store.Seen{{ID: row.ID, Last: row.Last, Version: &row.Version}}}
	_, err := w.app.Decide(w.ctx, w.who, d)
	var p *app.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "decided-since", p.Kind)
	assert.Equal(t, "“Crates” has gone elsewhere meanwhile: it is in the archive now.", p.Reason)
	assert.Equal(t, []int64{row.ID}, p.On)
	w.row(decide.Archive)
	d.Sure = true
	_, err = w.app.Decide(w.ctx, w.who, d)
	require.NoError(t, err)
	w.row(decide.Bin)
}

// A quiet conversation stays in the archive, unless a letter is to its owner
// alone.
func TestQuietThisConversation(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	out := w.mark("quiet", false, row.ID)
	assert.Equal(t, "Quieted “Crates”", out.Title)
	assert.True(t, w.row(decide.Archive).Quiet, "it goes to the archive")
	more := mail{id: "m1", from: "Tove <tove@else.example>", subject: "Re: Crates", answers: bramAsks.id, to: "ines@norrholm.example, others@else.example"}
	require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: more.bytes(start), At: w.clock.Now()}))
	assert.Empty(t, w.rows(decide.Inbox))
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	more.id = "m2"
	require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: more.bytes(start), At: w.clock.Now()}))
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	assert.Empty(t, w.rows(decide.Inbox), "also with a round")
	w.receive(mail{id: "m3", from: "Tove <tove@else.example>", subject: "Re: Crates", answers: bramAsks.id})
	assert.Len(t, w.rows(decide.Inbox), 1, "to me alone it comes back")
	w.undo() // the round
	w.undo()
}

// What a file's tasks are linked to waits for its letters, and says so.
func TestLinksOfTasksWaitForTheirLetters(t *testing.T) {
	w := newWorld(t)
	file := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VTODO\r\nUID:t1\r\nDTSTAMP:20261124T080000Z\r\nSUMMARY:Answer Bram\r\nATTACH:mid:" + bramAsks.id + "\r\nEND:VTODO\r\nEND:VCALENDAR\r\n"
	preview, err := w.app.PreviewTasks(w.ctx, w.who, file)
	require.NoError(t, err)
	assert.Equal(t, 1, preview.Waits)
	out, err := w.app.ImportTasks(w.ctx, w.who, rand.Text(), file)
	require.NoError(t, err)
	assert.Equal(t, []string{"1 link to letters that are not here: linked when they come."}, out.Left)
	w.receive(bramAsks)
	assert.Len(t, w.row(decide.Inbox).FollowUps, 1)
}

func TestAHundredPurgesAreOneLine(t *testing.T) {
	w := newWorld(t)
	for i := range 5 {
		w.receive(mail{id: fmt.Sprint("p", i), from: "Bram <bram@freight.example>", subject: fmt.Sprint("purge ", i)})
		w.decide(decide.ToBin, w.titled(decide.Inbox, fmt.Sprint("purge ", i)))
	}
	w.pass(31 * 24 * time.Hour)
	list, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	assert.Equal(t, "Purged from the bin: 5 conversations", list[0].Title)
	assert.NotContains(t, list[1].Title, "Purged")
	more, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{Before: list[0].Entry})
	require.NoError(t, err)
	assert.Equal(t, list[1:], more, "the next page goes on where it ended")
}
