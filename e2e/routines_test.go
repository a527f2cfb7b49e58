package e2e

import (
	"context"
	"crypto/rand"
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/store"
)

// A routine is made by keys, says what it would do while it is made, stands above the decisions, and
// is carried out by its key and taken back by one undo.
func TestARoutineByKeys(t *testing.T) {
	e := serve(t)
	for _, size := range []browser.Size{browser.Desk, browser.Phone} {
		p := e.open(size, size == browser.Phone)
		p.MustElement("[role=option]")
		if size == browser.Phone {
			p.MustElement("[role=option]").MustTap()
			p.MustElement("[aria-label=Routines] button")
			assert.Empty(t, offences(p))
			continue
		}
		title := p.MustElement("section[aria-label=Letter] h1").MustText()
		p.Press('v', 'k')
		p.See("No routines yet")
		assert.Empty(t, offences(p))
		p.Click("New routine")
		p.MustElement("[aria-label=Name]")
		p.Type("Loan papers")
		p.See("a label needs a name")
		p.MustElement("[aria-label='Label of step 1']").MustFocus()
		p.Type("loans")
		p.See("With “" + title + "”: label loans")
		p.Click(`^Step$`)
		p.MustElementR("button", `Step 2:\s*Star it`).MustFocus()
		p.Press(input.Enter)
		p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "^Decide$").MustClick()
		p.See("label loans, done")
		assert.Empty(t, offences(p))
		p.Click("Keep the routine")
		p.See("New routine “Loan papers”")
		p.Press('v', 'i')
		p.MustElement("[role=option]")
		p.See("label loans, done")
		n := e.inbox()
		p.Press('8')
		p.Sent()
		p.Until(`title => document.querySelector('section[aria-label=Letter] h1')?.textContent !== title`, title)
		assert.Equal(t, n-1, e.inbox())
		p.Press('u')
		p.See("Undone: Routine “Loan papers”")
		assert.Equal(t, n, e.inbox())
		assert.Empty(t, offences(p))
	}
}

// A routine that writes opens the letter: a new one to a group, once its own letter is decided on; an
// answer that is to be sent leaves by itself when nothing of it is open, and can be taken back.
func TestARoutineThatWrites(t *testing.T) {
	e := serve(t)
	ctx, who := context.Background(), store.Own(1)
	prepared, err := e.app.Prepared(ctx, who)
	require.NoError(t, err)
	template := func(name string) int64 {
		for _, tpl := range prepared.Templates {
			if tpl.Name == name {
				return tpl.ID
			}
		}
		require.Fail(t, "no template "+name)
		return 0
	}
	e.comes("From: Bram Oosterhuis <bram@oosterhuis-freight.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n" +
		"Subject: Lift at gate two\r\nMessage-ID: <lift@oosterhuis-freight.example>\r\n\r\nThe lift at gate two is out until Friday.\r\n")
	thanks := []routine.Step{{Do: routine.Star}, {Do: routine.Decide, Decision: decide.Answer, Template: template("Thank you, noted"), Send: true}}
	name, key := "Noted", "9"
	_, err = e.app.NewRoutine(ctx, who, rand.Text(), app.RoutineFields{Name: &name, Key: &key, Steps: &thanks})
	require.NoError(t, err)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")

	p.Press('v', 'k')
	p.MustElementR("h1", "^Routines$")
	p.Click("New routine")
	p.MustElement("[aria-label=Name]")
	p.Type("Tell the guides")
	choose := func(label, option string) {
		p.Timeout(browser.Wait).MustElementR("button", label).MustFocus()
		p.Press(input.Enter)
		p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", option).MustClick()
	}
	choose(`Step 1:\s*Label`, "Write a letter")
	p.See("to write it needs a group or an address")
	choose("Group of step 1", "guides")
	choose("Template of step 1", "Thank you, noted")
	p.Click(`^Step$`)
	choose(`Step 2:\s*Star`, "^Decide$")
	p.See("write to “")
	assert.Empty(t, offences(p))
	p.Click("Keep the routine")
	p.See("New routine “Tell the guides”")

	p.Press('v', 'i')
	p.MustElementR("[role=option]", "Lift at gate two").MustClick()
	p.MustElementR("section[aria-label=Letter] h1", "Lift at gate two")
	n := e.inbox()
	p.Press('8')
	says := func(text string) {
		p.Until(`text => document.querySelector('[data-writing]')?.value.includes(text)`, text)
	}
	says("Thank you, {first name}, that is noted.")
	p.Until(`() => 'toFillIn' in document.activeElement.dataset`)
	p.Sent()
	assert.Equal(t, n-1, e.inbox(), "it is decided on; the letter to the guides is open")
	assert.Empty(t, offences(p))
	p.Press(input.Escape)
	p.Press('u')
	p.See("Undone: Routine “Tell the guides”")
	assert.Equal(t, n, e.inbox())

	p.MustElementR("[role=option]", "Lift at gate two").MustClick()
	p.MustElementR("section[aria-label=Letter] h1", "Lift at gate two")
	p.Press('9')
	p.See("It leaves in")
	p.Sent()
	assert.Equal(t, n-1, e.inbox(), "it was answered")
	p.Press('u')
	p.Sent()
	assert.Equal(t, n, e.inbox())
	says("Thank you, Bram, that is noted.")
}

// What is foretold for sure is taken by one key, but never blindly: not at once when the letter comes
// into sight, nor by a key that is held down.
func TestWhatIsForetoldIsTakenByOneKey(t *testing.T) {
	e := serve(t)
	ctx, who := context.Background(), store.Own(1)
	bill := func(n int) {
		e.comes(fmt.Sprintf("From: Gas Office <office@gas.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n"+
			"Subject: Meter reading %d\r\nMessage-ID: <%d@gas.example>\r\n\r\nThe reading of the month is below, as agreed.\r\n", n, n))
	}
	for n := range 20 {
		bill(n)
		page, err := e.app.List(ctx, who, decide.Inbox, false, 0, "")
		require.NoError(t, err)
		for _, r := range page.Rows {
			if r.From.Email == "office@gas.example" {
				_, err := e.app.Decide(ctx, who, app.Deciding{Command: rand.Text(), Kind: decide.File, Labels: []string{"gas"}, On: []store.Seen{{ID: r.ID, Last: r.Last}}})
				require.NoError(t, err)
			}
		}
	}
	require.NoError(t, e.app.Learn(ctx))
	bill(100)
	bill(101)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustEval(`() => { const at = performance.now(); window.running = performance.now.bind(performance); performance.now = () => at }`)
	p.MustElementR("[role=option]", "Meter reading 101").MustClick()
	p.See("Likely File under gas: you filed all of the last 10 letters from them")
	assert.Empty(t, offences(p))
	n := e.inbox()
	p.Press(input.Enter)
	p.MustEval(`() => { performance.now = window.running }`)
	p.MustElementR("[role=option]", "Meter reading 100").MustClick()
	p.MustElementR("[role=option]", "Meter reading 101").MustClick()
	p.See("Likely File under gas")
	p.Sent()
	assert.Equal(t, n, e.inbox(), "a key at once takes nothing")
	p.MustEval(`() => document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, repeat: true }))`)
	p.Until(`since => performance.now() > since + 450`, p.MustEval(`() => performance.now()`).Num())
	assert.Equal(t, n, e.inbox(), "a key that is held down takes nothing")
	p.Press(input.Enter)
	p.Sent()
	p.Until(`() => ![...document.querySelectorAll('[role=option]')].some((o) => o.textContent.includes('Meter reading 101'))`)
	assert.Equal(t, n-1, e.inbox())
	p.Press('u')
	p.See("Undone: Filed “Meter reading 101” under gas")
	assert.Equal(t, n, e.inbox())
}
