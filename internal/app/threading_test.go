package app_test

import (
	"crypto/rand"
	"errors"
	"fmt"
	mathrand "math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/thread"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// threaded names the letters of each conversation by their text.
func (w *world) threaded(t require.TestingT) []string {
	var out []string
	for _, place := range []decide.Place{decide.Inbox, decide.Archive, decide.Later} {
		page, err := w.app.List(w.ctx, w.who, place, false, 0, "")
		require.NoError(t, err)
		for _, r := range page.Rows {
			c, err := w.app.Open(w.ctx, w.who, r.ID)
			require.NoError(t, err)
			var names []string
			for _, l := range c.LetterList {
				names = append(names, l.Snippet)
			}
			slices.Sort(names)
			out = append(out, strings.Join(names, " "))
		}
	}
	slices.Sort(out)
	return out
}

// Any order in which the same letters come gives the same conversations, and so
// does a round that lets some of them in together, undone and done again.
func TestConversationsDoNotDependOnTheOrderOfArrival(t *testing.T) {
	own := []string{"ines@norrholm.example"}
	w := newWorld(t)
	require.NoError(t, w.app.Store.Relax(w.ctx))
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.IntRange(2, 8).Draw(rt, "letters")
		var mails []mail
		var days []time.Time
		var facts []thread.Facts
		var texts []string
		for i := range n {
			m := mail{
				id: fmt.Sprintf("m%d@x.example", i), from: rapid.SampledFrom([]string{"p@x.example", "q@x.example"}).Draw(rt, "from"), text: fmt.Sprintf("Letter%c.", 'A'+i),
				subject: rapid.SampledFrom([]string{"Crates", "Re: Crates", "Re: Crates", "Boxes"}).Draw(rt, "subject"),
			}
			if rapid.Bool().Draw(rt, "answers") {
				m.answers = fmt.Sprintf("m%d@x.example", rapid.IntRange(0, n+1).Draw(rt, "to")) // also what never comes
			}
			at := start.AddDate(0, 0, -rapid.IntRange(1, 60).Draw(rt, "day"))
			l := letter.Parse(m.bytes(at))
			mails, days = append(mails, m), append(days, at)
			facts, texts = append(facts, thread.FactsOf(l, own, at)), append(texts, m.text)
		}
		var want []string
		for _, g := range thread.Group(facts) {
			var names []string
			for _, i := range g {
				names = append(names, texts[i])
			}
			slices.Sort(names)
			want = append(want, strings.Join(names, " "))
		}
		slices.Sort(want)
		for order := range uint64(3) {
			var err error // each order happens to a person of its own
			address := strings.ToLower(rand.Text()) + "@norrholm.example"
			w.who, err = w.app.Store.AddPerson(w.ctx, store.Person{Name: "Ines", SignIn: rand.Text(), Zone: "Europe/Oslo"}, []store.Account{{Address: address, Name: "Ines"}}, start)
			require.NoError(rt, err)
			held := rapid.IntRange(0, n).Draw(rt, "held from")
			for k, i := range mathrand.New(mathrand.NewPCG(rapid.Uint64().Draw(rt, "seed"), order)).Perm(n) {
				if k == held {
					_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
					require.NoError(rt, err)
					w.clock.Advance(time.Minute)
				}
				require.NoError(rt, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: address, Source: "smtp", Raw: mails[i].sentTo(address).bytes(days[i]), At: w.clock.Now()}))
			}
			before := w.threaded(rt)
			w.clock.Advance(time.Minute)
			for range 2 {
				round, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
				require.NoError(rt, err)
				if got := w.threaded(rt); !slices.Equal(got, want) {
					rt.Fatalf("got %q, want %q", got, want)
				}
				if held == n {
					break
				}
				undone, err := w.app.Undo(w.ctx, w.who, rand.Text(), round.Entry, true)
				require.NoError(rt, err)
				if len(undone.Left) > 0 {
					break // some did more than arrive, and stay
				}
				if got := w.threaded(rt); !slices.Equal(got, before) {
					rt.Fatalf("undone: got %q, want %q", got, before)
				}
			}
		}
	})
}

func TestALateParentJoinsTwoAndThatCanBeUndone(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "One", answers: "parent@x.example", text: "A."})
	w.receive(mail{id: "b@x.example", from: "p@x.example", subject: "Two", text: "B."})
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 2)
	two := rows[slices.IndexFunc(rows, func(r show.Row) bool { return r.Title == "Two" })]
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{two.ID}, Mark: "star"})
	require.NoError(t, err)
	w.decide(decide.PutOff, two, until("fri"))
	w.receive(mail{id: "link@x.example", from: "p@x.example", subject: "Both", answers: "parent@x.example", extra: "X-Refs: y\r\n", text: "C."})
	assert.Len(t, w.rows(decide.Inbox), 1, "it joins the first only")

	// One that refers to both makes one of them.
	both := mail{id: "d@x.example", from: "p@x.example", subject: "Both", text: "D.", extra: "References: <a@x.example> <b@x.example>\r\n"}
	w.receive(both)
	row := w.row(decide.Inbox)
	assert.Equal(t, 4, row.Letters)
	assert.True(t, row.Star, "marks unite")
	old, err := w.app.Open(w.ctx, w.who, two.ID)
	require.NoError(t, err)
	assert.Equal(t, row.ID, old.ID, "the other id leads on")

	journal, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	join := slices.IndexFunc(journal, func(e show.JournalEntry) bool { return strings.HasPrefix(e.Title, "Joined “One” and “Two”") })
	require.GreaterOrEqual(t, join, 0)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), journal[join].Entry, true)
	require.NoError(t, err)
	assert.Equal(t, []string{"A. C. D.", "B."}, w.threaded(t), "apart again")

	w.receive(mail{id: "e@x.example", from: "p@x.example", subject: "Both", text: "E.", extra: "References: <a@x.example> <b@x.example>\r\n"})
	assert.Equal(t, []string{"A. C. D.", "B. E."}, w.threaded(t), "and they stay apart, whatever refers to both")
}

func TestSplitAndWhatFollowsIt(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "Crates", text: "A."})
	w.receive(mail{id: "b@x.example", from: "p@x.example", subject: "Re: Crates", answers: "a@x.example", text: "B."})
	w.receive(mail{id: "c@x.example", from: "p@x.example", subject: "Re: Crates", answers: "b@x.example", text: "C."})
	c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	_, err = w.app.Split(w.ctx, w.who, rand.Text(), c.LetterList[0].ID)
	assert.ErrorContains(t, err, "second letter")
	_, err = w.app.Split(w.ctx, w.who, rand.Text(), 999)
	assert.Error(t, err)
	_, err = w.app.Split(w.ctx, w.who, rand.Text(), c.LetterList[1].ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"A.", "B. C."}, w.threaded(t))

	answer := func(id, to, refs, text string) {
		w.receive(mail{id: id, from: "p@x.example", subject: "Re: Crates", text: text, extra: "In-Reply-To: <" + to + ">\r\nReferences: " + refs + "\r\n"})
	}
	answer("d@x.example", "c@x.example", "<a@x.example> <b@x.example> <c@x.example>", "D.")
	assert.Equal(t, []string{"A.", "B. C. D."}, w.threaded(t), "a later answer follows what it answers")
	answer("e@x.example", "a@x.example", "<a@x.example>", "E.")
	assert.Equal(t, []string{"A. E.", "B. C. D."}, w.threaded(t))
	w.undo()
	assert.Equal(t, []string{"A. B. C. D. E."}, w.threaded(t), "what was split is one again, with what came since")
}

// What was split, or joined, can't be taken back once there is nothing that it would go back to; what is left stays
// where it stands.
func TestASplitIsNotTakenBackIntoWhatIsGone(t *testing.T) {
	split := func(w *world) (first, second show.Row, entry int64) {
		w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "Crates", text: "A."})
		w.receive(mail{id: "b@x.example", from: "q@x.example", subject: "Re: Crates", answers: "a@x.example", text: "B."})
		c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
		require.NoError(w.t, err)
		done, err := w.app.Split(w.ctx, w.who, rand.Text(), c.LetterList[1].ID)
		require.NoError(w.t, err)
		rows := w.rows(decide.Inbox)
		require.Len(w.t, rows, 2)
		i := slices.IndexFunc(rows, func(r show.Row) bool { return r.ID == c.ID })
		return rows[i], rows[1-i], done.Entry
	}
	undo := func(w *world, entry int64) app.Undone {
		u, err := w.app.Undo(w.ctx, w.who, rand.Text(), entry, true)
		var refused *work.Problem // what is left of a step that named somebody is final
		if !errors.As(err, &refused) {
			require.NoError(w.t, err)
		}
		return u
	}
	gone := map[string]func(*world, show.Row, string){
		"purged": func(w *world, r show.Row, _ string) {
			w.decide(decide.ToBin, r)
			w.pass(31 * 24 * time.Hour)
		},
		"erased": func(w *world, _ show.Row, from string) { w.erase(from) },
	}
	for name, goes := range gone {
		t.Run("the first part was "+name, func(t *testing.T) {
			w := newWorld(t)
			first, second, entry := split(w)
			goes(w, first, "p@x.example")
			u := undo(w, entry)
			assert.Contains(t, u.Title, "Nothing left to undo of")
			assert.NotEmpty(t, u.Left)
			assert.Equal(t, second.ID, w.row(decide.Inbox).ID)
			w.sound()
		})
		t.Run("the second part was "+name, func(t *testing.T) {
			w := newWorld(t)
			first, second, entry := split(w)
			goes(w, second, "q@x.example")
			undo(w, entry)
			assert.Equal(t, first.ID, w.row(decide.Inbox).ID)
			w.sound()
		})
		t.Run("two that were joined were "+name, func(t *testing.T) {
			w := newWorld(t)
			w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "One"})
			w.receive(mail{id: "b@x.example", from: "p@x.example", subject: "Two"})
			w.receive(mail{id: "c@x.example", from: "p@x.example", subject: "Both", extra: "References: <a@x.example> <b@x.example>\r\n"})
			journal, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
			require.NoError(t, err)
			join := slices.IndexFunc(journal, func(e show.JournalEntry) bool { return strings.HasPrefix(e.Title, "Joined") })
			goes(w, w.row(decide.Inbox), "p@x.example")
			undo(w, journal[join].Entry)
			assert.Empty(t, w.rows(decide.Inbox))
			w.sound()
		})
	}
}

// A part that was decided on since stays as it is, with its letters.
func TestASplitIsNotTakenBackOnceAPartWasDecidedOn(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "a@x.example", from: "p@x.example", subject: "Crates", text: "A."})
	w.receive(mail{id: "b@x.example", from: "p@x.example", subject: "Re: Crates", answers: "a@x.example", text: "B."})
	c, err := w.app.Open(w.ctx, w.who, w.row(decide.Inbox).ID)
	require.NoError(t, err)
	w.decide(decide.PutOff, w.row(decide.Inbox), until("tomorrow"))
	_, err = w.app.Split(w.ctx, w.who, rand.Text(), c.LetterList[1].ID)
	require.NoError(t, err)
	w.pass(2 * 24 * time.Hour)
	require.Len(t, w.rows(decide.Inbox), 2, "both came back")
	u := w.undo()
	assert.Contains(t, u.Title, "Nothing left to undo of")
	assert.Equal(t, []string{"Left as it is: “Re: Crates”, moved since, put off otherwise since."}, u.Left)
	assert.Equal(t, []string{"A.", "B."}, w.threaded(t))
}

func TestAMisplacedAnswerMovesWhenItsOriginalComesLate(t *testing.T) {
	w := newWorld(t)
	at := func(m mail, day int) {
		require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: m.bytes(start.AddDate(0, 0, -day)), At: w.clock.Now()}))
	}
	at(mail{id: "old@x.example", from: "p@x.example", subject: "Crates", text: "Old."}, 20)
	at(mail{id: "re@x.example", from: "p@x.example", subject: "Re: Crates", text: "Answer."}, 2)
	assert.Equal(t, []string{"Answer. Old."}, w.threaded(t))
	at(mail{id: "new@x.example", from: "p@x.example", subject: "Crates", text: "New."}, 4)
	assert.Equal(t, []string{"Answer. New.", "Old."}, w.threaded(t))
}

func TestOneLetterByTwoAccountsAndByAList(t *testing.T) {
	w := newWorld(t)
	m := mail{id: "a@x.example", from: "p@x.example", subject: "Both"}
	raw := m.bytes(start)
	byList := append([]byte("Received: by list.example; Tue, 24 Nov 2026 08:00:00 +0100\r\nList-Id: <l.example>\r\n"), raw...)
	for _, in := range []app.Incoming{{To: "ines@norrholm.example", Raw: raw}, {To: "walks@norrholm.example", Raw: raw}, {To: "ines@norrholm.example", Raw: byList}} {
		in.Inbox, in.Source, in.At = w.who.Inbox, "smtp", w.clock.Now()
		require.NoError(t, w.app.Receive(w.ctx, in))
	}
	row := w.row(decide.Inbox)
	assert.Equal(t, 1, row.Letters, "one letter, three arrivals")
	assert.Len(t, row.Accounts, 2, "with both account marks")
	w.decide(decide.Done, row)
	assert.Empty(t, w.rows(decide.Inbox), "decided once")
}

func TestMyOwnLetterComesBackByAList(t *testing.T) {
	w := newWorld(t)
	w.send(nil, func(s *app.Sending) { s.To = []string{"list@l.example"} })
	w.pass(time.Minute)
	sent := w.post.sent[0]
	byList := append([]byte("List-Id: <l.example>\r\n"), []byte(strings.Replace(string(sent), "As asked.", "As asked.\r\n--=20\r\nThe list's footer", 1))...)
	require.NoError(t, w.app.Receive(w.ctx, app.Incoming{Inbox: w.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: byList, At: w.clock.Now()}))
	assert.Empty(t, w.rows(decide.Inbox))
	assert.Equal(t, 1, w.row(decide.Archive).Letters, "it joins itself")
}
