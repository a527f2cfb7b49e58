package e2e

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/store"
)

// focused is the title of the letter in focus.
func focused(p browser.Page) string {
	return p.MustElement(`section[aria-label=Letter] h1`).MustText()
}

// focus moves down the queue until the letter is open.
func focus(t *testing.T, p browser.Page, title string) {
	t.Helper()
	p.Press(input.Home)
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	for range 60 {
		if p.MustEval(`() => document.querySelector('section[aria-label=Letter] h1')?.innerText`).Str() == title {
			return
		}
		before := p.MustEval(`() => document.querySelector('[role=option][aria-selected=true]')?.id`).Str()
		p.Press('j')
		p.Until(`(before) => document.querySelector('[role=option][aria-selected=true]')?.id !== before`, before)
		p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	}
	t.Fatalf("%q is not in the queue", title)
}

// The walk of a morning, by keyboard alone.
func TestTheWalkByKeyboard(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.See("Held until 08:30")

	// Let the held letters in.
	p.Press('h')
	p.See("Let in and open")
	p.Press(input.Enter)
	p.See("Let in at")

	// Later, by a phrase.
	focus(t, p, "Crate sizes for the bromeliad loan")
	p.Press('3')
	p.See("bring it back")
	p.Type("fri 2pm")
	p.See("Fri 27 Nov, 14:00")
	p.Press(input.Enter)
	p.SeeNot("bring it back")
	p.SeeNot("Can you confirm the four crate sizes")

	// Undo brings it back, and it has the focus again.
	p.Press('u')
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1')?.innerText === 'Crate sizes for the bromeliad loan'`)

	// Follow up, with the title proposed as an action.
	p.Press('4')
	p.See("What is to be done")
	assert.Equal(t, "Confirm the four crate sizes and which courier you use for the last leg",
		p.MustElement(`[role=dialog] input`).MustProperty("value").Str())
	p.Press(input.Tab) // into the due, which is selected
	p.Type("fri 10")
	p.See("Fri 27 Nov, 10:00")
	p.Press(input.Enter)
	p.SeeNot("What is to be done")

	// Hand on: the address is completed from known people.
	focus(t, p, "Short word about the gate")
	p.Press('5')
	p.MustElement(`form[aria-label="Hand on"] input[role=combobox]`).MustFocus()
	p.Type("tov")
	p.See("tove@norrholm.example")
	p.Press(input.Enter)
	p.MustElement(`textarea`).MustFocus()
	p.Type("Tove, does it touch the loan?")
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	p.See("It leaves in")

	// File under a new label.
	focus(t, p, "Lift inspection")
	p.Press('6')
	p.See("File under")
	p.Type("palm house")
	p.See("New label")
	p.Press(input.Enter)
	p.SeeNot("File under")

	// Star, flag, several at once.
	p.Press('s')
	p.MustElement(`[role=option][aria-selected=true] [aria-label=starred]`)
	p.Press('f')
	p.MustElement(`[role=option][aria-selected=true] [aria-label=flagged]`)
	p.Press('x')
	p.Press(input.ArrowDown)
	p.Press('x')
	p.See("2 selected")
	p.Press('2')
	p.SeeNot("2 selected")
	p.See("Done with 2 letters")

	// Find what left the inbox.
	p.Press('/')
	p.Type("bromeliad from:bram")
	p.See("Found")
	p.See("Crate sizes for the bromeliad loan")
	p.Press(input.Escape)

	// The follow-up, and the letter behind it.
	p.Press('v')
	p.Press('f')
	p.MustElement(`main[aria-label=Follow-ups]`)
	p.See("Confirm the four crate sizes")
	for range 40 {
		if p.MustEval(`() => document.querySelector('[aria-current=true]')?.innerText.includes('Confirm the four crate sizes') ?? false`).Bool() {
			break
		}
		p.Press('j')
	}
	p.Press(input.Space)
	p.See("Read and answer")
	p.Press(input.Space)
	p.See("The van is booked and the driver wants the load plan")

	// What is waited for.
	p.Press('v')
	p.Press('w')
	p.MustElement(`main[aria-label=Waiting]`)
	p.See("Tove Lindqvist")
}

// Everything goes to zero: low water, what was decided, what comes next.
func TestZero(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.KeyActions().Press(input.ControlLeft).Type('a').MustDo()
	p.See("selected")
	p.Press('2')
	p.See("Low water 08:2")
	p.See("Decided today")
	p.See("Send the lift height to Bram")
	p.Press('u')
	p.SeeNot("Low water 08:2")
	p.MustElement(`[role=option]`)
}

// A letter that comes while the page is open is there without reloading, and
// what is in focus does not move.
func TestLettersComeInAndAnswersGoOut(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('h')
	p.See("Let in and open")
	p.Press(input.Enter)
	p.See("Let in at")
	focus(t, p, "Crate sizes for the bromeliad loan")
	p.Click("Send a letter in")
	p.Click("that asks something")
	p.See("Driver’s telephone")
	assert.Equal(t, "Crate sizes for the bromeliad loan", focused(p))

	p.Press('1')
	p.MustElement(`form[aria-label=Answer]`)
	p.Type("60 by 98, twice, and 70 by 118 and 138.")
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	p.See("It leaves in")
	p.Click(`\+10 min`) // it leaves
	p.SeeNot("On its way")
	p.Until(`() => !document.querySelector('aside[aria-label=Demo] button').disabled`)
	p.Click(`\+10 min`)
	p.Until(`() => !document.querySelector('aside[aria-label=Demo] button').disabled`)
	p.MustReload()
	p.MustElement("[role=option]")
	focus(t, p, "Crate sizes for the bromeliad loan")
	p.Until(`() => /load plan|Thank you, noted|send the papers/.test(document.body.innerText)`) // what Bram answers
	p.See("new letter")
}

// What is typed is kept within a second, and survives the page and the server.
func TestWhatIsTypedIsKept(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Press('n')
	p.MustElement(`form[aria-label="New letter"] textarea`).MustFocus()
	p.Type("Half a thought")
	unsaved := `Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`
	p.Until(`() => ` + unsaved)
	p.Until(`() => !` + unsaved) // it has reached the server
	addr := strings.TrimPrefix(e.url, "http://")
	e.stop()
	e.start(addr)
	p.MustReload()
	p.MustElement(`nav[aria-label=Views]`)
	p.MustNavigate(e.url + "/drafts")
	p.See("nobody yet")
	p.Click("nobody yet")
	p.Until(`() => document.querySelector('textarea')?.value.includes('Half a thought')`)
}

// Without the server decisions queue in the page, counted, and are sent in
// order once it is back.
func TestDecisionsWaitForTheServer(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	before, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(t, err)
	addr := strings.TrimPrefix(e.url, "http://")
	e.stop()
	p.Press('2', '2')
	p.See("2 decisions wait in this page")
	e.start(addr)
	p.SeeNot("in this page and will be sent")
	p.Sent()
	after, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(t, err)
	assert.Equal(t, before.Inbox-2, after.Inbox)
}

// Two pages of one browser each keep what they decide: none overwrites the
// other's, and nothing is lost when both close before the server is back.
func TestTwoPagesWaitForTheServer(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	other := browser.Page{Page: p.Browser().MustPage(e.url)}
	other.MustSetViewport(1280, 800, 1, false).MustWaitLoad()
	other.MustElement(`[role=option]`)
	p.Quiet()
	other.Quiet()
	before, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(t, err)
	addr := strings.TrimPrefix(e.url, "http://")
	e.stop()
	other.MustActivate()
	other.Press('j', 'j', '2')
	other.See("in this page and will be sent")
	p.MustActivate()
	p.Press('2', '2')
	p.See("in this page and will be sent")
	other.MustClose()
	e.start(addr)
	p.MustReload().MustWaitLoad()
	p.Until(`() => document.querySelector("nav[aria-label=Views]") !== null`)
	p.SeeNot("in this page and will be sent")
	p.Until(`(n) => document.querySelector('nav[aria-label=Views] a[href="/inbox"]').textContent.endsWith(n)`, fmt.Sprint(" ", before.Inbox-3))
	after, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(t, err)
	assert.Equal(t, before.Inbox-3, after.Inbox)
}

// Letters' own pages run nothing, whoever asks.
func TestLettersRunNothing(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/shallows").MustWaitLoad()
	p.Timeout(browser.Wait).MustElementR("[data-shallow]", "This week under glass").MustClick()
	p.See("remote picture")
	frame := p.MustElement("iframe")
	assert.NotContains(t, *frame.MustAttribute("sandbox"), "allow-scripts")
	src := *frame.MustAttribute("src")
	answer, err := http.Get(e.url + src)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	assert.Equal(t, http.StatusUnauthorized, answer.StatusCode, "nobody else's letters")
	// Keys work after a click into the letter.
	p.Letter().MustElement("body").MustClick()
	was := focused(p)
	p.Press('k')
	p.Until(`(was) => document.querySelector('section[aria-label=Letter] h1')?.innerText !== was`, was)
}
