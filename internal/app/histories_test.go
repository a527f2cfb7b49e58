package app_test

import (
	"crypto/rand"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// history is what happens to one person, drawn at random.
type history struct {
	*world
	t       *rapid.T
	own     [2]string
	letters int
}

// newHistory is that of a new person.
func newHistory(w *world, t *rapid.T) *history {
	name := strings.ToLower(rand.Text())
	h := &history{world: w, t: t, own: [2]string{name + "@norrholm.example", name + "@walks.example"}}
	var err error
	h.who, err = w.app.Store.AddPerson(w.ctx, store.Person{Name: "Ines", SignIn: name, Zone: "Europe/Oslo"}, []store.Account{{Address: h.own[0], Name: "Ines"}, {Address: h.own[1]}}, start)
	require.NoError(t, err)
	return h
}

// accepted lets a use case refuse, as long as it says why.
func (h *history) accepted(err error) {
	var p *app.Problem
	if err != nil && !errors.As(err, &p) {
		require.NoError(h.t, err)
	}
}

func (h *history) mail() mail {
	m := mail{
		id: fmt.Sprintf("m%d@x.example", h.letters), text: fmt.Sprintf("Letter %d. Could you say?", h.letters),
		from:    rapid.SampledFrom([]string{"p@x.example", "q@x.example", "Ines <" + h.own[0] + ">", h.own[1]}).Draw(h.t, "from"),
		to:      rapid.SampledFrom([]string{h.own[0], h.own[1], h.own[0] + ", " + h.own[1], "p@x.example, " + h.own[0]}).Draw(h.t, "to"),
		subject: rapid.SampledFrom([]string{"Crates", "Re: Crates", "Boxes", ""}).Draw(h.t, "subject"),
	}
	if rapid.Bool().Draw(h.t, "answers") {
		m.answers = fmt.Sprintf("m%d@x.example", rapid.IntRange(0, h.letters+2).Draw(h.t, "to which"))
	}
	if rapid.IntRange(0, 4).Draw(h.t, "links") == 0 {
		m.extra = fmt.Sprintf("X-Refs: y\r\nReferences: <m%d@x.example> <m%d@x.example>\r\n", rapid.IntRange(0, h.letters).Draw(h.t, "one"), rapid.IntRange(0, h.letters).Draw(h.t, "other"))
	}
	h.letters++
	return m
}

func (h *history) any() (show.Row, bool) {
	var all []show.Row
	for _, p := range []decide.Place{decide.Inbox, decide.Later, decide.Archive, decide.Bin, decide.Junk} {
		all = append(all, h.rows(p)...)
	}
	if len(all) == 0 {
		return show.Row{}, false
	}
	return rapid.SampledFrom(all).Draw(h.t, "row"), true
}

func (h *history) step() {
	h.clock.Advance(time.Duration(rapid.IntRange(1, 600).Draw(h.t, "minutes")) * time.Minute)
	switch rapid.SampledFrom([]string{"receive", "receive", "receive", "copy", "decide", "decide", "split", "hold", "let in", "undo", "undo", "redo", "send", "clock", "mark"}).Draw(h.t, "what") {
	case "receive":
		m := h.mail()
		h.accepted(h.app.Receive(h.ctx, app.Incoming{Inbox: h.who.Inbox, To: h.own[0], Source: "smtp", Raw: m.bytes(h.clock.Now()), At: h.clock.Now()}))
	case "copy": // one letter, two arrivals
		raw := h.mail().bytes(h.clock.Now())
		for _, to := range h.own {
			h.accepted(h.app.Receive(h.ctx, app.Incoming{Inbox: h.who.Inbox, To: to, Source: "smtp", Raw: raw, At: h.clock.Now()}))
		}
	case "decide":
		if r, ok := h.any(); ok {
			d := app.Deciding{Command: rand.Text(), On: []store.Seen{{ID: r.ID, Last: r.Last}}, Sure: true}
			d.Kind = rapid.SampledFrom([]decide.Kind{decide.Done, decide.PutOff, decide.FollowUp, decide.ToBin, decide.ToJunk, decide.ToInbox}).Draw(h.t, "kind")
			if d.Kind == decide.PutOff {
				d.When = rapid.SampledFrom([]string{"tomorrow", "in 2 hours", "when they answer", "2d if nobody has answered", "someday"}).Draw(h.t, "when")
			}
			_, err := h.app.Decide(h.ctx, h.who, d)
			h.accepted(err)
		}
	case "split":
		if r, ok := h.any(); ok {
			c, err := h.app.Open(h.ctx, h.who, r.ID)
			require.NoError(h.t, err)
			if len(c.LetterList) > 0 {
				_, err = h.app.Split(h.ctx, h.who, rand.Text(), rapid.SampledFrom(c.LetterList).Draw(h.t, "letter").ID)
				h.accepted(err)
			}
		}
	case "hold":
		_, err := h.app.Hold(h.ctx, h.who, rand.Text(), app.Holding{})
		h.accepted(err)
	case "let in":
		_, err := h.app.LetIn(h.ctx, h.who, rand.Text(), 0, rapid.Bool().Draw(h.t, "open"))
		h.accepted(err)
	case "undo":
		_, err := h.app.Undo(h.ctx, h.who, rand.Text(), 0, true)
		h.accepted(err)
	case "redo":
		_, err := h.app.Redo(h.ctx, h.who, rand.Text())
		h.accepted(err)
	case "send":
		s := app.Sending{Command: rand.Text(), Writing: show.Writing{Kind: "new", From: h.own[0], To: []string{rapid.SampledFrom([]string{"p@x.example", h.own[1]}).Draw(h.t, "to")}, Subject: "Crates", Text: "Mine."}}
		if r, ok := h.any(); ok && rapid.Bool().Draw(h.t, "an answer") {
			s.Kind, s.Letter, s.Conversation, s.Saw = "answer", r.Last, r.ID, r.Last
		}
		_, err := h.app.Send(h.ctx, h.who, s)
		h.accepted(err)
	case "clock":
		_, err := h.app.RunDue(h.ctx)
		require.NoError(h.t, err)
	case "mark":
		if r, ok := h.any(); ok {
			_, err := h.app.Mark(h.ctx, h.who, app.Marking{Command: rand.Text(), On: []int64{r.ID}, Mark: rapid.SampledFrom([]string{"star", "quiet"}).Draw(h.t, "mark")})
			h.accepted(err)
		}
	}
}

// Whatever happens, in whatever order, what is kept is what it would be if it
// were worked out anew.
func TestWhatIsKeptIsWhatWouldBeWorkedOut(t *testing.T) {
	w := newWorld(t)
	require.NoError(t, w.app.Store.Relax(w.ctx))
	rapid.Check(t, func(rt *rapid.T) {
		h := newHistory(w, rt)
		for range rapid.IntRange(5, 25).Draw(rt, "steps") {
			h.step()
		}
		problems, err := w.app.Store.Check(w.ctx)
		require.NoError(rt, err)
		if len(problems) > 0 {
			rt.Fatalf("%v", problems)
		}
	})
}
