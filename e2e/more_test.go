package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// sendAhead puts off the letter in focus, and goes to see it in Ahead.
func sendAhead(p browser.Page, phrase string) {
	p.Press('3')
	p.See("bring it back")
	p.Type(phrase)
	p.See("what you typed")
	p.Press(input.Enter)
	p.SeeNot("bring it back")
	p.Press('v', 'a')
	p.MustElement("main[aria-label=Ahead]")
}

// moveAhead moves an entry of Ahead.
func moveAhead(t *testing.T, p browser.Page, title, phrase string) {
	t.Helper()
	down(t, p, title)
	p.Press('3')
	p.MustElementR("[role=dialog] h2", "Move to")
	p.Type(phrase)
	p.See("what you typed")
	p.Press(input.Enter)
}

// What is put off stands in Ahead, is moved, fetched early, and comes back by
// itself when its time comes.
func TestAhead(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	title := focused(p)
	sendAhead(p, "in 20 min")
	p.See(title)
	moveAhead(t, p, title, "in 40 min")
	p.Until(`() => !document.querySelector("[role=dialog]")`)
	p.Click(`\+1 hour`)
	p.Until(`(title) => !document.querySelector('main').innerText.includes(title)`, title)
	p.Press('v')
	p.Press('i')
	p.See("Came back")
	p.See("2× put off")
}

// A third time is asked wherever it is tried, with what else could be done.
func TestTheThirdTimeInAhead(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	title := focused(p)
	sendAhead(p, "in 2 hours")
	move := func(to string) { moveAhead(t, p, title, to) }
	move("in 3 hours")
	p.See("put off 2 times")
	move("in 4 hours")
	p.See("Later, once more?")
	p.See("was put off 2 times already")
	p.Press(input.Escape)
	p.SeeNot("Later, once more?")
	p.See("put off 2 times")
	move("in 1 hour") // sooner is no putting off
	p.Until(`() => !document.querySelector("[role=dialog]")`)
	move("in 4 hours")
	p.See("Later, once more?")
	p.Press(input.Tab, input.Tab)
	p.Press(input.Enter) // Follow up
	p.MustElementR("[role=dialog]", "Due")
}

// A reminder that comes due shows in the page, and can be taken note of.
func TestReminderRings(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('c')
	p.See("Note down")
	p.Type("Ring the ferry, remind in 5 min")
	p.Until(`() => document.querySelector('[role=dialog]').innerText.includes('reminder today')`)
	p.Press(input.Enter)
	p.See("New follow-up")
	p.Click(`\+10 min`)
	p.MustElement("section[aria-label=Reminders]")
	p.See("reminder of")
	p.MustElementR("section[aria-label=Reminders] button", "Seen").MustClick()
	p.Until(`() => document.querySelector('section[aria-label=Reminders]') === null`)
}

// Junk goes in and out again; the bin counts its days.
func TestJunkAndBin(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	title := focused(p)
	p.Press('m')
	p.See("Moved to Junk")
	p.Press('v')
	p.Press('j')
	p.See("never brought back by new letters")
	p.MustElement("[role=option]")
	assert.Equal(t, title, focused(p))
	p.Press('2')
	p.See("Not junk")
	p.Press('v')
	p.Press('b')
	p.See("kept for 30 days")
	p.See("days left")
	p.Press('2') // restore
	p.Press('v')
	p.Press('i')
	p.MustElement("[role=option]")
	p.Press('u')
	p.See("Undone: Fetched back")
}

// A send is undone within its ten seconds, and the text is there again.
func TestASendIsUndone(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('1')
	p.MustElement("form[aria-label=Answer] textarea")
	p.Type("Sent too soon.")
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	p.See("It leaves in")
	p.MustElement("[role=option]")
	p.Press('u')
	p.Until(`() => document.querySelector('textarea')?.value.includes('Sent too soon.')`)
}

// Two pages of one person see each other's decisions.
func TestTwoPages(t *testing.T) {
	e := serve(t)
	one, two := e.open(browser.Desk, false), e.open(browser.Desk, true)
	one.MustElement("[role=option]")
	two.MustElement("[role=option]")
	row := one.MustEval(`() => document.querySelector('[role=option][aria-selected=true]').id`).Str()
	one.Press('2')
	two.Until(`(row) => document.getElementById(row) === null`, row)
	two.Press('u')
	one.Until(`(row) => document.getElementById(row) !== null`, row)
}

// Single keys can be turned off; arrows go on working.
func TestKeysCanBeTurnedOff(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('?')
	p.See("Single keys work")
	p.MustElement("[role=dialog] input[type=checkbox]").MustClick()
	p.Press(input.Escape)
	p.SeeNot("Single keys work")
	was := focused(p)
	p.Press('2')
	p.Press(input.ArrowDown)
	p.Until(`(was) => document.querySelector('section[aria-label=Letter] h1')?.innerText !== was`, was)
	assert.True(t, p.MustEval(`(was) => document.querySelector('[role=listbox]').innerText.includes(was)`, was).Bool(), "2 decided nothing")
}
