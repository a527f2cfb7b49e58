package app_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/work"
)

const working = "mon-fri 8:30, 13:00, 16:30; closed 9-11:30; quiet 17:30-8:30\nsat, sun quiet\nmon quiet 0-8:30"

// plan puts a plan in force.
func (w *world) plan(text string) app.Decided {
	w.t.Helper()
	out, err := w.app.PutPlan(w.ctx, w.who, rand.Text(), 0, &show.PlanDraft{Text: &text})
	require.NoError(w.t, err)
	return out
}

func (w *world) through(f app.ThroughFields) app.Decided {
	w.t.Helper()
	out, err := w.app.AddThrough(w.ctx, w.who, rand.Text(), f)
	require.NoError(w.t, err)
	return out
}

func (w *world) delivery() show.DeliveryView {
	w.t.Helper()
	out, err := w.app.Delivery(w.ctx, w.who, 0)
	require.NoError(w.t, err)
	return out
}

func (w *world) titles() []string {
	var out []string
	for _, r := range w.rows(decide.Inbox) {
		out = append(out, r.Group.Label+": "+r.Title)
	}
	return out
}

func letterOf(n int, from, subject string) mail {
	return mail{id: fmt.Sprintf("n%d@x.example", n), from: from, subject: subject}
}

func TestMailComesByRounds(t *testing.T) {
	w := newWorld(t) // Tuesday 08:20
	w.plan(working)
	assert.Equal(t, "until today 08:30", w.overview().Gate.Words)
	w.receive(letterOf(1, "eva@x.example", "First"))
	assert.Empty(t, w.rows(decide.Inbox))
	w.pass(10 * time.Minute)
	assert.Equal(t, []string{"Let in at 08:30: First"}, w.titles())
	w.pass(time.Hour) // in the closed block
	assert.Equal(t, delivery.Closed, w.overview().Gate.Cause)
	w.receive(letterOf(2, "eva@x.example", "Second"))
	w.pass(3 * time.Hour) // 12:30, between rounds
	assert.Equal(t, 1, w.overview().Held)
	w.pass(30 * time.Minute)
	assert.Equal(t, []string{"Let in at 13:00: Second", "Let in at 08:30: First"}, w.titles())

	// While nobody looked: three rounds, each at its time.
	w.receive(letterOf(3, "eva@x.example", "Third"))
	w.pass(26 * time.Hour)
	assert.Contains(t, w.titles(), "Carried over from yesterday: Third", "it came at 16:30 of the day before")
	steps, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(t, err)
	rounds := 0
	for _, e := range steps {
		if e.Actor == work.ByClock {
			rounds++
		}
	}
	assert.Equal(t, 5, rounds, "each round once")
}

func TestWhatIsLetThrough(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "ask@x.example", from: "Bram <bram@freight.example>", subject: "Crates"})
	w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{Project: ref("Loan")} })
	w.plan("daily 20:00")
	for _, c := range []struct {
		name  string
		entry app.ThroughFields
		m     mail
	}{
		{"sender", app.ThroughFields{Kind: delivery.BySender, Value: "Office@Garden.example", Key: true}, mail{from: "Office <office@garden.example>"}},
		{"domain", app.ThroughFields{Kind: delivery.ByDomain, Value: "@health.example"}, mail{from: "a@port.health.example"}},
		{"words", app.ThroughFields{Kind: delivery.ByWords, Value: `a "frost" alarm`}, mail{from: "m@x.example", text: "House 4: a Frost-alarm, come at once."}},
		{"project", app.ThroughFields{Kind: delivery.ByProject, Value: "loan"}, mail{from: "Bram <bram@freight.example>", answers: "ask@x.example"}},
		{"to", app.ThroughFields{Kind: delivery.ByAddress, Value: "walks@norrholm.example"}, mail{from: "v@x.example", to: "walks@norrholm.example"}},
	} {
		before := len(w.rows(decide.Inbox))
		name, other := c.name, c.m
		other.id, other.subject = name+"0@x.example", "Before "+name
		w.receive(other)
		require.Len(t, w.rows(decide.Inbox), before, "%s: before the entry", name)
		preview, err := w.app.PreviewThrough(w.ctx, w.who, c.entry)
		require.NoError(t, err)
		assert.Equal(t, 1, preview.Held, "%s: the one that waits is offered", name)
		w.through(c.entry)
		c.m.id, c.m.subject = name+"@x.example", "After "+name
		w.receive(c.m)
		require.Len(t, w.rows(decide.Inbox), before+1, name)
	}
	for _, r := range w.rows(decide.Inbox) {
		if r.Group.Key == "through" {
			assert.NotEmpty(t, r.Through, "%s says by what it came", r.Title)
		}
	}
	list := w.delivery()
	assert.Len(t, slices.DeleteFunc(w.rows(decide.Inbox), func(r show.Row) bool { return r.Group.Label != "Let through" }), 4, "the fifth is an answer, and stands with what is new")
	require.Len(t, list.Through, 5)
	assert.Len(t, list.Let, 5)

	before := len(w.rows(decide.Inbox))
	_, err := w.app.LetThroughNow(w.ctx, w.who, rand.Text(), list.Through[0].ID)
	require.NoError(t, err)
	assert.Len(t, w.rows(decide.Inbox), before+1, "the one that waited")
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Everything: true})
	require.NoError(t, err)
	w.receive(letterOf(90, "office@garden.example", "Nothing"))
	assert.Len(t, w.rows(decide.Inbox), before+1, "a hold of everything")
	w.undo()
	_, err = w.app.EndThrough(w.ctx, w.who, rand.Text(), list.Through[0].ID)
	require.NoError(t, err)
	w.undo()
	assert.Len(t, w.delivery().Through, 5, "taking an entry off is undone")
}

func TestAnAnswerThatIsWaitedForAndAnEntryThatEnds(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "q@x.example", from: "Bram <bram@freight.example>", subject: "Crates"})
	row := w.row(decide.Inbox)
	_, err := w.app.Send(w.ctx, w.who, app.Sending{Command: rand.Text(), Conversation: row.ID, Saw: row.Last, Writing: show.Writing{
		Kind: "answer", From: "ines@norrholm.example", To: []string{"bram@freight.example"}, Subject: "Re: Crates", Text: "How tall?", Letter: row.Last, Wait: "in 3 days",
	}})
	require.NoError(t, err)
	w.plan("daily 20:00")
	w.through(app.ThroughFields{Kind: delivery.ByAnswer})
	w.through(app.ThroughFields{Kind: delivery.BySender, Value: "eva@x.example", Until: "today"})
	w.pass(time.Minute)
	w.receive(mail{id: "a@x.example", from: "Bram <bram@freight.example>", subject: "Re: Crates", answers: "q@x.example"})
	assert.Equal(t, "answers you wait for", w.row(decide.Inbox).Through)
	w.receive(letterOf(1, "eva@x.example", "Today"))
	assert.Len(t, w.rows(decide.Inbox), 2, "on its last day")
	w.pass(24 * time.Hour)
	before := len(w.rows(decide.Inbox))
	w.receive(letterOf(2, "eva@x.example", "Tomorrow"))
	assert.Len(t, w.rows(decide.Inbox), before, "it has run out")
}

func TestAPlanThatCantBePutInForce(t *testing.T) {
	w := newWorld(t)
	w.plan(working)
	for text, says := range map[string]string{
		"daily quiet": "never let anything in", "mon closed 9-11, 10-12": "overlap", "tue 9-10": "closed or quiet", "someday 9": "no day",
	} {
		_, err := w.app.PutPlan(w.ctx, w.who, rand.Text(), 0, &show.PlanDraft{Text: &text})
		assert.ErrorContains(t, err, says, text)
	}
	v := w.delivery()
	assert.Equal(t, "until today 08:30", v.Gate.Words, "the old plan stays in force")
	require.Len(t, v.Past, 1)
	assert.True(t, v.Past[0].InForce)
	p, err := w.app.PreviewPlan(w.ctx, w.who, 0, show.PlanDraft{Text: ref("daily 10; closed 9-11:30")})
	require.NoError(t, err)
	assert.Len(t, p.Moved, 7, "rounds inside closed time are told of")
	assert.Equal(t, "11:30", p.Moved[0].To)
	assert.Equal(t, "Held now, until today 11:30.", p.Gate)
}

func TestPlansAreChangedAndPutBack(t *testing.T) {
	w := newWorld(t)
	w.receive(letterOf(1, "eva@x.example", "Before"))
	w.plan(working)
	w.receive(letterOf(2, "eva@x.example", "Waits"))
	w.plan("daily quiet 20-6")
	assert.Len(t, w.rows(decide.Inbox), 2, "a plan under which mail flows lets in what waits")
	w.undo()
	assert.Equal(t, "until today 08:30", w.overview().Gate.Words)
	assert.Len(t, w.rows(decide.Inbox), 2, "what it let in stays")
	_, err := w.app.PutPlan(w.ctx, w.who, rand.Text(), 0, &show.PlanDraft{})
	require.NoError(t, err)
	assert.True(t, w.overview().Gate.Open, "removing the plan lets mail flow")
	w.plan(working)
	past := w.delivery().Past
	require.Len(t, past, 2, "the same plan is kept once")
	assert.True(t, past[1].InForce)
	w.pass(3 * time.Hour)
	moved, err := w.app.EditSettings(w.ctx, w.who, rand.Text(), app.SettingsFields{Zone: ref("America/New_York")})
	require.NoError(t, err)
	assert.NotZero(t, moved.Entry)
	assert.Equal(t, delivery.Quiet, w.overview().Gate.Cause, "the plan follows the person: it is night there")
	assert.Equal(t, "until today 08:30", w.overview().Gate.Words)
}

func TestLettingInEarlyAndOpening(t *testing.T) {
	w := newWorld(t)
	w.plan(working)
	w.receive(letterOf(1, "eva@x.example", "One"))
	_, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, false)
	require.NoError(t, err)
	assert.Len(t, w.rows(decide.Inbox), 1)
	assert.False(t, w.overview().Gate.Open, "the state stays")
	assert.Equal(t, 1, w.delivery().Early)
	w.pass(time.Hour) // 09:20, closed
	_, err = w.app.LetIn(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	o := w.overview().Gate
	assert.True(t, o.Open)
	assert.Equal(t, "until today 13:00", o.Words, "open until the next round")
	w.receive(letterOf(2, "eva@x.example", "Two"))
	assert.Len(t, w.rows(decide.Inbox), 2)
	w.pass(4 * time.Hour)
	assert.Equal(t, delivery.Between, w.overview().Gate.Cause)
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "today 16:45"})
	require.NoError(t, err)
	w.receive(letterOf(3, "eva@x.example", "Three"))
	w.pass(3*time.Hour + 15*time.Minute) // 16:35
	assert.Len(t, w.rows(decide.Inbox), 2, "the hold swallowed the round of 16:30")
	w.pass(10 * time.Minute)
	assert.Len(t, w.rows(decide.Inbox), 3, "and lets in at its end")
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "yesterday"})
	assert.Error(t, err, "a hold in the past")

	w.pass(15 * time.Hour) // the next morning, 07:45
	w.receive(letterOf(4, "eva@x.example", "Four"))
	early := w.delivery().Early
	in, err := w.app.LetIn(w.ctx, w.who, rand.Text(), 0, true)
	require.NoError(t, err)
	begun := w.rows(decide.Inbox)
	assert.Equal(t, early+1, w.delivery().Early)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), in.Entry, true)
	require.NoError(t, err)
	v := w.delivery()
	assert.Equal(t, []any{delivery.Quiet, 1, early}, []any{v.Gate.Cause, v.Held, v.Early}, "as before, and not counted")
	w.pass(45 * time.Minute)
	again := w.rows(decide.Inbox)
	assert.Len(t, again, 4, "the round brings it all the same")
	for _, r := range again {
		assert.False(t, r.Title == "Four" && slices.ContainsFunc(begun, func(b show.Row) bool { return b.ID == r.ID }), "a page that still shows what was undone names nothing else")
	}
}

func TestAccountsWithPlansOfTheirOwn(t *testing.T) {
	w := newWorld(t)
	w.plan("daily 20:00")
	accounts, err := w.app.Accounts(w.ctx, w.who)
	require.NoError(t, err)
	walks := accounts[1].ID
	_, err = w.app.PutPlan(w.ctx, w.who, rand.Text(), walks, &show.PlanDraft{Text: ref("daily 9:00")})
	require.NoError(t, err)
	both := letterOf(1, "eva@x.example", "To both")
	w.receive(both)
	both.to = "walks@norrholm.example"
	w.receive(both)
	w.receive(letterOf(2, "eva@x.example", "To one"))
	require.Len(t, w.overview().Gate.Accounts, 1)
	for account, want := range map[int64]int{0: 2, accounts[0].ID: 2, walks: 1} {
		v, err := w.app.Delivery(w.ctx, w.who, account)
		require.NoError(t, err)
		assert.Equal(t, []int{want, want}, []int{v.Held, v.Next[0].Waiting}, account)
	}
	w.pass(time.Hour)
	assert.Equal(t, "To both", w.row(decide.Inbox).Title, "let in when the first of them is open, once")
	assert.Len(t, w.row(decide.Inbox).Accounts, 2)
	w.pass(24 * time.Hour)
	for account, want := range map[int64]int{0: 2, walks: 1} {
		p, err := w.app.PreviewPlan(w.ctx, w.who, account, show.PlanDraft{Text: ref("mon 9")})
		require.NoError(t, err)
		assert.Equal(t, want, p.Replay.Letters, "those of the account are tried")
	}
	_, err = w.app.PutPlan(w.ctx, w.who, rand.Text(), walks, nil)
	require.NoError(t, err)
	assert.Empty(t, w.overview().Gate.Accounts, "back to the common plan")
	w.plan("")
	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Account: walks})
	require.NoError(t, err)
	late := letterOf(3, "eva@x.example", "Late")
	late.to = "walks@norrholm.example"
	w.receive(late)
	in, err := w.app.LetIn(w.ctx, w.who, rand.Text(), walks, true)
	require.NoError(t, err)
	assert.Equal(t, "1 letter let in", in.Title)
	_, err = w.app.Undo(w.ctx, w.who, rand.Text(), in.Entry, true)
	require.NoError(t, err)
	assert.Equal(t, 1, w.overview().Held, "the account is held again, and its letter, though the others are open")
}

// undoRound takes the clock's last round back.
func (w *world) undoRound(title string) app.Undone {
	w.t.Helper()
	list, err := w.app.Journal(w.ctx, w.who, show.JournalAsk{})
	require.NoError(w.t, err)
	i := slices.IndexFunc(list, func(e show.JournalEntry) bool { return e.Actor == work.ByClock && e.Undo })
	require.GreaterOrEqual(w.t, i, 0)
	require.Equal(w.t, title, list[i].Title)
	out, err := w.app.Undo(w.ctx, w.who, rand.Text(), list[i].Entry, true)
	require.NoError(w.t, err)
	return out
}

func (w *world) found(words string) []show.Row {
	w.t.Helper()
	found, err := w.app.Search(w.ctx, w.who, show.Asked{Q: words})
	require.NoError(w.t, err)
	return found.Rows
}

func TestARoundIsUndone(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "old@x.example", from: "eva@x.example", subject: "Old"})
	w.decide(decide.Done, w.row(decide.Inbox))
	w.receive(mail{id: "kept@x.example", from: "eva@x.example", subject: "Kept"})
	w.decide(decide.PutOff, w.row(decide.Inbox), until("fri"))
	later := w.row(decide.Later)
	w.plan(working)
	for i, title := range []string{"One", "Two", "Three", "Four"} {
		w.receive(letterOf(i, fmt.Sprintf("p%d@x.example", i), title))
	}
	w.receive(mail{id: "re@x.example", from: "Per <per@x.example>", subject: "Re: Old", answers: "old@x.example", to: "walks@norrholm.example"})
	w.receive(mail{id: "re1@x.example", from: "per@x.example", subject: "Re: One", answers: "n0@x.example"})
	w.receive(mail{id: "re2@x.example", from: "eva@x.example", subject: "Re: Kept", answers: "kept@x.example", text: "A watering can."})
	w.pass(10 * time.Minute)
	require.Len(t, w.rows(decide.Inbox), 6)
	for _, r := range w.rows(decide.Inbox) {
		switch r.Title {
		case "Two":
			w.decide(decide.Done, r)
		case "One":
			assert.Equal(t, 2, r.Letters, "an answer that waited too stands with what it answers")
		case "Old":
			assert.Equal(t, "per@x.example", r.From.Email, "the newest letter speaks")
			assert.Len(t, r.Accounts, 2)
		}
	}
	out := w.undoRound("The 08:30 round: 7 letters")
	assert.Equal(t, "Held again: 6 letters", out.Title)
	assert.Equal(t, []string{"Not held again: “Two”, worked on since or tied to something that changed."}, out.Left, "it is named and left")
	assert.Equal(t, 6, w.overview().Held)
	assert.Empty(t, w.rows(decide.Inbox))
	back := w.row(decide.Later)
	back.PlaceSince = later.PlaceSince // it did come and go
	assert.Equal(t, later, back, "put off as before, with its old return")
	for _, r := range w.rows(decide.Archive) {
		if r.Title == "Old" {
			assert.Equal(t, "eva@x.example", r.From.Email)
			assert.Equal(t, 1, r.Letters)
			assert.Len(t, r.Accounts, 1)
		}
	}
	assert.Empty(t, w.found("three"), "held again, it is not found")
	assert.Empty(t, w.found("watering"))
	assert.Empty(t, w.found("from:per@x.example"))

	w.pass(5 * time.Hour)
	assert.Zero(t, w.overview().Held)
	assert.Len(t, w.found("three"), 1, "the next round lets it in, once")
	assert.Len(t, w.found("watering"), 1)
	assert.Len(t, w.rows(decide.Inbox), 5)
}

// What came by an import at the very moment of a round is not of it: it stays where it is.
func TestARoundIsUndoneWithoutWhatCameBesideIt(t *testing.T) {
	w := newWorld(t)
	w.plan(working)
	w.receive(letterOf(1, "p@x.example", "One"))
	w.pass(10 * time.Minute)
	require.Len(t, w.rows(decide.Inbox), 1)
	alone := mail{id: "alone@x.example", from: "q@x.example", subject: "Alone"}
	beside := mail{id: "beside@x.example", from: "q@x.example", subject: "Re: One", answers: "n1@x.example", text: "A watering can."}
	_, err := w.app.ImportNow(w.ctx, w.who, app.Importing{Command: rand.Text(), Name: "old.mbox", Path: mboxOf(t, alone.bytes(start), beside.bytes(start))}, nil)
	require.NoError(t, err)
	out := w.undoRound("The 08:30 round: 1 letter")
	assert.Equal(t, "Held again: 1 letter", out.Title)
	assert.Empty(t, out.Left)
	assert.Len(t, w.found("alone"), 1)
	assert.Len(t, w.found("watering"), 1, "it stands there without what is held")
	assert.Equal(t, 1, w.overview().Held)
	w.pass(5 * time.Hour)
	assert.Zero(t, w.overview().Held)
	assert.Equal(t, 2, w.found("watering")[0].Letters)
}

func (w *world) note(causes ...delivery.Cause) {
	w.t.Helper()
	n := delivery.UsualNote
	n.Causes, n.Contact = causes, "the gate, 555 0143"
	_, err := w.app.SetHoldingNote(w.ctx, w.who, rand.Text(), n)
	require.NoError(w.t, err)
}

func TestTheHoldingNote(t *testing.T) {
	w := newWorld(t)
	w.plan(working)
	w.note(delivery.Quiet)
	w.receive(letterOf(1, "Eva <eva@x.example>", "Hello"))
	w.receive(letterOf(2, "Eva <eva@x.example>", "Hello again"))
	w.receive(mail{id: "l@x.example", from: "list@x.example", subject: "News", extra: "List-Id: <news.x.example>\r\n"})
	w.receive(mail{id: "m@x.example", from: "m@x.example", subject: "Auto", extra: "Auto-Submitted: auto-replied\r\n"})
	w.receive(mail{id: "e@x.example", from: "p@x.example", subject: "Bounce", extra: "Return-Path: <>\r\n"})
	w.receive(mail{id: "o@x.example", from: "ines@norrholm.example", to: "ines@norrholm.example", subject: "To me"})
	w.pass(time.Second)
	require.Len(t, w.post.sent, 1, "once a person, and to nobody but people")
	assert.Equal(t, []string{"eva@x.example"}, w.post.to[0])
	assert.Contains(t, string(w.post.sent[0]), "Auto-Submitted: auto-replied")
	text := letter.Parse(w.post.sent[0]).Text
	assert.Contains(t, text, "next on Tuesday 24 November at 08:30")
	assert.Contains(t, text, "555 0143")
	assert.Empty(t, w.rows(decide.Archive), "the note shows nothing of what waits")
	v := w.delivery()
	require.Len(t, v.Noted, 1)
	assert.Equal(t, "eva@x.example", v.Noted[0].To)
	w.pass(time.Hour) // closed: not one of the causes
	w.receive(letterOf(3, "Per <per@x.example>", "Hello"))
	w.pass(time.Second)
	assert.Len(t, w.post.sent, 1)
	w.pass(24 * time.Hour)
	w.note(delivery.Closed)
	w.receive(letterOf(4, "Eva <eva@x.example>", "The day after"))
	w.pass(time.Second)
	assert.Len(t, w.post.sent, 2, "a day later she may have another")
	bad := delivery.UsualNote
	bad.Causes, bad.Text = []delivery.Cause{delivery.Quiet}, " "
	_, err := w.app.SetHoldingNote(w.ctx, w.who, rand.Text(), bad)
	assert.ErrorContains(t, err, "no text")
}

// postman brings what one Ebbe sends to another.
type postman struct {
	to   *world
	sent int
}

func (p *postman) Send(ctx context.Context, e post.Envelope, raw []byte) ([]post.Outcome, error) {
	p.sent++
	return taken(e.To), p.to.app.Receive(ctx, app.Incoming{Inbox: p.to.who.Inbox, To: e.To[0], Source: "smtp", Raw: raw, At: p.to.clock.Now()})
}

func TestTwoRespondersDoNotAnswerEachOther(t *testing.T) {
	a, b := newWorld(t), newWorld(t)
	toA, toB := &postman{to: a}, &postman{to: b}
	a.app.Sender, b.app.Sender = toB, toA
	for _, w := range []*world{a, b} {
		w.plan("daily 20:00")
		w.note(delivery.Between)
	}
	a.receive(mail{id: "start@x.example", from: "Walks <walks@elsewhere.example>", subject: "Round and round"})
	for range 5 {
		a.pass(time.Minute)
		b.pass(time.Minute)
	}
	assert.Equal(t, 1, toB.sent, "one note")
	assert.Zero(t, toA.sent, "and none back")
}

func TestReplayAndExamples(t *testing.T) {
	w := newWorld(t)
	for i := range 40 {
		w.receive(letterOf(i, fmt.Sprintf("p%d@x.example", i%3), fmt.Sprint("Letter ", i)))
		w.pass(4 * time.Hour)
	}
	examples, err := w.app.ExamplePlans(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, examples, 3)
	for _, e := range examples {
		assert.Contains(t, e.Why, "Half of your mail comes before", e.Name)
		break
	}
	for _, e := range examples {
		_, err := w.app.PutPlan(w.ctx, w.who, rand.Text(), 0, &show.PlanDraft{Plan: &e.Plan})
		assert.NoError(t, err, e.Name)
		r := e.Replay
		in := r.AtOnce + r.Through
		for _, d := range r.Deliveries {
			in += d.Letters
		}
		assert.Equal(t, r.Letters, in, "%s: each letter comes once", e.Name)
		assert.Positive(t, r.Letters)
	}
	v := w.delivery()
	assert.Len(t, v.Next, 5)
	everything, err := w.app.PreviewThrough(w.ctx, w.who, app.ThroughFields{Kind: delivery.ByDomain, Value: "x.example"})
	require.NoError(t, err)
	assert.Equal(t, everything.Of, everything.Matched)
	assert.Contains(t, everything.Warning, "nearly everything")
}

// A hold that ends in time that is closed by the plan says that letters wait on.
func TestAHoldSaysWhatHoldsLonger(t *testing.T) {
	w := newWorld(t)
	w.plan("daily closed 10-12")
	out, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "11:00"})
	require.NoError(t, err)
	assert.Equal(t, "Delivery held until today 11:00; then by a closed block of your plan until today 12:00", out.Title)
	out, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "14:00"})
	require.NoError(t, err)
	assert.Equal(t, "Delivery held until today 14:00", out.Title)
}
