package show_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
	mrand "math/rand/v2"
	"path/filepath"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// desk is an Ebbe of one person, filled with letters by its own use cases.
type desk struct {
	*testing.T
	*app.App
	clock *clockwork.FakeClock
	who   store.Who
	came  int
}

func begin(t *testing.T) *desk {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "show.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	clock := clockwork.NewFakeClockAt(time.Date(2026, 11, 24, 7, 20, 0, 0, time.UTC))
	who, err := s.AddPerson(t.Context(), store.Person{Name: "Ines", SignIn: "ines", Zone: "Europe/Oslo"},
		[]store.Account{{Address: "ines@norrholm.example"}, {Address: "walks@norrholm.example"}}, clock.Now())
	require.NoError(t, err)
	return &desk{T: t, App: app.New(s, clock, slog.New(slog.DiscardHandler)), clock: clock, who: who}
}

// receive lets so many letters come, a second apart but for some that come at once.
func (d *desk) receive(n int) {
	d.Helper()
	for range n {
		d.came++
		if d.came%7 != 0 {
			d.clock.Advance(time.Second)
		}
		to := []string{"ines", "walks"}[d.came%2] + "@norrholm.example"
		raw := fmt.Appendf(nil, "From: somebody%d@outside.example\r\nTo: %s\r\nSubject: Letter %d\r\nDate: %s\r\nMessage-ID: <l%d@outside.example>\r\n\r\nDo you agree with %d?\r\n",
			d.came%9, to, d.came, d.clock.Now().Format(time.RFC1123Z), d.came, d.came)
		require.NoError(d, d.Receive(d.Context(), app.Incoming{Inbox: d.who.Inbox, To: to, Source: "smtp", Raw: raw, At: d.clock.Now()}))
	}
}

func (d *desk) decide(kind decide.Kind, when string, rows ...show.Row) {
	d.Helper()
	in := app.Deciding{Command: crand(), Kind: kind, When: when}
	for _, r := range rows {
		in.On = append(in.On, store.Seen{ID: r.ID, Last: r.Last})
	}
	_, err := d.Decide(d.Context(), d.who, in)
	require.NoError(d, err)
}

func crand() string { return rand.Text() }

// pages reads a list to its end, and between two pages does something else.
func pages(t *testing.T, read func(cursor string) (show.RowPage, error), between func(page int)) (rows []show.Row) {
	t.Helper()
	for cursor, n := "", 0; ; n++ {
		page, err := read(cursor)
		require.NoError(t, err)
		assert.LessOrEqual(t, len(page.Rows), show.PageSize)
		rows = append(rows, page.Rows...)
		if cursor = page.Next; cursor == "" {
			return rows
		}
		require.NotEmpty(t, page.Rows, "a page that is followed by another has rows")
		between(n)
	}
}

func ids(rows []show.Row) []int64 {
	out := make([]int64, len(rows))
	for i, r := range rows {
		out[i] = r.ID
	}
	return out
}

func nothing(int) {}

// Pages put together are the whole list: each row once, in the order of the list,
// whichever way it runs and whatever account it is narrowed to.
func TestPagesMakeTheWholeList(t *testing.T) {
	d := begin(t)
	d.receive(250)
	list := func(place decide.Place, oldest bool, account int64) []show.Row {
		return pages(t, func(cursor string) (show.RowPage, error) {
			return d.List(t.Context(), d.who, place, oldest, account, cursor)
		}, nothing)
	}
	newest := list(decide.Inbox, false, 0)
	require.Len(t, newest, 250)
	seen := map[int64]bool{}
	for i, r := range newest {
		assert.False(t, seen[r.ID], "row %d twice", r.ID)
		seen[r.ID] = true
		if i > 0 {
			assert.False(t, r.At.After(newest[i-1].At), "the newest first")
		}
	}
	oldest := ids(list(decide.Inbox, true, 0))
	for i, r := range newest {
		assert.Equal(t, r.ID, oldest[len(oldest)-1-i], "the other way round")
	}
	accounts, err := d.Accounts(t.Context(), d.who)
	require.NoError(t, err)
	both := 0
	for _, a := range accounts {
		both += len(list(decide.Inbox, false, a.ID))
	}
	assert.Equal(t, 250, both)
	everything, err := d.Everything(t.Context(), d.who, decide.Inbox, 0)
	require.NoError(t, err)
	require.Len(t, everything, 250)
	for i, s := range everything {
		assert.Equal(t, newest[i].ID, s.ID, "what is selected at once is what the list shows")
	}

	d.decide(decide.Done, "", newest[:120]...)
	d.decide(decide.ToBin, "", newest[120:230]...)
	assert.Len(t, list(decide.Archive, false, 0), 120)
	assert.Len(t, list(decide.Bin, false, 0), 110)
	assert.Len(t, list(decide.Inbox, false, 0), 20)
}

// Letters that come and decisions that are made while a list is read neither hide nor
// double what was there throughout.
func TestPagesWhileTheListChanges(t *testing.T) {
	d := begin(t)
	d.receive(350)
	first, err := d.List(t.Context(), d.who, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	gone := map[int64]bool{}
	rows := pages(t, func(cursor string) (show.RowPage, error) {
		return d.List(t.Context(), d.who, decide.Inbox, false, 0, cursor)
	}, func(n int) {
		d.receive(5)
		leaving := first.Rows[n*10 : n*10+10]
		d.decide(decide.Done, "", leaving...)
		for _, r := range leaving {
			gone[r.ID] = true
		}
	})
	count := map[int64]int{}
	for _, r := range rows {
		count[r.ID]++
		assert.Equal(t, 1, count[r.ID], "%s twice", r.Title)
	}
	assert.Len(t, rows, 350, "all that was there when it began; what came later stands above")
}

// A cursor that is no cursor is refused in words.
func TestACursorOfNothing(t *testing.T) {
	d := begin(t)
	_, err := d.List(t.Context(), d.who, decide.Inbox, false, 0, "here")
	assert.ErrorContains(t, err, "no longer there")
	_, err = d.Sent(t.Context(), d.who, "{")
	assert.ErrorContains(t, err, "no longer there")
}

// What is found comes a page at a time too, each conversation once, the newest first.
func TestFoundPageByPage(t *testing.T) {
	d := begin(t)
	d.receive(230)
	found := map[int64]bool{}
	var last time.Time
	for cursor := ""; ; {
		page, err := d.Search(t.Context(), d.who, show.Asked{Q: "agree", Cursor: cursor})
		require.NoError(t, err)
		for _, r := range page.Rows {
			assert.False(t, found[r.ID])
			found[r.ID] = true
			assert.False(t, !last.IsZero() && r.At.After(last), "the newest first")
			last = r.At
		}
		if cursor = page.Next; cursor == "" {
			break
		}
	}
	assert.Len(t, found, 230)
	none, err := d.Search(t.Context(), d.who, show.Asked{Q: "zyzzyva"})
	require.NoError(t, err)
	assert.Empty(t, none.Rows)
}

// What the bar counts is what the lists hold, whatever was done.
func TestCountsAreThoseOfTheLists(t *testing.T) {
	d := begin(t)
	random := mrand.New(mrand.NewPCG(11, 24))
	ctx := context.Background()
	agree := func(after string) {
		o, err := d.Overview(ctx, d.who)
		require.NoError(t, err)
		inbox, err := d.Everything(ctx, d.who, decide.Inbox, 0)
		require.NoError(t, err)
		assert.Equal(t, len(inbox), o.Inbox, "the inbox, after %s", after)
		open, err := d.FollowUps(ctx, d.who, false)
		require.NoError(t, err)
		assert.Equal(t, len(open), o.FollowUp, "follow-ups, after %s", after)
		waits, err := d.WaitingList(ctx, d.who, false)
		require.NoError(t, err)
		assert.Equal(t, len(waits), o.Waiting, "waiting, after %s", after)
		ahead, err := d.Ahead(ctx, d.who)
		require.NoError(t, err)
		assert.Equal(t, len(ahead.Entries), o.Ahead, "ahead, after %s", after)
	}
	for range 60 {
		d.receive(2)
		page, err := d.List(ctx, d.who, decide.Inbox, false, 0, "")
		require.NoError(t, err)
		row := page.Rows[random.IntN(len(page.Rows))]
		what := random.IntN(6)
		switch what {
		case 0:
			d.decide(decide.Done, "", row)
		case 1:
			d.decide(decide.PutOff, []string{"tomorrow", "in 20 min", "someday", "if no answer by fri"}[random.IntN(4)], row)
		case 2:
			title := "See to " + row.Title
			due := []string{"fri", "tomorrow 10", ""}[random.IntN(3)]
			_, err = d.NewFollowUp(ctx, d.who, crand(), app.FollowUpFields{Title: &title, Due: &due}, store.Seen{ID: row.ID, Last: row.Last})
		case 3:
			_, err = d.Undo(ctx, d.who, crand(), 0, true)
		case 4:
			d.clock.Advance(25 * time.Minute)
			_, err = d.RunDue(ctx)
		case 5:
			_, err = d.Flag(ctx, d.who, crand(), []store.Seen{{ID: row.ID, Last: row.Last}}, "")
		}
		require.NoError(t, err)
		agree(fmt.Sprint("step ", what))
	}
}
