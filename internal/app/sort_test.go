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
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

const (
	byMachine = "Auto-Submitted: auto-generated\r\n"
	byList    = "List-Id: Moss <moss.list.example>\r\n"
)

func (w *world) sort(kind sorting.Kind, scope sorting.Scope, rows ...show.Row) app.Decided {
	w.t.Helper()
	out, err := w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: kind, Scope: scope, On: seenAll(rows)})
	require.NoError(w.t, err)
	return out
}

func (w *world) shoal(kind sorting.Kind) show.Shoal {
	w.t.Helper()
	s, err := w.app.Shallows(w.ctx, w.who)
	require.NoError(w.t, err)
	for _, k := range s.Kinds {
		if k.Kind == kind {
			return k
		}
	}
	require.Fail(w.t, "no such kind", kind)
	return show.Shoal{}
}

// Letters are sorted alike whether they come while mail flows or by a round.
func TestLettersAreSortedAsTheyAreLetIn(t *testing.T) {
	for _, held := range []bool{false, true} {
		w := newWorld(t)
		w.receive(bramAsks)
		row := w.row(decide.Inbox)
		w.send(&row, func(*app.Sending) {})
		w.pass(time.Minute)
		_, err := w.app.AddThrough(w.ctx, w.who, rand.Text(), app.ThroughFields{Kind: "sender", Value: "eva@x.example", Key: true})
		require.NoError(t, err)
		if held {
			w.plan("daily 20:00")
		}
		mine := letterOf(0, "", "").id
		for i, m := range []mail{
			{from: "shop@x.example", subject: "Receipt", extra: byMachine, text: "Invoice 1187\r\nTotal 96.00 EUR, due 3 December"},
			{from: "climate@x.example", subject: "Notice", extra: byMachine},
			{from: "moss@x.example", subject: "Reading", extra: byList},
			{from: "Bram <bram@freight.example>", subject: "By a list, written to", extra: byList},
			{from: "eva@x.example", subject: "A key person's", extra: byList},
			{from: "anton@x.example", subject: "Person"},
		} {
			m.id = fmt.Sprintf("%d-%s", i, mine)
			w.receive(m)
		}
		if held {
			require.Equal(t, "A key person's", w.row(decide.Inbox).Title, "let through")
			_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
			require.NoError(t, err)
		}
		var inbox []string
		for _, r := range w.rows(decide.Inbox) {
			inbox = append(inbox, r.Title)
		}
		assert.ElementsMatch(t, []string{"By a list, written to", "A key person's", "Person"}, inbox, "held: %v", held)
		receipts := w.shoal(sorting.Receipts)
		require.Len(t, receipts.Lines, 1)
		assert.Equal(t, "1 to pay", receipts.Note)
		assert.Equal(t, "96.00 EUR", receipts.Lines[0].Bill.Amount)
		assert.Contains(t, receipts.Lines[0].Why, "machine")
		assert.Equal(t, "Notice", w.shoal(sorting.Notices).Lines[0].Says)
		assert.Equal(t, 1, w.shoal(sorting.Reading).Lines[0].Minutes)
		assert.Equal(t, 3, w.overview().Shallows)
		assert.Equal(t, 3, w.overview().Inbox, "what lies there counts for no zero")
		w.sound()
	}
}

func TestANoticeJoinsWhatAPersonWroteAndMovesNothing(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.Done, w.row(decide.Inbox))
	w.receive(mail{id: "n@x.example", from: "track@x.example", subject: "Re: Crates", answers: bramAsks.id, extra: byMachine})
	row := w.row(decide.Archive)
	assert.Equal(t, 2, row.Letters, "it is counted on the row")
	w.receive(mail{id: "m@x.example", from: "track@x.example", subject: "Parcel 1", extra: byMachine})
	w.decide(decide.Done, w.row(decide.Shallows))
	w.receive(mail{id: "m2@x.example", from: "track@x.example", subject: "Re: Parcel 1", answers: "m@x.example", extra: byMachine})
	assert.Equal(t, 2, w.row(decide.Shallows).Letters, "one of its like takes it back to the Shallows")
	w.receive(mail{id: "p@x.example", from: "anton@x.example", subject: "Re: Parcel 1", answers: "m2@x.example"})
	assert.Equal(t, 3, w.row(decide.Inbox).Letters, "and a person's letter from there to the inbox")
	w.sound()
}

// What is moved to the inbox takes along what else lies there of the same sender, and what comes
// later; all of it is taken back by one undo.
func TestAMoveIsACorrection(t *testing.T) {
	w := newWorld(t)
	for i := range 4 {
		w.receive(mail{id: fmt.Sprintf("n%d@x.example", i), from: "Moss <news@x.example>", subject: fmt.Sprintf("News %d", i), extra: byList})
	}
	w.receive(mail{id: "other@x.example", from: "Fern <fern@y.example>", subject: "Ferns", extra: byList})
	require.Len(t, w.rows(decide.Shallows), 5)
	news := w.shoal(sorting.Reading).Lines
	i := 0
	if news[0].Head != "Moss" {
		i = 1
	}
	require.Len(t, news[i].Rows, 4, "they are one source")
	out := w.sort(sorting.Person, sorting.ByAddress, news[i].Rows[0])
	assert.Contains(t, out.Title, "3 more conversations")
	assert.Len(t, w.rows(decide.Inbox), 4)
	w.receive(mail{id: "n9@x.example", from: "Moss <news@x.example>", subject: "News 9", extra: byList})
	assert.Len(t, w.rows(decide.Inbox), 5)
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "news@x.example", list[0].Of)
	w.sound()

	w.undo()
	assert.Len(t, w.rows(decide.Shallows), 5, "as it was, but for what came since")
	assert.Len(t, w.rows(decide.Inbox), 1)
	list, err = w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	assert.Empty(t, list)
	w.sound()
}

func TestOnlyThisOneSettlesNothing(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.receive(mail{id: "b2@freight.example", from: bramAsks.from, subject: "Lift"})
	for _, r := range w.rows(decide.Inbox) {
		if r.Title == "Lift" {
			w.sort(sorting.Reading, "", r)
		}
	}
	assert.Equal(t, "Lift", w.row(decide.Shallows).Title)
	assert.Equal(t, "Crates", w.row(decide.Inbox).Title, "to reading teaches nothing")
	w.receive(mail{id: "b3@freight.example", from: bramAsks.from, subject: "Re: Lift", answers: "b2@freight.example"})
	assert.Len(t, w.rows(decide.Inbox), 2, "the next letter of theirs takes it back")
	w.sound()
}

func TestTheLatestCorrectionOfAListCountsAndCanEnd(t *testing.T) {
	w := newWorld(t)
	from := func(i int) {
		w.receive(mail{id: fmt.Sprintf("l%d@x.example", i), from: fmt.Sprintf("a%d@x.example", i), subject: fmt.Sprint("On moss ", i), extra: byList})
	}
	from(0)
	w.sort(sorting.Person, sorting.ByList, w.row(decide.Shallows))
	from(1)
	require.Len(t, w.rows(decide.Inbox), 2)
	w.sort(sorting.Notices, sorting.ByList, w.rows(decide.Inbox)[0])
	assert.Empty(t, w.rows(decide.Inbox), "the whole list goes along")
	assert.Equal(t, 2, w.shoal(sorting.Notices).N)
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1, "the earlier one counts no longer")
	_, err = w.app.EndCorrection(w.ctx, w.who, rand.Text(), list[0].ID, false)
	require.NoError(t, err)
	from(2)
	assert.Equal(t, 1, w.shoal(sorting.Reading).N)
	_, err = w.app.EndCorrection(w.ctx, w.who, rand.Text(), list[0].ID, false)
	require.ErrorContains(t, err, "no longer there")
	w.sound()
}

func TestWhatIsSortedOutIsForEachToSettle(t *testing.T) {
	w := newWorld(t)
	_, err := w.app.SortOut(w.ctx, w.who, rand.Text(), []sorting.Kind{sorting.Receipts})
	require.NoError(t, err)
	w.receive(mail{id: "a@x.example", from: "moss@x.example", subject: "News", extra: byList})
	row := w.row(decide.Inbox)
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Equal(t, show.Sorted{Kind: sorting.Reading, Why: "it came by a list", List: true}, c.Sorted)
	w.undo()
	w.receive(mail{id: "b@x.example", from: "moss@x.example", subject: "More news", extra: byList})
	assert.Equal(t, "More news", w.row(decide.Shallows).Title)
}

func TestNothingIsSettledOfOneself(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "me@norrholm.example", from: "ines@norrholm.example", subject: "Note to self"})
	_, err := w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: sorting.Reading, Scope: sorting.ByAddress, On: seenAll(w.rows(decide.Inbox))})
	require.ErrorContains(t, err, "your own addresses")
	_, err = w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: "treasure", On: seenAll(w.rows(decide.Inbox))})
	require.ErrorContains(t, err, "no such kind")
	_, err = w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: sorting.Reading, Scope: sorting.ByList, On: seenAll(w.rows(decide.Inbox))})
	require.Error(t, err)
	w.sort(sorting.Reading, "", w.row(decide.Inbox))
	assert.Equal(t, "Note to self", w.row(decide.Shallows).Title, "it may be put there all the same")
	_, err = w.app.Sort(w.ctx, w.who, app.Sorting{Command: rand.Text(), Kind: sorting.Reading, On: []store.Seen{{ID: 99}}})
	require.Error(t, err)
	w.sound()
}

// Whoever moves what was decided in another page since is told of that, and may mean it all the same.
func TestTheSecondOfTwoPagesThatSortIsTold(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@x.example", from: "moss@x.example", subject: "News", extra: byList})
	row := w.row(decide.Shallows)
	in := app.Sorting{Command: rand.Text(), Kind: sorting.Notices, On: []store.Seen{{ID: row.ID, Last: row.Last, Version: &row.Version}}}
	w.decide(decide.Done, row)
	_, err := w.app.Sort(w.ctx, w.who, in)
	require.ErrorContains(t, err, "gone elsewhere meanwhile")
	in.Sure = true
	_, err = w.app.Sort(w.ctx, w.who, in)
	require.NoError(t, err)
	assert.Equal(t, row.ID, w.row(decide.Archive).ID, "what was decided stays there")
	w.sound()
}

// A bill that is sorted out comes up two working days before it is due, whether it came while
// mail flows or by a round; Ahead has it until then. What is done with it first ends that.
func TestABillComesUpBeforeItIsDue(t *testing.T) {
	for _, held := range []bool{false, true} {
		w := newWorld(t)
		if held {
			_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "in 2 hours"})
			require.NoError(t, err)
		}
		for _, id := range []string{"power", "water", "paid"} {
			text := "Invoice 22817\n\nTo pay: 184.00 EUR\nDue in 10 days"
			if id == "paid" {
				text += "\nPaid by card ending 0042. Thank you for your payment."
			}
			w.receive(mail{id: id, from: id + "@norr.example", subject: "Invoice of " + id, text: text, extra: byMachine})
		}
		w.pass(3 * time.Hour)
		require.Len(t, w.rows(decide.Shallows), 3)
		ahead, err := w.app.Ahead(w.ctx, w.who)
		require.NoError(t, err)
		require.Len(t, ahead.Entries, 2)
		assert.Contains(t, ahead.Entries[0].Note, "comes up from the Shallows, due ")
		w.decide(decide.Done, w.titled(decide.Shallows, "Invoice of water"))
		w.sound()
		w.pass(9 * 24 * time.Hour)
		row := w.row(decide.Inbox)
		assert.Equal(t, "Invoice of power", row.Title)
		assert.Contains(t, row.Back, "up from the Shallows: due ")
		w.sound()
	}
}
