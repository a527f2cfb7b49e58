package app_test

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// act is something that a person does; it gives the entry of the Journal.
type act struct {
	name string
	do   func(*history) (int64, error)
}

// pick draws one of a list.
func pick[T any](h *history, what string, of ...T) T { return rapid.SampledFrom(of).Draw(h.t, what) }

// some draws one of what there may be none of.
func some[T any](h *history, what string, of []T) (v T, ok bool) {
	if len(of) == 0 {
		return v, false
	}
	return pick(h, what, of...), true
}

// on is a conversation drawn from any place.
func (h *history) on() []store.Seen {
	r, ok := h.any()
	if !ok {
		return nil
	}
	return []store.Seen{seen(r)}
}

// phrases are times of every kind that what is put off or due may have.
var phrases = []string{"tomorrow", "in 2 hours", "fri 14:00", "mon", "someday", "3w"}

func decided(d app.Decided, err error) (int64, error) { return d.Entry, err }

func edited(e app.Edited, err error) (int64, error) { return e.Entry, err }

// nothing is what comes of an act for which there is nothing to act on.
func nothing() (int64, error) { return 0, nil }

// onFollowUp is an act on a follow-up that is drawn.
func onFollowUp(do func(h *history, f show.FollowUp) (int64, error)) func(*history) (int64, error) {
	return func(h *history) (int64, error) {
		list, err := h.app.FollowUps(h.ctx, h.who, false)
		require.NoError(h.t, err)
		if f, ok := some(h, "follow-up", list); ok {
			return do(h, f)
		}
		return nothing()
	}
}

// changed are the fields of which a follow-up has one changed.
func changed(h *history) (f app.FollowUpFields) {
	name := pick(h, "name", "orangery", "Bram", "")
	switch pick(h, "field", "title", "due", "start", "priority", "status", "project", "context", "assignee", "estimate", "recurs", "checklist", "remind") {
	case "title":
		f.Title = new("Measure the crates")
	case "due":
		f.Due = new(pick(h, "due", append(phrases, "", "mon to wed")...))
	case "start":
		f.Start = new(pick(h, "start", "tomorrow", ""))
	case "priority":
		f.Priority = new(pick(h, "priority", followup.Urgent, followup.Low))
	case "status":
		f.Status = new(pick(h, "status", followup.Under, followup.Done, followup.Dropped, followup.Open))
	case "project":
		f.Project = &name
	case "context":
		f.Context = &name
	case "assignee":
		f.Assignee = &name
	case "estimate":
		f.Estimate = new(45)
	case "recurs":
		f.Recurs = new(pick(h, "recurs", "every mon", "3 days after done", ""))
	case "checklist":
		f.Checklist = &[]followup.Item{{Text: "Measure", Done: true}}
	case "remind":
		f.Remind = &[]string{pick(h, "remind", "1 day before at 10", "tomorrow 9:00")}
	}
	return f
}

// acts are all that a person does, but for what has left the house: a letter
// sent, an answer to an invitation.
var acts = []act{
	{"decide", func(h *history) (int64, error) {
		on := h.on()
		if on == nil {
			return nothing()
		}
		d := app.Deciding{Command: rand.Text(), On: on, Sure: true, Kind: pick(h, "kind", decide.Done, decide.PutOff, decide.FollowUp, decide.File, decide.ToBin, decide.ToJunk, decide.ToInbox)}
		switch d.Kind {
		case decide.PutOff:
			d.When = pick(h, "when", append(phrases, "when they answer", "2d if nobody has answered")...)
		case decide.FollowUp:
			d.FollowUp = &app.FollowUpFields{Due: new(pick(h, "due", phrases...))}
		case decide.File:
			d.Labels = []string{pick(h, "label", "freight", "2026")}
		}
		return decided(h.app.Decide(h.ctx, h.who, d))
	}},
	{"mark", func(h *history) (int64, error) {
		r, ok := h.any()
		if !ok {
			return nothing()
		}
		m := app.Marking{Command: rand.Text(), On: []int64{r.ID}, Mark: pick(h, "mark", "star", "label", "quiet"), Value: "freight", Off: rapid.Bool().Draw(h.t, "off")}
		return decided(h.app.Mark(h.ctx, h.who, m))
	}},
	{"flag", func(h *history) (int64, error) {
		on := h.on()
		if on == nil {
			return nothing()
		}
		return decided(h.app.Flag(h.ctx, h.who, rand.Text(), on, pick(h, "flag", "", "", "fri", "mon to wed")))
	}},
	{"split", func(h *history) (int64, error) {
		r, ok := h.any()
		if !ok {
			return nothing()
		}
		c, err := h.app.Open(h.ctx, h.who, r.ID)
		require.NoError(h.t, err)
		return decided(h.app.Split(h.ctx, h.who, rand.Text(), pick(h, "letter", c.LetterList...).ID))
	}},
	{"capture", func(h *history) (int64, error) {
		return decided(h.app.Capture(h.ctx, h.who, rand.Text(), pick(h, "line", "Order crates fri high", "Ask Bram mon 10:00 every month", "Think")))
	}},
	{"track", func(h *history) (int64, error) {
		on := h.on()
		if on == nil {
			return nothing()
		}
		return decided(h.app.NewFollowUp(h.ctx, h.who, rand.Text(), app.FollowUpFields{Due: new(pick(h, "due", phrases...)), Remind: &[]string{"1 hour before"}}, on...))
	}},
	{"edit", onFollowUp(func(h *history, f show.FollowUp) (int64, error) {
		return edited(h.app.EditFollowUp(h.ctx, h.who, rand.Text(), f.ID, changed(h), f.Version))
	})},
	{"skip", onFollowUp(func(h *history, f show.FollowUp) (int64, error) {
		return decided(h.app.SkipFollowUp(h.ctx, h.who, rand.Text(), f.ID))
	})},
	{"wait", onFollowUp(func(h *history, f show.FollowUp) (int64, error) {
		return decided(h.app.WaitFollowUp(h.ctx, h.who, rand.Text(), f.ID, pick(h, "until", "fri", "2w")))
	})},
	{"rename", onFollowUp(func(h *history, f show.FollowUp) (int64, error) {
		return decided(h.app.RenameIn(h.ctx, h.who, rand.Text(), "project", f.Project, pick(h, "now", "winter", "")))
	})},
	{"ahead", func(h *history) (int64, error) {
		v, err := h.app.Ahead(h.ctx, h.who)
		require.NoError(h.t, err)
		e, ok := some(h, "entry", v.Entries)
		if !ok {
			return nothing()
		}
		in := app.EditingAhead{Command: rand.Text(), Sure: true, Action: pick(h, "action", "move", "cancel", "fetch"), When: pick(h, "when", phrases...), On: []app.EntryRef{{Kind: e.Kind, ID: e.ID}}}
		return decided(h.app.EditAhead(h.ctx, h.who, in))
	}},
	{"waiting", func(h *history) (int64, error) {
		list, err := h.app.WaitingList(h.ctx, h.who, false)
		require.NoError(h.t, err)
		w, ok := some(h, "waiting", list)
		if !ok {
			return nothing()
		}
		if rapid.Bool().Draw(h.t, "limit") {
			return decided(h.app.EditWaiting(h.ctx, h.who, rand.Text(), w.ID, nil, new(pick(h, "until", "fri", "")), true))
		}
		return decided(h.app.EditWaiting(h.ctx, h.who, rand.Text(), w.ID, new(pick(h, "state", waiting.Met, waiting.Dropped)), nil, true))
	}},
	{"appointment", func(h *history) (int64, error) {
		f := app.AppointmentFields{Title: new("Rounds"), When: new(pick(h, "when", "fri 10:00", "mon 14:00")), Minutes: new(30), Recurs: new(pick(h, "recurs", "", "every week"))}
		return decided(h.app.NewAppointment(h.ctx, h.who, rand.Text(), f, 0))
	}},
	{"call off", func(h *history) (int64, error) {
		v, err := h.app.Ahead(h.ctx, h.who)
		require.NoError(h.t, err)
		v.Entries = slices.DeleteFunc(v.Entries, func(e show.Entry) bool { return e.Kind != "appointment" })
		e, ok := some(h, "appointment", v.Entries)
		if !ok {
			return nothing()
		}
		if rapid.Bool().Draw(h.t, "move") {
			return decided(h.app.EditAppointment(h.ctx, h.who, rand.Text(), e.ID, app.AppointmentFields{When: new("thu 11:00"), Place: new("The yard")}))
		}
		return decided(h.app.CancelAppointment(h.ctx, h.who, rand.Text(), e.ID, rapid.Bool().Draw(h.t, "all")))
	}},
	{"spot", func(h *history) (int64, error) {
		v, err := h.app.Spots(h.ctx, h.who)
		require.NoError(h.t, err)
		s, ok := some(h, "spot", v.Spots)
		switch pick(h, "do", "new", "be", "name", "remove") {
		case "be":
			return decided(h.app.BeAt(h.ctx, h.who, rand.Text(), s.ID))
		case "name":
			return decided(h.app.EditSpot(h.ctx, h.who, rand.Text(), s.ID, new("the barn"), false))
		case "remove":
			if ok {
				return decided(h.app.EditSpot(h.ctx, h.who, rand.Text(), s.ID, nil, true))
			}
		}
		return decided(h.app.NewSpot(h.ctx, h.who, rand.Text(), pick(h, "spot", "the orangery", "town office")))
	}},
	{"stage", func(h *history) (int64, error) {
		board, err := h.app.Board(h.ctx, h.who, show.Arranged{By: "stage"})
		require.NoError(h.t, err)
		s, ok := some(h, "stage", board.Stages)
		if !ok || rapid.Bool().Draw(h.t, "new") {
			return decided(h.app.NewStage(h.ctx, h.who, rand.Text(), app.StageFields{Name: new(pick(h, "name", "Ordered", "Built")), Colour: &store.Colours[1], Shape: &store.Shapes[1]}))
		}
		return decided(h.app.EditStage(h.ctx, h.who, rand.Text(), s.ID, app.StageFields{Position: new(pick(h, "position", 0, 1)), Most: new(3), Remove: rapid.Bool().Draw(h.t, "remove")}))
	}},
	{"filter", func(h *history) (int64, error) {
		board, err := h.app.Board(h.ctx, h.who, show.Arranged{By: "due"})
		require.NoError(h.t, err)
		if k, ok := some(h, "filter", board.Filters); ok && rapid.Bool().Draw(h.t, "drop") {
			return decided(h.app.DropFilter(h.ctx, h.who, rand.Text(), k.ID))
		}
		return decided(h.app.KeepFilter(h.ctx, h.who, rand.Text(), "Mine", "due", followup.Filter{Mine: true, Most: pick(h, "most", 0, 30)}))
	}},
	{"through", func(h *history) (int64, error) {
		v, err := h.app.Delivery(h.ctx, h.who, 0)
		require.NoError(h.t, err)
		if e, ok := some(h, "entry", v.Through); ok && rapid.Bool().Draw(h.t, "end") {
			return decided(h.app.EndThrough(h.ctx, h.who, rand.Text(), e.ID))
		}
		in := app.ThroughFields{Kind: delivery.BySender, Value: pick(h, "sender", "p@x.example", "q@x.example"), Until: pick(h, "until", "", "fri")}
		return decided(h.app.AddThrough(h.ctx, h.who, rand.Text(), in))
	}},
	{"hold", func(h *history) (int64, error) {
		return decided(h.app.Hold(h.ctx, h.who, rand.Text(), app.Holding{Until: pick(h, "until", "", "in 2 hours"), Everything: rapid.Bool().Draw(h.t, "all")}))
	}},
	{"settings", func(h *history) (int64, error) {
		var f app.SettingsFields
		switch pick(h, "setting", "zone", "day", "workdays", "week", "delay") {
		case "zone":
			f.Zone = new(pick(h, "zone", "America/New_York", "Asia/Kathmandu", "Europe/Oslo"))
		case "day":
			f.DayStart, f.Evening = new("07:15"), new("19:00")
		case "workdays":
			f.Workdays = &[]int{1, 2, 3}
		case "week":
			f.WeekStart, f.MonthFirst = new(0), new(true)
		case "delay":
			f.SendDelay, f.Share = new(60), new(50)
		}
		return decided(h.app.EditSettings(h.ctx, h.who, rand.Text(), f))
	}},
	{"weights", func(h *history) (int64, error) {
		return decided(h.app.SetWeights(h.ctx, h.who, rand.Text(), &followup.Weights{Due: float64(pick(h, "due", 1, 9))}))
	}},
	{"note", func(h *history) (int64, error) {
		return decided(h.app.SetHoldingNote(h.ctx, h.who, rand.Text(), delivery.Note{Text: "Later.", Causes: []delivery.Cause{delivery.Held}, Days: pick(h, "days", 1, 7)}))
	}},
	{"notifications", func(h *history) (int64, error) {
		return decided(h.app.SetNotifications(h.ctx, h.who, rand.Text(), show.Notifications{Count: rapid.Bool().Draw(h.t, "count")}))
	}},
	{"account", func(h *history) (int64, error) {
		list, err := h.app.Accounts(h.ctx, h.who)
		require.NoError(h.t, err)
		f := app.AccountFields{Label: new(pick(h, "label", "House", "Walks")), Position: new(pick(h, "position", 0, 1)), Signature: new("Ines")}
		return decided(h.app.EditAccount(h.ctx, h.who, rand.Text(), pick(h, "account", list...).ID, f))
	}},
	{"pictures", func(h *history) (int64, error) {
		return decided(h.app.PicturesOf(h.ctx, h.who, rand.Text(), "p@x.example", rapid.Bool().Draw(h.t, "load")))
	}},
	{"intake", func(h *history) (int64, error) { return decided(h.app.RenewIntake(h.ctx, h.who, rand.Text())) }},
	{"feed", func(h *history) (int64, error) {
		return decided(h.app.RenewFeed(h.ctx, h.who, rand.Text(), rapid.Bool().Draw(h.t, "remove")))
	}},
}

// What an undo leaves otherwise: versions, for a page that saw the time between is to
// be told; and the group in the queue of what is not in the inbox, where it says
// nothing.
var otherwise = regexp.MustCompile(`"(version|personalVersion)":\d+,?|"group":\{"key":"[a-z]*","label":"[^"]*"\},?`)

// picture is all that pages show, by what they ask.
func (h *history) picture() map[string]string {
	out := map[string]string{}
	take := func(name string, v any, err error) {
		require.NoError(h.t, err, name)
		text, err := json.Marshal(v)
		require.NoError(h.t, err)
		out[name] = otherwise.ReplaceAllString(string(text), "")
	}
	for _, p := range []decide.Place{decide.Inbox, decide.Later, decide.Archive, decide.Bin, decide.Junk} {
		v, err := h.app.List(h.ctx, h.who, p, false, 0, "")
		take("list "+string(p), v, err)
		for _, r := range v.Rows {
			c, err := h.app.Open(h.ctx, h.who, r.ID)
			take(fmt.Sprint("conversation ", r.ID), c, err)
		}
	}
	for _, settled := range []bool{false, true} {
		f, err := h.app.FollowUps(h.ctx, h.who, settled)
		take(fmt.Sprint("follow-ups ", settled), f, err)
		w, err := h.app.WaitingList(h.ctx, h.who, settled)
		take(fmt.Sprint("waiting ", settled), w, err)
	}
	board, err := h.app.Board(h.ctx, h.who, show.Arranged{By: "stage"})
	take("board", board, err)
	ahead, err := h.app.Ahead(h.ctx, h.who)
	take("ahead", ahead, err)
	settings, err := h.app.Settings(h.ctx, h.who)
	take("settings", settings, err)
	accounts, err := h.app.Accounts(h.ctx, h.who)
	take("accounts", accounts, err)
	spots, err := h.app.Spots(h.ctx, h.who)
	take("spots", spots, err)
	gate, err := h.app.Delivery(h.ctx, h.who, 0)
	take("delivery", gate, err)
	overview, err := h.app.Overview(h.ctx, h.who)
	take("overview", overview, err)
	labels, err := h.app.Labels(h.ctx, h.who)
	take("labels", labels, err)
	intake, err := h.app.Intake(h.ctx, h.who)
	take("intake", intake, err)
	feed, err := h.app.FeedAddress(h.ctx, h.who)
	take("feed", feed, err)
	return out
}

// same tells where two pictures differ.
func (h *history) same(want, got map[string]string, done []string, what string) {
	for name, text := range want {
		if got[name] != text {
			h.t.Fatalf("%s, after %s, “%s” is\n%s\nand was\n%s", what, strings.Join(done, ", "), name, got[name], text)
		}
	}
	for name := range got {
		if _, ok := want[name]; !ok {
			h.t.Fatalf("%s, after %s, there is “%s”", what, strings.Join(done, ", "), name)
		}
	}
}

// Whatever a person does in a sitting, in whatever order: taken back step by
// step, all that pages show is as it was; and done again, as it was after.
func TestAllThatIsDoneCanBeTakenBack(t *testing.T) {
	w := newWorld(t)
	require.NoError(t, w.app.Store.Relax(w.ctx))
	rapid.Check(t, func(rt *rapid.T) {
		h := newHistory(w, rt)
		for range rapid.IntRange(1, 4).Draw(rt, "letters") {
			m := h.mail()
			h.accepted(h.app.Receive(h.ctx, app.Incoming{Inbox: h.who.Inbox, To: h.own[0], Source: "smtp", Raw: m.bytes(h.clock.Now()), At: h.clock.Now()}))
		}
		_, err := h.app.Decide(h.ctx, h.who, app.Deciding{Command: rand.Text(), Kind: decide.PutOff, When: "when they answer", On: h.on()})
		h.accepted(err)

		was := h.picture()
		var done []string
		var entries []int64
		for range rapid.IntRange(1, 8).Draw(rt, "acts") {
			a := rapid.SampledFrom(acts).Draw(rt, "act")
			entry, err := a.do(h)
			h.accepted(err)
			if err == nil && entry != 0 {
				done, entries = append(done, a.name), append(entries, entry)
			}
		}
		after := h.picture()
		for _, entry := range slices.Backward(entries) {
			out, err := h.app.Undo(h.ctx, h.who, rand.Text(), entry, true)
			h.accepted(err) // what has changed nothing can't be undone
			require.Empty(rt, out.Left, done)
		}
		h.same(was, h.picture(), done, "taken back")
		for range entries {
			if _, err := h.app.Redo(h.ctx, h.who, rand.Text()); err != nil {
				h.accepted(err) // what can only be done anew is said to be so
				return
			}
		}
		h.same(after, h.picture(), done, "done again")
	})
}
