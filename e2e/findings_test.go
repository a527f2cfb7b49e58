package e2e

import (
	"context"
	"crypto/rand"
	"slices"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// comes lets a letter come to Ines and be let in.
func (e *ebbe) comes(raw string) {
	e.t.Helper()
	ctx, who := context.Background(), store.Own(1)
	require.NoError(e.t, e.app.Receive(ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: e.app.Now()}))
	_, err := e.app.LetIn(ctx, who, rand.Text(), 0, false)
	require.NoError(e.t, err)
}

// A bill says above its text what it wants, and one key makes a follow-up to pay it by its day.
func TestABillIsFollowedUp(t *testing.T) {
	e := serve(t)
	e.comes("From: Orangery Glass <office@glass.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n" +
		"Subject: Invoice 1187\r\nMessage-ID: <1187@glass.example>\r\n\r\nGlazing of the orangery\r\nTotal 1,420.00 EUR\r\nDue Thu 3 Dec 2026\r\n")
	for _, size := range []browser.Size{browser.Desk, browser.Phone} {
		p := e.open(size, size == browser.Phone)
		p.Timeout(browser.Wait).MustElementR("[role=option]", "Orangery Glass").MustClick()
		p.Until(`() => document.querySelector('[aria-label="What it is about"]')?.innerText.includes('1,420.00 EUR')`)
		p.Until(`() => document.querySelector('[aria-label="What it is about"]')?.innerText.includes('due Thu 3 Dec')`)
	}
	p := e.open(browser.Desk, false)
	p.Timeout(browser.Wait).MustElementR("[role=option]", "Orangery Glass").MustClick()
	p.Until(`() => document.querySelector('[aria-label="What it is about"]') !== null`)
	p.Press('4')
	p.Until(`() => document.activeElement.value === 'Pay 1,420.00 EUR, invoice 1187'`)
	p.Until(`() => [...document.querySelectorAll('[role=dialog] button')].some((b) => b.innerText.includes('3 Dec'))`)
	alt(p, '1') // the day that it names
	p.Until(`() => [...document.querySelectorAll('[role=dialog] button[aria-pressed=true]')].some((b) => b.innerText.includes('3 Dec'))`)
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`) // Enter waits for the day to be understood
	p.Sent()
	all, err := e.app.Board(context.Background(), store.Own(1), show.Arranged{By: followup.ByDue})
	require.NoError(t, err)
	require.True(t, slices.ContainsFunc(all.Cards, func(f show.FollowUp) bool { return f.Title == "Pay 1,420.00 EUR, invoice 1187" }))
}

// A code to sign in with, a number to call and a file that did not come stand above the text, and show
// where they stand in it while they have the focus.
func TestWhatIsFoundIsShownWhereItStands(t *testing.T) {
	e := serve(t)
	e.comes("From: Anton <anton@frames.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n" +
		"Message-ID: <found@frames.example>\r\nSubject: The door of the workshop\r\n\r\n" +
		"Use the code 481 922 to log in. It holds for ten minutes.\r\nThe plan is attached. Call me on +47 913 22 118.\r\n")
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Timeout(browser.Wait).MustElementR("[role=option]", "The door of the workshop").MustClick()
	p.See("holds for ten minutes")
	p.See("It says “attached”, and no file came")
	found := p.MustElement("[aria-label='Found in the letter']")
	assert.Equal(t, "tel:+4791322118", *found.MustElement("a").MustAttribute("href"))
	found.MustElement("button").MustFocus()
	p.Until(`() => document.querySelector('article mark')?.innerText === '481 922'`)
	assert.Empty(t, offences(p))
	found.MustElement("a").MustFocus()
	p.Until(`() => document.querySelector('article mark')?.innerText === '+47 913 22 118'`)
}
