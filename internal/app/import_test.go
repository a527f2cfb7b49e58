package app_test

import (
	"crypto/rand"
	"errors"
	"iter"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
)

func listOf(raws ...[]byte) iter.Seq2[[]byte, error] {
	return func(yield func([]byte, error) bool) {
		for _, r := range raws {
			var err error
			if r == nil {
				err = errors.New("a letter is larger than 150 MB")
			}
			if !yield(r, err) {
				return
			}
		}
	}
}

func TestImport(t *testing.T) {
	w := newWorld(t)
	a := mail{id: "a@x.example", from: "eva@x.example", subject: "Old", text: "purple"}.bytes(start.AddDate(0, -2, 0))
	b := mail{id: "b@x.example", from: "eva@x.example", subject: "Fresh"}.bytes(start.AddDate(0, 0, -1))
	mine := mail{id: "m@n.example", from: "ines@norrholm.example", to: "eva@x.example", subject: "Mine"}.bytes(start.AddDate(0, 0, -1))
	damaged := []byte("this is no letter\x00at all")
	in := app.Importing{Owner: w.owner, Source: "old.mbox", InboxSince: start.AddDate(0, 0, -7)}
	account, err := w.app.Import(w.ctx, in, listOf(a, b, nil, mine, damaged, a))
	require.NoError(t, err)
	assert.Equal(t, []int{6, 4, 1, 2}, []int{account.Read, account.New, account.Known, len(account.Damaged)})
	titles := func(rows []app.Row) (out []string) {
		for _, r := range rows {
			out = append(out, r.Title)
		}
		slices.Sort(out)
		return out
	}
	assert.Equal(t, []string{"(no subject)", "Fresh"}, titles(w.rows(decide.Inbox)))
	assert.Equal(t, []string{"Mine", "Old"}, titles(w.rows(decide.Archive)))
	found, err := w.app.Search(w.ctx, w.owner, "purple", "")
	require.NoError(t, err)
	require.Len(t, found.Rows, 1)

	raw, err := w.app.Original(w.ctx, w.owner, found.Rows[0].Letter)
	require.NoError(t, err)
	assert.Equal(t, a, raw, "saved again byte for byte")

	again, err := w.app.Import(w.ctx, in, listOf(a, b, mine, damaged))
	require.NoError(t, err)
	assert.Equal(t, 0, again.New, "the same again adds nothing")
	assert.Equal(t, 4, again.Known)

	journal, err := w.app.Journal(w.ctx, w.owner, 0)
	require.NoError(t, err)
	first := slices.IndexFunc(journal, func(e app.JournalEntry) bool { return e.Title == "Import of old.mbox: 4 new letters" })
	require.GreaterOrEqual(t, first, 0)
	fresh := slices.IndexFunc(w.rows(decide.Inbox), func(r app.Row) bool { return r.Title == "Fresh" })
	w.decide(decide.Done, w.rows(decide.Inbox)[fresh])
	assert.True(t, journal[first].Undo)
	_, err = w.app.Undo(w.ctx, w.owner, rand.Text(), journal[first].Entry)
	require.NoError(t, err)
	assert.Equal(t, []string{"Fresh"}, titles(w.rows(decide.Archive)), "what was used since stays")
	assert.Len(t, w.rows(decide.Bin), 3)
	w.undo()
	assert.Len(t, w.rows(decide.Bin), 3, "the latest step of my own was before: the one letter done")
	assert.Len(t, w.rows(decide.Inbox), 1)
}

func TestImportBringsNothingBack(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri"))
	_, err := w.app.Import(w.ctx, app.Importing{Owner: w.owner, Source: "x"},
		listOf(mail{id: "r@freight.example", from: bramAsks.from, subject: "Re: Crates", answers: bramAsks.id}.bytes(start)))
	require.NoError(t, err)
	assert.Empty(t, w.rows(decide.Inbox))
	ahead, err := w.app.Ahead(w.ctx, w.owner)
	require.NoError(t, err)
	require.Len(t, ahead, 1)
	assert.Equal(t, 2, ahead[0].Letters)
}

func TestNewsReachesOpenPages(t *testing.T) {
	w := newWorld(t)
	news, stop := w.app.Listen(w.owner)
	defer stop()
	w.receive(bramAsks)
	n := <-news
	assert.Contains(t, n.Kinds, "conversation")
	row := w.row(decide.Inbox)
	w.decide(decide.Done, row)
	n = <-news
	assert.Equal(t, []int64{row.ID}, n.Conversations)
	for range 100 { // a page that does not keep up
		w.decide(decide.ToInbox, w.row(decide.Archive))
		w.decide(decide.Done, w.row(decide.Inbox))
	}
	everything := false
	for len(news) > 0 {
		n := <-news
		everything = everything || slices.Contains(n.Kinds, "everything")
	}
	assert.True(t, everything)
}

func TestTheSchedulerWakesForWhatIsDue(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("in 1 hour"))
	news, stop := w.app.Listen(w.owner)
	defer stop()
	done := make(chan struct{})
	ctx := t.Context()
	go func() {
		defer close(done)
		w.app.Run(ctx)
	}()
	for range 120 {
		require.NoError(t, w.clock.BlockUntilContext(ctx, 1))
		w.clock.Advance(30 * time.Second)
	}
	n := <-news
	assert.Contains(t, n.Kinds, "conversation")
	assert.Equal(t, "Crates", w.row(decide.Inbox).Title)
}
