package app_test

import (
	"crypto/rand"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/show"
)

// report is a multipart/report of a kind on one of Ines's letters.
func report(id, kind, fields, of string) mail {
	return mail{
		id: id, from: "Post office <postmaster@post.example>", subject: "About your letter",
		extra: "Auto-Submitted: auto-replied\r\nReturn-Path: <>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/report; report-type=" + kind + "; boundary=r\r\n",
		text: fmt.Sprintf("--r\r\nContent-Type: text/plain\r\n\r\nAbout your letter.\r\n--r\r\nContent-Type: message/%s\r\n\r\n%s\r\n--r\r\nContent-Type: text/rfc822-headers\r\n\r\nMessage-ID: <%s>\r\n--r--",
			kind, fields, of),
	}
}

func dsn(id, action, of string) mail {
	return report(id, "delivery-status", "Reporting-MTA: dns; post.example\r\n\r\nFinal-Recipient: rfc822; bram@freight.example\r\nAction: "+action+"\r\nDiagnostic-Code: smtp; 550 nobody of that name\r\n", of)
}

// answered receives a letter, answers it and gives the Message-ID that went out.
func (w *world) answered(change func(*app.Sending)) (conversation int64, messageID string) {
	w.t.Helper()
	w.receive(bramAsks)
	row := w.row(decide.Inbox)
	w.send(&row, change)
	w.pass(10 * time.Second)
	require.Len(w.t, w.post.sent, 1)
	return row.ID, letter.Parse(w.post.sent[0]).MessageID
}

func TestAFailedDeliveryPassesAHoldAndIsSentAgain(t *testing.T) {
	w := newWorld(t)
	id, of := w.answered(nil)
	_, err := w.app.Hold(w.ctx, w.who, rand.Text(), app.Holding{})
	require.NoError(t, err)
	w.receive(dsn("dsn@post.example", "failed", of))
	row := w.row(decide.Inbox)
	assert.Equal(t, id, row.ID, "it stands with the letter that failed")
	assert.True(t, row.Failed)
	assert.Contains(t, row.Back, "could not be delivered to bram@freight.example: 550 nobody of that name")

	c, err := w.app.Open(w.ctx, w.who, id)
	require.NoError(t, err)
	notice := c.LetterList[len(c.LetterList)-1]
	again, err := w.app.Again(w.ctx, w.who, notice.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"bram@freight.example"}, again.To)
	assert.Contains(t, again.Text, "As asked.")
	w.send(nil, func(s *app.Sending) { s.Writing, s.Conversation, s.Saw = again, id, row.Last })
	w.pass(10 * time.Second)
	require.Len(t, w.post.sent, 2)
	assert.Empty(t, w.rows(decide.Inbox), "sent again, it leaves")
	second := letter.Parse(w.post.sent[1])
	assert.NotEqual(t, of, second.MessageID, "a new letter")
	assert.Equal(t, letter.Parse(w.post.sent[0]).InReplyTo, second.InReplyTo, "in the same conversation")
}

// What only tells how a delivery goes on does not disturb.
func TestReportsThatFailNothingAreQuiet(t *testing.T) {
	for action, said := range map[string]letter.ReportKind{"delayed": letter.Delayed, "delivered": letter.Delivered} {
		w := newWorld(t)
		id, of := w.answered(nil)
		w.receive(dsn("dsn@post.example", action, of))
		assert.Empty(t, w.rows(decide.Inbox), action)
		c, err := w.app.Open(w.ctx, w.who, id)
		require.NoError(t, err)
		require.Len(t, c.LetterList, 3, "it is there to be read")
		assert.Equal(t, said, c.LetterList[2].Report.Kind)
	}
	w := newWorld(t)
	w.receive(dsn("dsn@post.example", "failed", "not-mine@elsewhere.example"))
	assert.False(t, w.row(decide.Shallows).Failed, "a report on nobody's letter is a notice like others")
}

func TestAnOutOfOfficeNoteOffersItsDay(t *testing.T) {
	w := newWorld(t)
	_, of := w.answered(func(s *app.Sending) { s.Wait = "2d" })
	w.receive(mail{id: "ooo@f.example", from: "bram@freight.example", subject: "Away: Re: Crates", answers: of, extra: "Auto-Submitted: auto-replied\r\n", text: "I am away until 7 December and will answer then."})
	list, err := w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(t, err)
	require.Len(t, list, 1, "it is no answer")
	require.NotNil(t, list[0].AwayUntil)
	assert.Contains(t, list[0].AwayUntil.Words, "7 Dec")
	_, err = w.app.EditWaiting(w.ctx, w.who, rand.Text(), list[0].ID, nil, &list[0].AwayUntil.Phrase, false)
	require.NoError(t, err)
	list, err = w.app.WaitingList(w.ctx, w.who, false)
	require.NoError(t, err)
	assert.Contains(t, list[0].Until, "7 Dec")
}

var asksReceipt = mail{id: "read@office.example", from: "Office <office@n.example>", subject: "Minutes", extra: "Disposition-Notification-To: Office <office@n.example>, desk@n.example\r\n"}

func TestAReceiptIsOnlySentWhenThePersonAgrees(t *testing.T) {
	w := newWorld(t)
	w.receive(asksReceipt)
	row := w.row(decide.Inbox)
	c, err := w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	id := c.LetterList[0].ID
	assert.Equal(t, []string{"Office <office@n.example>", "desk@n.example"}, c.LetterList[0].Body.ReadReceiptTo, "it says where it would go, when that is not only the sender")
	w.decide(decide.Done, row)
	w.pass(24 * time.Hour)
	assert.Empty(t, w.post.sent, "reading and deciding sends nothing")

	receipt := func(send bool) error {
		_, err := w.app.ReadReceipt(w.ctx, w.who, rand.Text(), id, send)
		return err
	}
	require.NoError(t, receipt(false))
	require.ErrorContains(t, receipt(true), "has had its answer")
	w.undo()
	require.NoError(t, receipt(true))
	w.undo()
	w.pass(time.Minute)
	assert.Empty(t, w.post.sent, "taken back before it left")

	require.NoError(t, receipt(true))
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1)
	assert.Empty(t, w.post.from[0], "nothing ever answers it")
	assert.Equal(t, []string{"office@n.example", "desk@n.example"}, w.post.to[0])
	sent := letter.Parse(w.post.sent[0])
	assert.Equal(t, &letter.Reported{Kind: letter.WasRead, Original: asksReceipt.id, Recipient: "ines@norrholm.example"}, sent.Report)
	c, err = w.app.Open(w.ctx, w.who, row.ID)
	require.NoError(t, err)
	assert.Len(t, c.LetterList, 1, "a receipt is no part of the conversation")
	assert.Equal(t, app.ReadReceiptSent, c.LetterList[0].ReadReceipt)
	assert.Empty(t, w.rows(decide.Inbox))
}

func TestAReceiptThatIsAskedForIsTold(t *testing.T) {
	w := newWorld(t)
	id, of := w.answered(func(s *app.Sending) { s.ReadReceipt = true })
	assert.Contains(t, string(w.post.sent[0]), "Disposition-Notification-To: ")
	w.receive(report("mdn@f.example", "disposition-notification", "Final-Recipient: rfc822;bram@freight.example\r\nOriginal-Message-ID: <"+of+">\r\nDisposition: manual-action/MDN-sent-manually; displayed\r\n", of))
	assert.Empty(t, w.rows(decide.Inbox), "that it was read is no answer")
	c, err := w.app.Open(w.ctx, w.who, id)
	require.NoError(t, err)
	assert.Equal(t, letter.WasRead, c.LetterList[len(c.LetterList)-1].Report.Kind)
}

func TestPicturesAreChosenForASender(t *testing.T) {
	w := newWorld(t)
	w.receive(mail{id: "n@g.example", from: "News <news@g.example>", subject: "Issue 1", extra: "Content-Type: text/html\r\n", text: `<p>Hi</p><img src="https://g.example/a.png">`})
	id := w.row(decide.Inbox).ID
	body := func() *show.Body {
		c, err := w.app.Open(w.ctx, w.who, id)
		require.NoError(t, err)
		return c.LetterList[0].Body
	}
	assert.False(t, body().Pictures)
	assert.Equal(t, 1, body().Blocked)
	for _, email := range []string{"news@g.example", strings.ToUpper("news@g.example")} {
		_, err := w.app.PicturesOf(w.ctx, w.who, rand.Text(), email, true)
		require.NoError(t, err)
	}
	assert.True(t, body().Pictures)
	w.undo()
	assert.False(t, body().Pictures, "saying it twice was one step")
}

// What becomes of a letter is asked for, and stands on it once it was told.
func TestHowFarALetterHasCome(t *testing.T) {
	w := newWorld(t)
	conversation, id := w.answered(func(s *app.Sending) { s.Notify = true })
	assert.True(t, w.post.notify)
	own := func() show.Letter {
		letters := w.open(conversation).LetterList
		return letters[slices.IndexFunc(letters, func(l show.Letter) bool { return l.Own })]
	}
	assert.Empty(t, own().Progress, "nothing was told")
	for _, action := range []string{"relayed", "delivered", "delayed"} {
		w.receive(dsn(action+"@post.example", action, id))
		assert.Empty(t, w.rows(decide.Inbox), "it brings nothing back")
	}
	require.Len(t, own().Progress, 1)
	assert.Equal(t, sending.StepDelivered, own().Progress[0].Step)
	w.receive(dsn("late@post.example", "failed", id))
	assert.Equal(t, sending.StepFailed, own().Progress[0].Step)
	assert.NotEmpty(t, w.rows(decide.Inbox), "that does")
}
