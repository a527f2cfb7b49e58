package show_test

import (
	"context"
	"database/sql"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// takes is a mail service that takes whatever it is given.
type takes struct{}

func (takes) Send(_ context.Context, e post.Envelope, _ []byte) (out []post.Outcome, err error) {
	for _, to := range e.To {
		out = append(out, post.Outcome{Recipient: to, Accepted: true})
	}
	return out, nil
}

// brings lets a letter come, and gives it as it is read.
func (d *desk) brings(raw string) show.Letter {
	d.Helper()
	d.clock.Advance(time.Second)
	require.NoError(d, d.Receive(d.Context(), app.Incoming{Inbox: d.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: d.clock.Now()}))
	last := int64(0)
	for _, place := range []decide.Place{decide.Inbox, decide.Shallows} {
		page, err := d.List(d.Context(), d.who, place, false, 0, "")
		require.NoError(d, err)
		for _, r := range page.Rows {
			last = max(last, r.Last)
		}
	}
	l, err := d.ReadLetter(d.Context(), d.who, last)
	require.NoError(d, err)
	return l
}

// conversationOf is that of a letter.
func (d *desk) conversationOf(id int64) (conversation int64) {
	d.Helper()
	require.NoError(d, d.Store.Read(d.Context(), d.who, func(tx *store.Tx) error {
		l, err := tx.Letter(id)
		conversation = l.Conversation
		return err
	}))
	return conversation
}

// A bill says what it wants and by when, also where it is a table of HTML, and a follow-up of
// it is to pay that.
func TestABillIsRead(t *testing.T) {
	d := begin(t)
	const head = "From: Orangery Glass <office@glass.example>\r\nTo: ines@norrholm.example\r\nAuto-Submitted: auto-generated\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n"
	plain := d.brings(head + "Message-ID: <1@glass.example>\r\nSubject: Invoice 1187\r\n\r\nGlazing of the orangery\r\nTotal 1,420.00 EUR\r\nDue Thu 3 Dec 2026\r\n")
	require.NotNil(t, plain.Body.Bill)
	bill := plain.Body.Bill
	assert.Equal(t, []any{"1,420.00 EUR", []string{"invoice 1187"}, findings.Ahead, "Thu 3 Dec"}, []any{bill.Amount, bill.Numbers, bill.Payment, bill.Due})
	page := d.brings(head + "Message-ID: <2@glass.example>\r\nSubject: Invoice 1188\r\nContent-Type: text/html\r\n\r\n<table><tr><td>Total</td><td>96.00 EUR</td></tr><tr><td>Due</td><td>10 December</td></tr></table>\r\n")
	require.NotNil(t, page.Body.Bill)
	assert.Equal(t, []string{"96.00 EUR", "Thu 10 Dec"}, []string{page.Body.Bill.Amount, page.Body.Bill.Due})

	opened, err := d.Open(t.Context(), d.who, d.conversationOf(page.ID))
	require.NoError(t, err)
	assert.Equal(t, "Pay 96.00 EUR, invoice 1188", opened.Action, "what the deck would follow up")
	assert.Contains(t, opened.Due, "10 Dec")
	proposed, err := d.ProposeFollowUp(t.Context(), d.who, opened.ID)
	require.NoError(t, err)
	require.NotEmpty(t, proposed.Asks)
	assert.Equal(t, "Pay 96.00 EUR, invoice 1188", proposed.Asks[0].Title)
	require.NotEmpty(t, proposed.Dates)
	assert.Contains(t, proposed.Dates[0].Words, "Thu 10 Dec")

	assert.Nil(t, d.brings("From: Eva <eva@x.example>\r\nTo: ines@norrholm.example\r\nMessage-ID: <3@x.example>\r\nSubject: Lunch\r\n\r\nShall we meet on Thursday? It is 12.00 EUR.\r\n").Body.Bill)
}

// A parcel that has not come by its day is late, until another letter says that it has; one
// that is held says nothing yet.
func TestALateParcel(t *testing.T) {
	d := begin(t)
	letter := func(id, subject, text string) string {
		return "From: Parcel desk <track@post.example>\r\nTo: ines@norrholm.example\r\nAuto-Submitted: auto-generated\r\nDate: " + d.clock.Now().Format(time.RFC1123Z) +
			"\r\nMessage-ID: <" + id + "@post.example>\r\nSubject: " + subject + "\r\n\r\n" + text + "\r\n"
	}
	first := d.brings(letter("1", "Your parcel comes tomorrow", "Parcel NP 4512 44 is on the ferry."))
	require.NotNil(t, first.Body.Bill)
	way := func() findings.Stand {
		l, err := d.ReadLetter(t.Context(), d.who, first.ID)
		require.NoError(t, err)
		return l.Body.Bill.Way
	}
	assert.Equal(t, findings.Ahead, way())
	d.clock.Advance(48 * time.Hour)
	assert.Equal(t, findings.Late, way())
	d.brings(letter("2", "Parcel NP 4512 55 was handed over", "Received by: Tove."))
	assert.Equal(t, findings.Late, way(), "that is another one")

	_, err := d.Hold(t.Context(), d.who, crand(), app.Holding{})
	require.NoError(t, err)
	raw := letter("3", "Parcel NP 4512 44 was handed over", "Received by: Tove.")
	require.NoError(t, d.Receive(t.Context(), app.Incoming{Inbox: d.who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: d.clock.Now()}))
	assert.Equal(t, findings.Late, way())
	_, err = d.LetIn(t.Context(), d.who, crand(), 0, false)
	require.NoError(t, err)
	assert.Equal(t, findings.Settled, way())
}

// Another letter about the same parcel that can't be read stops nothing, and a letter without a
// date is read from when it came.
func TestABillBesideWhatCannotBeRead(t *testing.T) {
	d := begin(t)
	const head = "From: Parcel desk <track@post.example>\r\nTo: ines@norrholm.example\r\nAuto-Submitted: auto-generated\r\n"
	first := d.brings(head + "Message-ID: <1@post.example>\r\nSubject: Your parcel comes tomorrow\r\n\r\nParcel NP 4512 44 is on the ferry.\r\n")
	require.NotNil(t, first.Body.Bill)
	assert.Equal(t, []any{findings.Ahead, "Wed 25 Nov"}, []any{first.Body.Bill.Way, first.Body.Bill.Comes}, "it has no date of its own")
	second := d.brings(head + "Message-ID: <2@post.example>\r\nSubject: Parcel NP 4512 44 was handed over\r\n\r\nReceived by: Tove.\r\n")
	file, err := sql.Open("sqlite3", d.Store.Path())
	require.NoError(t, err)
	defer file.Close()
	_, err = file.ExecContext(t.Context(), "UPDATE letters SET sha = x'00' WHERE id = ?", second.ID)
	require.NoError(t, err)
	d.clock.Advance(48 * time.Hour)
	l, err := d.ReadLetter(t.Context(), d.who, first.ID)
	require.NoError(t, err)
	assert.Equal(t, findings.Late, l.Body.Bill.Way)
}

// A receipt of which what is kept is damaged is a line like the others, without what is found
// in it, and the others stand as they did.
func TestTheShallowsBesideWhatIsDamaged(t *testing.T) {
	d := begin(t)
	const head = "From: Parcel desk <track@post.example>\r\nTo: ines@norrholm.example\r\nAuto-Submitted: auto-generated\r\n"
	broken := d.brings(head + "Message-ID: <1@post.example>\r\nSubject: Invoice 1111\r\n\r\nTotal 10.00 EUR\r\nDue Thu 3 Dec 2026\r\n")
	d.brings(head + "Message-ID: <2@post.example>\r\nSubject: Invoice 1112\r\n\r\nTotal 20.00 EUR\r\nDue Thu 3 Dec 2026\r\n")
	file, err := sql.Open("sqlite3", d.Store.Path())
	require.NoError(t, err)
	defer file.Close()
	_, err = file.ExecContext(t.Context(), "UPDATE blobs SET packed = x'00' WHERE sha = (SELECT sha FROM letters WHERE id = ?)", broken.ID)
	require.NoError(t, err)
	shallows, err := d.Shallows(t.Context(), d.who)
	require.NoError(t, err)
	var bills []*show.BillView
	for _, k := range shallows.Kinds {
		for _, l := range k.Lines {
			bills = append(bills, l.Bill)
		}
	}
	require.Len(t, bills, 2)
	require.NotNil(t, bills[0])
	assert.Equal(t, "20.00 EUR", bills[0].Amount)
	assert.Nil(t, bills[1])
}

// Whoever has the name of a key person and another address is not taken for them, unless one
// has written to that address.
func TestAnotherOfThatName(t *testing.T) {
	d := begin(t)
	d.Sender = takes{}
	from := func(address, id string) show.Letter {
		return d.brings("From: Henrik Aas <" + address + ">\r\nTo: ines@norrholm.example\r\nMessage-ID: <" + id + "@x.example>\r\nSubject: Quick " + id + "\r\n\r\nAre you there?\r\n")
	}
	from("henrik@norrholm.example", "a")
	_, err := d.AddThrough(t.Context(), d.who, crand(), app.ThroughFields{Kind: "sender", Value: "henrik@norrholm.example", Key: true})
	require.NoError(t, err)
	assert.Nil(t, from("henrik@norrholm.example", "b").Body.Posing)
	stranger := from("henrik@pay-now.example", "c")
	require.NotNil(t, stranger.Body.Posing)
	assert.Equal(t, "henrik@norrholm.example", stranger.Body.Posing.Email)
	_, err = d.Send(t.Context(), d.who, app.Sending{Command: crand(), Draft: crand(), Writing: show.Writing{Kind: "new", From: "ines@norrholm.example", To: []string{"henrik@pay-now.example"}, Subject: "x", Text: "x"}})
	require.NoError(t, err)
	d.clock.Advance(time.Minute)
	_, err = d.RunDue(t.Context())
	require.NoError(t, err)
	assert.Nil(t, from("henrik@pay-now.example", "d").Body.Posing)
}
