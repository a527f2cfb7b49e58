package app_test

import (
	"crypto/rand"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/exchange"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
)

func TestFollowUpsGoOutAndComeInAgain(t *testing.T) {
	w := newWorld(t)
	w.receive(bramAsks)
	stage := "Drafting"
	_, err := w.app.NewStage(w.ctx, w.who, rand.Text(), app.StageFields{Name: &stage})
	require.NoError(t, err)
	w.decide(decide.FollowUp, w.row(decide.Inbox), func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{Due: ref("fri 14:00")} })
	w.capture("Water, every fri, for House 2, stage drafting, remind 1 day before at 10, 20 min, high")
	done := followup.Done
	w.track(app.FollowUpFields{Status: &done}, w.capture("Over, low"))
	for _, f := range []exchange.Format{exchange.ICalendar, exchange.CSV} {
		text, err := w.app.ExportTasks(w.ctx, w.who, f)
		require.NoError(t, err)
		p, err := w.app.PreviewTasks(w.ctx, w.who, text)
		require.NoError(t, err)
		assert.Equal(t, []int{0, 3}, []int{p.Count, p.Known}, "all of it is here")
		_, err = w.app.ImportTasks(w.ctx, w.who, rand.Text(), text)
		require.ErrorContains(t, err, "nothing new")

		v := newWorld(t) // somebody else's Ebbe, with the same letter
		v.receive(bramAsks)
		p, err = v.app.PreviewTasks(v.ctx, v.who, text)
		require.NoError(t, err)
		require.Equal(t, 3, p.Count)
		assert.Empty(t, p.Troubles)
		command := rand.Text()
		for range 2 { // sent twice, done once
			_, err = v.app.ImportTasks(v.ctx, v.who, command, text)
			require.NoError(t, err)
		}
		assert.Equal(t, 2, v.overview().FollowUp)
		again, err := v.app.ExportTasks(v.ctx, v.who, f)
		require.NoError(t, err)
		assert.Equal(t, stable(text), stable(again), f)
		assert.Len(t, v.row(decide.Inbox).FollowUps, 1, "linked to its letter")
		v.undo()
		assert.Zero(t, v.overview().FollowUp, "undone as one")
	}
	p, err := w.app.PreviewTasks(w.ctx, w.who, "(A) Call +Home due:2026-11-27\ndue:soonish Fail")
	require.NoError(t, err)
	assert.Equal(t, exchange.TodoTxt, p.Format)
	assert.Equal(t, []show.PreviewedTask{{Title: "Call", Due: "Fri 27 Nov", Priority: followup.Urgent, Status: followup.Open, Project: "Home"}}, p.New)
	require.Len(t, p.Troubles, 1)
	assert.Equal(t, 2, p.Troubles[0].Line)
}

// stable leaves out the order of lines, which follows the due.
func stable(text string) map[string]int {
	out := map[string]int{}
	for line := range strings.Lines(text) {
		out[line]++
	}
	return out
}

func TestTheIntakeAddressMakesFollowUps(t *testing.T) {
	w := newWorld(t)
	v, err := w.app.Intake(w.ctx, w.who)
	require.NoError(t, err)
	require.Empty(t, v.Address)
	renew := func() string {
		_, err := w.app.RenewIntake(w.ctx, w.who, rand.Text())
		require.NoError(t, err)
		v, err := w.app.Intake(w.ctx, w.who)
		require.NoError(t, err)
		return v.Address
	}
	address := renew()
	_, host, _ := strings.Cut(address, "@")
	assert.Greater(t, len(strings.Split(host, ".")[0]), 20, "nobody can guess it")
	box, err := w.app.Store.MailboxOf(w.ctx, address)
	require.NoError(t, err)
	require.Equal(t, []int64{w.who.Inbox}, box.Owners)

	inner := "From: Bram <bram@freight.example>\r\nTo: ines@halvorsen.example\r\nDate: Tue, 24 Nov 2026 07:00:00 +0000\r\nMessage-ID: <in@freight.example>\r\nSubject: Crates\r\n\r\nCan you confirm the sizes?\r\n"
	attached := mail{id: "f1@x.example", from: "Ines <ines@halvorsen.example>", to: address, subject: "Fwd: Crates",
		extra: "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n", text: "--b\r\nContent-Type: text/plain\r\n\r\nfor me\r\n--b\r\nContent-Type: message/rfc822\r\n\r\n" + inner + "--b--\r\n"}
	w.receive(attached)
	w.receive(attached)
	list := w.board(followup.ByDue, followup.Filter{}).Cards
	require.Len(t, list, 1, "once")
	assert.Equal(t, "Confirm the sizes", list[0].Title)
	assert.Equal(t, "Bram", list[0].Letters[0].Sender)
	assert.Equal(t, "Crates", w.row(decide.Archive).Title, "the forwarded letter is kept with it")

	_, err = w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{Until: "tomorrow"})
	require.NoError(t, err)
	w.receive(mail{id: "f2@x.example", from: "Ines <ines@halvorsen.example>", to: address, subject: "Fwd: Moss",
		text: "---------- Forwarded message ----------\r\nFrom: Lise Bo <lise@x.example>\r\nSubject: Moss\r\n\r\nPlease send the moss list.\r\n"})
	list = w.board(followup.ByPerson, followup.Filter{Person: []string{"Lise Bo"}}).Cards
	require.Len(t, list, 1, "its sender is found in the text, and it passes a hold")
	assert.Equal(t, "Send the moss list", list[0].Title)

	w.receive(mail{id: "f3@x.example", from: "ines@halvorsen.example", to: "fri-1400@" + host, subject: "Tickets"})
	assert.Equal(t, "Fri 27 Nov, 14:00", w.row(decide.Later).Return)
	w.receive(mail{id: "f4@x.example", from: "ines@halvorsen.example", to: "soonish@" + host, subject: "Odd"})
	assert.Equal(t, "Odd", w.row(decide.Inbox).Title, "what is no time is seen")
	w.pass(3*24*time.Hour + 6*time.Hour)
	assert.Len(t, w.rows(decide.Inbox), 2, "and the other is sent back on time")

	renew()
	box, err = w.app.Store.MailboxOf(w.ctx, address)
	require.NoError(t, err)
	assert.Empty(t, box.Owners, "the old one is no longer taken")
}

func TestWhatIsDroppedBecomesAFollowUp(t *testing.T) {
	w := newWorld(t)
	drop := func(name, data string) (app.Decided, error) {
		return w.app.DropFollowUp(w.ctx, w.who, rand.Text(), app.Dropped{Name: name, Data: []byte(data)})
	}
	out, err := drop("crates.eml", string(bramAsks.bytes(start)))
	require.NoError(t, err)
	assert.Equal(t, "Confirm the four crate sizes", w.followed(out.FollowUp).Title)
	assert.Empty(t, w.rows(decide.Inbox))
	out, err = drop("plan.pdf", "%PDF-1.4 …")
	require.NoError(t, err)
	f := w.followed(out.FollowUp)
	assert.Equal(t, "See to: plan.pdf", f.Title)
	c, err := w.app.Open(w.ctx, w.who, f.Letters[0].Conversation)
	require.NoError(t, err)
	assert.Equal(t, "plan.pdf", c.LetterList[0].Parts[0].Name, "the file is kept with it")
	_, err = drop("empty", "")
	require.ErrorContains(t, err, "Nothing was made")
	w.undo()
	assert.Equal(t, 1, w.overview().FollowUp)
}
