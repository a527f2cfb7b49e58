package app_test

import (
	"crypto/rand"
	"fmt"
	mrand "math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// mixed are letters as an old mailbox holds them: answers, some before what they
// answer, own ones, doubles, subjects that are used again, several people and accounts.
func mixed(n int) [][]byte {
	r := mrand.New(mrand.NewPCG(20, 26))
	var out [][]byte
	for i := range n {
		m := mail{
			id: fmt.Sprintf("l%d@x.example", i), from: fmt.Sprintf("Person %d <p%d@x.example>", i%9, i%9), subject: fmt.Sprint("Matter ", r.IntN(n/2)),
			text: fmt.Sprintf("About thing%d. Can you tell me about pane%d?", i, i%13), to: []string{"", "walks@norrholm.example"}[r.IntN(2)],
		}
		switch r.IntN(5) {
		case 0:
			m.answers, m.subject = fmt.Sprintf("l%d@x.example", r.IntN(n)), "Re: "+m.subject
		case 1:
			m.from, m.to = "Ines <ines@norrholm.example>", fmt.Sprintf("p%d@x.example", i%9)
		case 2:
			m.subject = "Re: " + m.subject // joins by its subject, where it may
		}
		raw := m.bytes(start.Add(-time.Duration(r.IntN(60*24*60)) * time.Minute))
		if out = append(out, raw); r.IntN(12) == 0 {
			out = append(out, raw)
		}
	}
	return out
}

// read is all that a person sees of a mailbox, in words that don't depend on ids.
func (w *world) read() (out []string) {
	w.t.Helper()
	for _, place := range []decide.Place{decide.Inbox, decide.Archive} {
		for cursor := ""; ; {
			page, err := w.app.List(w.ctx, w.who, place, false, 0, cursor)
			require.NoError(w.t, err)
			for _, r := range page.Rows {
				out = append(out, fmt.Sprint(place, ": ", r.Title, " | ", r.From, " | ", r.Ask, r.Asks, " | ", r.Letters, r.Attachments, r.Unread, r.Accounts, " | ", r.At.UTC()))
			}
			if cursor = page.Next; cursor == "" {
				break
			}
		}
	}
	for i := range 13 {
		found, err := w.app.Search(w.ctx, w.who, show.Asked{Q: fmt.Sprint("pane", i)})
		require.NoError(w.t, err)
		var titles []string
		for _, r := range found.Rows {
			titles = append(titles, fmt.Sprint(r.Title, r.At.UTC()))
		}
		slices.Sort(titles)
		out = append(out, fmt.Sprint("pane", i, ": ", titles))
	}
	for i := range 9 {
		known, err := w.app.Knows(w.ctx, w.who, fmt.Sprintf("p%d@", i))
		require.NoError(w.t, err)
		out = append(out, fmt.Sprint("knows: ", known))
	}
	slices.Sort(out)
	return out
}

// However letters are cut into imports, the same comes of them: what a transaction
// writes at its end is what each letter would have written by itself.
func TestTheSameComesOfManyAtOnceAsOneByOne(t *testing.T) {
	letters := mixed(140)
	together, apart := newWorld(t), newWorld(t)
	inbox := func(in *app.Importing) { in.InboxDays = 30 }
	v := together.importFile(mboxOf(t, letters...), inbox)
	assert.Equal(t, len(letters), v.Read)
	assert.Positive(t, v.Known, "doubles are known")
	news := 0
	for _, raw := range letters {
		news += apart.importFile(mboxOf(t, raw), inbox).New
	}
	assert.Equal(t, v.New, news)
	assert.Equal(t, together.read(), apart.read())
	for _, w := range []*world{together, apart} {
		count := 0
		for _, line := range w.read() {
			if strings.HasPrefix(line, string(decide.Inbox)+":") {
				count++
			}
		}
		assert.Equal(t, count, w.overview().Inbox)
	}
}

// What is decided on at once, and back again, leaves each letter as it was, however
// differently they stood.
func TestManyThatStoodDifferentlyAndBackAgain(t *testing.T) {
	w := newWorld(t)
	const n = 40
	for i := range n {
		w.receive(mail{id: fmt.Sprintf("%d@x.example", i), from: "eva@x.example", subject: fmt.Sprint("Letter ", i)})
	}
	for i, r := range w.rows(decide.Inbox) {
		for range i % 4 { // some come back for the first time, some for the third
			row, err := w.app.Open(w.ctx, w.who, r.ID)
			require.NoError(t, err)
			_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: fmt.Sprintf("in %d min", 1+i%7), On: []store.Seen{{ID: r.ID, Last: row.Last}}, Sure: true})
			require.NoError(t, err)
			w.pass(8 * time.Minute)
		}
	}
	stand := func() map[int64]string {
		out := map[int64]string{}
		for _, r := range w.rows(decide.Inbox) {
			out[r.ID] = fmt.Sprint(r.Back, r.PutOffs, r.Often, r.Group, r.Unread)
		}
		return out
	}
	before := stand()
	order := titlesInOrder(w.rows(decide.Inbox))
	require.Len(t, before, n)
	for _, d := range []app.Deciding{{Kind: decide.Done}, {Kind: decide.ToBin}, {Kind: decide.PutOff, When: "fri", Sure: true}, {Kind: decide.File, Labels: []string{"walks"}}} {
		d.Command, d.On = rand.Text(), seenAll(w.rows(decide.Inbox))
		_, err := w.app.Decide(w.ctx, w.who, d)
		require.NoError(t, err, d.Kind)
		assert.Empty(t, w.rows(decide.Inbox))
		w.undo()
		assert.Equal(t, before, stand(), "after %s", d.Kind)
		assert.Equal(t, order, titlesInOrder(w.rows(decide.Inbox)), "after %s", d.Kind)
		w.sound()
	}
}

func titlesInOrder(rows []show.Row) (out []string) {
	for _, r := range rows {
		out = append(out, r.Title)
	}
	return out
}

// What is waited for is told by the conversation that it leads to, by the names of
// those who are to answer, and by who answered in their place.
func TestWhatIsWaitedForIsTold(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "b@freight.example", from: "Bram Oosterhuis <bram@freight.example>", subject: "Before"})
	sent := w.send(nil, func(s *app.Sending) {
		s.To, s.Subject, s.Wait, s.WaitAll = []string{"bram@freight.example", "eva@x.example"}, "Crates", "2d", true
	})
	require.NotZero(t, sent.Outgoing)
	w.pass(time.Minute)
	list, err := w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Crates", list[0].Title)
	assert.Equal(t, []string{"Bram Oosterhuis", "eva@x.example"}, list[0].Persons, "by name, where there is one")
	assert.True(t, list[0].All)
	ahead, err := w.app.Ahead(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, ahead.Entries, 1)
	assert.Equal(t, "limit", ahead.Entries[0].Kind)
	assert.Equal(t, "Crates", ahead.Entries[0].Title)
	assert.Equal(t, "if Bram Oosterhuis has not answered", ahead.Entries[0].Note)
	open, err := w.app.Open(w.ctx, w.who, list[0].Conversation)
	require.NoError(t, err)
	require.Len(t, open.WaitingList, 1)
	assert.Equal(t, list[0].Persons, open.WaitingList[0].Persons)

	dropped := waiting.Dropped
	_, err = w.app.EditWaiting(w.ctx, w.who, rand.Text(), list[0].ID, &dropped, nil, true)
	require.NoError(t, err)
	settled, err := w.app.WaitingList(w.ctx, w.who, true)
	require.NoError(t, err)
	require.Len(t, settled, 1)
	assert.Equal(t, "dropped", settled[0].State)
	assert.Equal(t, "Crates", settled[0].Title)
}

// A round that brings an answer to each of many conversations, from as many people,
// leaves them as answers do that come one by one; undone, each stands as it stood.
func TestARoundOfManyAnswers(t *testing.T) {
	const n = 12
	begun := func() *world {
		w := newWorld(t)
		for i := range n {
			w.receive(mail{id: fmt.Sprintf("q%d@x.example", i), from: fmt.Sprintf("Person %d <p%d@x.example>", i, i), subject: fmt.Sprint("Bed ", i), text: "Is it free?"})
		}
		rows := w.rows(decide.Inbox)
		slices.SortFunc(rows, func(a, b show.Row) int { return strings.Compare(a.Title, b.Title) })
		for i, r := range rows {
			switch i % 3 {
			case 0:
				w.decide(decide.Done, r)
			case 1:
				w.decide(decide.PutOff, r, until("in 3 days"))
			default: // it is still to be decided
			}
		}
		w.clock.Advance(time.Hour)
		return w
	}
	answer := func(w *world) {
		for i := range n {
			m := mail{id: fmt.Sprintf("a%d@x.example", i), from: fmt.Sprintf("Other %d <o%d@x.example>", i%7, i%7), subject: fmt.Sprint("Re: Bed ", i), text: "Can you say by friday?", answers: fmt.Sprintf("q%d@x.example", i)}
			require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: m.bytes(start.Add(time.Hour)), At: w.clock.Now()}))
		}
	}
	stand := func(w *world) (out []string) {
		for _, r := range w.rows(decide.Inbox) {
			out = append(out, fmt.Sprint(r.Title, "|", r.From.Email, "|", r.Letters, r.PutOffs, r.Unread, r.Ask, "|", r.Back))
		}
		slices.Sort(out)
		return out
	}
	oneByOne, atOnce := begun(), begun()
	answer(oneByOne)
	before := stand(atOnce)
	_, err := atOnce.app.Hold(atOnce.ctx, atOnce.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	answer(atOnce)
	require.Equal(t, before, stand(atOnce), "they wait outside")
	step, err := atOnce.app.LetIn(atOnce.ctx, atOnce.who, rand.Text(), 0, false)
	require.NoError(t, err)
	after := stand(atOnce)
	require.Len(t, after, n)
	assert.Equal(t, stand(oneByOne), after)
	_, err = atOnce.app.Undo(atOnce.ctx, atOnce.who, rand.Text(), step.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, before, stand(atOnce))
	atOnce.sound()
	_, err = atOnce.app.LetIn(atOnce.ctx, atOnce.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Equal(t, after, stand(atOnce), "and once more")
}
