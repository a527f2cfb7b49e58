package app_test

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
)

func (w *world) refuse(kind sorting.Kind, scope sorting.Scope, rows ...show.Row) (app.Decided, error) {
	return w.app.Refuse(w.ctx, w.who, app.Refusing{Command: rand.Text(), Kind: kind, Scope: scope, On: seenAll(rows)})
}

// lies tells in which list something of a title lies; "" where it is nowhere to be seen.
func (w *world) lies(title string) decide.Place {
	w.t.Helper()
	for _, p := range []decide.Place{decide.Inbox, decide.Shallows, decide.Archive, decide.Bin, decide.Junk} {
		if w.has(p, title) {
			return p
		}
	}
	return ""
}

const byMoss = "List-Id: Sedge <sedge.list.example>\r\n"

// What comes is judged in one order, whether mail flows or is held: what I wait for and
// what failed, then who is turned away, what is always and never junk, then who is let through,
// then the note; and of what is let in, its kind and what it brings back.
func TestTheOrderOnArrival(t *testing.T) {
	for _, held := range []bool{false, true} {
		w := newWorld(t)
		w.receive(bramAsks)
		row := w.row(decide.Inbox)
		w.send(&row, func(s *app.Sending) { s.Wait = "fri" }) // Bram is waited for, and written to
		w.pass(time.Minute)
		mine := w.post.sent[0]
		first := func(from, extra string) show.Row {
			w.receive(mail{id: "first-" + from, from: from, subject: "First of " + from, extra: extra})
			return w.titled(w.lies("First of "+from), "First of "+from)
		}
		for _, c := range []struct {
			kind  sorting.Kind
			scope sorting.Scope
			from  string
			extra string
		}{
			{sorting.TurnedAway, sorting.ByAddress, "away@a.example", ""},
			{sorting.TurnedAway, sorting.ByList, "moss@l.example", byMoss},
			{sorting.TurnedAway, sorting.ByDomain, "x@gone.example", byMachine},
			{sorting.Junk, sorting.ByDomain, "x@junk.example", ""},
			{sorting.TurnedAway, sorting.ByAddress, "through@a.example", ""},
			{sorting.Junk, sorting.ByAddress, "let@b.example", ""},
		} {
			_, err := w.refuse(c.kind, c.scope, first(c.from, c.extra))
			require.NoError(t, err, c.from)
		}
		junk := first("fine@junk.example", "")
		require.Equal(t, decide.Junk, junk.Place)
		_, err := w.refuse(sorting.Wanted, sorting.ByAddress, junk)
		require.NoError(t, err)
		for _, from := range []string{"through@a.example", "let@b.example", "eva@x.example"} {
			w.through(app.ThroughFields{Kind: delivery.BySender, Value: from})
		}
		if held {
			w.plan(working)
			w.note(delivery.Quiet)
		}
		sent := len(w.post.sent)
		for _, m := range []mail{
			{from: "away@a.example", subject: "Turned away"},
			{from: "somebody@l.example", subject: "By that list", extra: byMoss},
			{from: "other@gone.example", subject: "Of that domain"},
			{from: "x@junk.example", subject: "Junk"},
			{from: "fine@junk.example", subject: "Never junk"},
			{from: "through@a.example", subject: "Turned away and let through"},
			{from: "let@b.example", subject: "Junk and let through"},
			{from: "eva@x.example", subject: "Let through", extra: byList},
			{from: "shop@x.example", subject: "A notice", extra: byMachine},
			{from: "Bram <bram@freight.example>", subject: "Re: Crates", answers: letter.Parse(mine).MessageID},
			{from: "per@x.example", subject: "Somebody new"},
		} {
			m.id = m.subject + "@x.example"
			w.receive(m)
		}
		want := map[string]decide.Place{
			"Turned away": decide.Bin, "By that list": decide.Bin, "Of that domain": decide.Bin, "Junk": decide.Junk, "Turned away and let through": decide.Bin, "Junk and let through": decide.Junk,
			"Let through": decide.Inbox, "Never junk": decide.Inbox, "A notice": decide.Shallows, "Somebody new": decide.Inbox,
		}
		if !held {
			want["Let through"] = decide.Shallows // where mail flows there is nothing to be let through
		} else {
			w.pass(time.Second)
			var to [][]string = w.post.to[sent:]
			assert.Len(t, to, 3, "a note to Bram, to whom is never junk and to somebody new")
			for _, waits := range []string{"Never junk", "A notice", "Somebody new"} {
				assert.Empty(t, w.lies(waits), waits)
			}
			assert.Equal(t, 4, w.overview().Held, "what is not wanted waits for nothing")
			for title, place := range want {
				if at := w.lies(title); at != "" {
					assert.Equal(t, place, at, title)
				}
			}
			_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
			require.NoError(t, err)
		}
		for title, place := range want {
			assert.Equal(t, place, w.lies(title), "%s, held: %v", title, held)
		}
		assert.True(t, w.has(decide.Inbox, "Crates"), "what was waited for is there")
		list, err := w.app.Corrections(w.ctx, w.who)
		require.NoError(t, err)
		took := map[string]int{}
		for _, c := range list {
			took[c.Of] = c.Took
		}
		assert.Equal(t, map[string]int{"away@a.example": 1, "list sedge.list.example": 1, "@gone.example": 1, "@junk.example": 2, "through@a.example": 1, "let@b.example": 1, "fine@junk.example": 0}, took)
		w.sound()
	}
}

// Turning away puts away what is undecided of a sender, as one step that is undone as one; what was
// put away since is fetched when it ends.
func TestTurningAway(t *testing.T) {
	w := newWorld(t)
	for _, n := range []string{"1", "2", "3"} {
		w.receive(mail{id: n + "@a.example", from: "news@a.example", subject: "Offer " + n})
	}
	w.receive(mail{id: "p@a.example", from: "per@a.example", subject: "A person’s"})
	w.decide(decide.Done, w.titled(decide.Inbox, "Offer 1"))
	offer := w.titled(decide.Inbox, "Offer 2")
	_, err := w.refuse(sorting.TurnedAway, sorting.ByDomain, offer)
	require.ErrorContains(t, err, "per@a.example has written to you from that domain")
	out, err := w.refuse(sorting.TurnedAway, sorting.ByAddress, offer)
	require.NoError(t, err)
	assert.Equal(t, "Turned away: news@a.example; 2 conversations to the bin", out.Title)
	assert.Equal(t, decide.Archive, w.lies("Offer 1"), "what was decided stays")
	assert.Equal(t, "A person’s", w.row(decide.Inbox).Title)
	w.undo()
	assert.Len(t, w.rows(decide.Inbox), 3)
	w.receive(mail{id: "4@a.example", from: "news@a.example", subject: "Offer 4"})
	assert.Equal(t, decide.Inbox, w.lies("Offer 4"), "it was undone")

	_, err = w.refuse(sorting.TurnedAway, sorting.ByAddress, w.titled(decide.Inbox, "Offer 4"))
	require.NoError(t, err)
	w.decide(decide.ToBin, w.titled(decide.Inbox, "A person’s"))
	w.receive(mail{id: "5@a.example", from: "news@a.example", subject: "Offer 5", extra: byList})
	opened := w.open(w.titled(decide.Bin, "Offer 5").ID)
	assert.Equal(t, sorting.TurnedAway, opened.Sorted.Kind)
	assert.Equal(t, "you turned away this sender", opened.Sorted.Why)
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, []int{1, 4}, []int{list[0].Took, list[0].Here})
	ended, err := w.app.EndCorrection(w.ctx, w.who, rand.Text(), list[0].ID, true)
	require.NoError(t, err)
	assert.Equal(t, "No longer settled: news@a.example; 4 conversations back", ended.Title)
	assert.Equal(t, decide.Shallows, w.lies("Offer 5"), "what comes by a list")
	assert.Len(t, w.rows(decide.Inbox), 3)
	assert.Equal(t, decide.Bin, w.lies("A person’s"), "what I binned stays")
	w.undo()
	assert.Equal(t, decide.Bin, w.lies("Offer 5"))
}

// Key persons, whoever one has written to and one's own addresses are never turned away.
func TestWhoIsNeverTurnedAway(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, func(*app.Sending) {})
	w.pass(time.Minute)
	bram := w.row(decide.Archive)
	_, err := w.refuse(sorting.TurnedAway, sorting.ByAddress, bram)
	require.ErrorContains(t, err, "You have written to bram@freight.example")
	w.receive(mail{id: "e@x.example", from: "eva@x.example", subject: "Hello"})
	w.through(app.ThroughFields{Kind: delivery.BySender, Value: "eva@x.example", Key: true})
	_, err = w.refuse(sorting.Junk, sorting.ByAddress, w.titled(decide.Inbox, "Hello"))
	require.ErrorContains(t, err, "key person")
	w.receive(mail{id: "m@x.example", from: "ines@norrholm.example", subject: "Note to self"})
	_, err = w.refuse(sorting.Junk, sorting.ByAddress, w.titled(decide.Inbox, "Note to self"))
	require.ErrorContains(t, err, "from yourself")
	_, err = w.refuse(sorting.TurnedAway, sorting.ByList, w.titled(decide.Inbox, "Hello"))
	require.ErrorContains(t, err, "names no list")
}

// In a conversation that holds others' letters one that is turned away is folded: it moves
// nothing, is no news, and is not waited for.
func TestOneThatIsTurnedAwayAmongOthers(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "n@a.example", from: "news@a.example", subject: "Offer"})
	_, err := w.refuse(sorting.TurnedAway, sorting.ByAddress, w.row(decide.Inbox))
	require.NoError(t, err)
	w.receive(bramAsks)
	w.decide(decide.Done, w.row(decide.Inbox))
	w.receive(mail{id: "r@a.example", from: "news@a.example", subject: "Re: Crates", answers: bramAsks.id})
	row := w.row(decide.Archive)
	assert.Equal(t, 2, row.Letters)
	assert.False(t, row.Unread, "it is no news")
	assert.Equal(t, "bram@freight.example", row.From.Email)
	opened := w.open(row.ID)
	assert.Empty(t, opened.LetterList[0].Folded)
	assert.Equal(t, "you turned away this sender", opened.LetterList[1].Folded)
	assert.Equal(t, sorting.Person, opened.Sorted.Kind)
	w.receive(mail{id: "b2@freight.example", from: "bram@freight.example", subject: "Re: Crates", answers: "r@a.example"})
	assert.Equal(t, 3, w.row(decide.Inbox).Letters)
	w.receive(mail{id: "p@x.example", from: "per@x.example", subject: "Re: Offer", answers: "n@a.example"})
	assert.Equal(t, decide.Inbox, w.lies("Offer"), "a person's letter brings it back from the bin")
}

// What is always junk comes back when it is said never to be, and counts how many came.
func TestAlwaysAndNeverJunk(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "1@j.example", from: "win@j.example", subject: "You won 1"})
	_, err := w.refuse(sorting.Junk, sorting.ByDomain, w.row(decide.Inbox))
	require.NoError(t, err)
	w.receive(mail{id: "2@j.example", from: "other@j.example", subject: "You won 2"})
	assert.Equal(t, decide.Junk, w.lies("You won 2"))
	out, err := w.refuse(sorting.Wanted, sorting.ByAddress, w.titled(decide.Junk, "You won 2"))
	require.NoError(t, err)
	assert.Equal(t, "Never junk: other@j.example; 1 conversation back", out.Title)
	assert.Equal(t, "You won 2", w.row(decide.Inbox).Title)
	w.receive(mail{id: "3@j.example", from: "other@j.example", subject: "You won 3"})
	assert.Equal(t, decide.Inbox, w.lies("You won 3"))
	w.sort(sorting.Person, sorting.ByDomain, w.titled(decide.Junk, "You won 1"))
	w.receive(mail{id: "4@j.example", from: "win@j.example", subject: "You won 4", extra: byMachine})
	assert.Equal(t, decide.Inbox, w.lies("You won 4"), "what goes to the inbox is wanted")
}

// Who was sorted out for the first time this week is told, until something is settled of them; and a
// clearing session goes on where one stopped.
func TestWhoIsNewAmongTheSorted(t *testing.T) {
	w := newWorld(t)
	news := func(id, from, list string) {
		w.receive(mail{id: id + "@x.example", from: from, subject: "Issue " + id, extra: "List-Id: <" + list + ">\r\n"})
	}
	news("1", "Old <old@l.example>", "old.l.example")
	w.pass(7 * 24 * time.Hour) // the next Tuesday
	news("2", "Old <old@l.example>", "old.l.example")
	news("3", "New <New@L.example>", "new.l.example")
	news("4", "New <New@L.example>", "new.l.example")
	w.receive(mail{id: "b@x.example", from: "Bulk <bulk@x.example>", subject: "Bulk", extra: "Precedence: bulk\r\n"})
	names := func() (out []string) {
		list, err := w.app.FirstSorted(w.ctx, w.who)
		require.NoError(t, err)
		for _, s := range list {
			out = append(out, s.Name)
		}
		return out
	}
	assert.Equal(t, []string{"Bulk", "New"}, names())
	clear := func() (out []string) {
		c, err := w.app.Clearing(w.ctx, w.who)
		require.NoError(t, err)
		for _, s := range c.Senders {
			out = append(out, s.Of)
		}
		return out
	}
	assert.Equal(t, []string{"new.l.example", "old.l.example", "bulk@x.example"}, clear(), "the busiest first")
	w.sort(sorting.Reading, sorting.BySource, w.titled(decide.Shallows, "Issue 4"))
	assert.Equal(t, []string{"Bulk"}, names())
	assert.Equal(t, []string{"old.l.example", "bulk@x.example"}, clear())
	_, err := w.refuse(sorting.TurnedAway, sorting.BySource, w.titled(decide.Shallows, "Issue 1"), w.titled(decide.Shallows, "Bulk"))
	require.NoError(t, err)
	assert.Empty(t, names())
	assert.Empty(t, clear())
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	var of []string
	for _, c := range list {
		of = append(of, c.Of)
	}
	assert.ElementsMatch(t, []string{"list new.l.example", "list old.l.example", "bulk@x.example"}, of)
	w.undo()
	assert.Equal(t, []string{"Bulk"}, names())
}
