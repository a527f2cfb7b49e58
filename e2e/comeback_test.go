package e2e

import (
	"context"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/store"
)

// Times and places are the person's own: a name with a key, and a place that
// a letter waits for.
func TestNamedTimesAndPlaces(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('v', 't')
	p.MustElement("main[aria-label='Times and places']")
	p.MustElement("input[aria-label='Name of a new time']").MustInput("after the rounds")
	p.MustElement("input[aria-label='Meaning of a new time']").MustInput("15:10").MustType(input.Enter)
	p.MustElement("input[aria-label='Key of after the rounds']").MustInput("r").MustType(input.Enter)
	p.See("today 15:10")
	p.MustElement("input[aria-label='Name of a new place']").MustInput("the orangery").MustType(input.Enter)
	p.MustElement("input[aria-label='Name of the place the orangery']")
	p.MustElement("button[aria-label='Where are you?']")

	p.MustEval(`() => document.activeElement.blur()`)
	p.Press('v', 'i')
	p.Timeout(browser.Wait).MustElement("[role=option]")
	first := focused(p)
	p.Press('3')
	p.See("bring it back")
	p.Until(`() => document.querySelector('[role=dialog]')?.innerText.includes('after the rounds')`) // it is offered
	p.KeyActions().Press(input.AltLeft).Type('r').MustDo()
	p.SeeNot("bring it back")
	second := focused(p)
	assert.NotEqual(t, first, second)
	p.Press('3')
	p.See("bring it back")
	p.Type("when I am at the orangery")
	p.See("when I am at the orangery")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
	p.Press(input.Enter)
	p.SeeNot("bring it back")

	p.MustElement("button[aria-label='Where are you?']").MustFocus()
	p.Press(input.Enter)
	p.Until(`() => document.activeElement?.role === "menuitemradio"`)
	p.MustElementR("[role=menuitemradio]", `the orangery\s*1 wait`).MustFocus()
	p.Press(input.Enter)
	p.See("You are at “the orangery”; 1 came back")
	p.See(second)
}

// A letter is put off until its answer comes, and stands in Waiting.
func TestPutOffUntilTheAnswer(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	title := focused(p)
	p.Press('3')
	p.See("bring it back")
	p.Type("when they answer")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
	p.Press(input.Enter)
	p.SeeNot("bring it back")
	p.Press('v', 'w')
	p.MustElement("main[aria-label=Waiting]")
	p.See(title)
	p.Click("By person")
	down(t, p, title)
	p.Press('1') // a nudge is drafted
	p.MustElement("form[aria-label=Answer] textarea")
	p.Until(`() => document.querySelector('textarea').value.includes('Have you been able to look at it?')`)
	p.Press(input.Escape)
	p.Press('v', 'w')
	p.Click("Settled")
	p.SeeNot(title)
}

// The sender is told when to expect an answer, in a note that can be changed.
func TestTheSenderIsTold(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('j', 'j', '3')
	p.See("bring it back")
	p.MustElement("[role=dialog] input[type=checkbox]").MustFocus()
	p.Press(input.Space)
	p.MustElement("[role=combobox]").MustFocus()
	p.Type("fri 2pm")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
	p.Press(input.Enter)
	p.Until(`() => document.querySelector('textarea[aria-label="The note"]')?.value.includes('expect my answer on Friday 27 November')`)
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	p.SeeNot("bring it back")
	p.Until(`() => document.querySelector('[aria-label=Decisions]').innerText.includes('Put off')`)
	out, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(t, err)
	require.Len(t, out.Outbox, 1)
	assert.Contains(t, out.Undo, "; told ")
}

// Before the third put-off Ebbe asks whether something else would settle it;
// as long again is one key.
func TestTheThirdPutOffIsAskedAbout(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	title := focused(p)
	p.Press('3')
	p.See("bring it back")
	p.Type("in 20 min")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
	p.Press(input.Enter)
	p.SeeNot("bring it back")
	for range 2 {
		p.Until(`() => !document.querySelector('aside[aria-label=Demo] button').disabled`)
		p.Click(`\+1 hour`)
		p.Until(`(title) => [...document.querySelectorAll('[role=option]')].some((o) => o.innerText.includes(title))`, title)
		focus(t, p, title)
		p.See("As long again")
		p.Press('p')
		if p.MustEval(`() => document.querySelector('[role=dialog]') !== null`).Bool() {
			break
		}
		p.Until(`(title) => ![...document.querySelectorAll('[role=option]')].some((o) => o.innerText.includes(title))`, title)
	}
	p.See("put off twice already")
	p.Press(input.ArrowDown, input.ArrowUp, input.Enter)
	p.See("Would one of these settle it?")
	p.Press(input.Tab, input.Tab, input.Tab, input.Enter) // Done
	p.SeeNot("Would one of these settle it?")
	p.Until(`(title) => ![...document.querySelectorAll('[role=option]')].some((o) => o.innerText.includes(title))`, title)
}

// Several letters are spread over days, with a preview, and undone as one.
func TestSeveralLettersAreSpread(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Until(`() => /\d/.test(document.querySelector('nav[aria-label=Views] a').innerText)`)
	before := p.MustEval(`() => document.querySelector('nav[aria-label=Views] a').innerText`).Str()
	p.Press('x', 'j', 'x', 'j', 'x', '3')
	p.Click("Spread over days")
	p.See("Put off 3 letters over")
	p.MustElementR("[role=radio]", "next week").MustClick()
	p.See(" Dec: 1 letter") // Monday is fuller
	p.Click("Put off 3 letters over")
	p.SeeNot("Spread over")
	p.Until(`(was) => document.querySelector('nav[aria-label=Views] a').innerText !== was`, before)
	p.Press('u')
	p.Until(`(was) => document.querySelector('nav[aria-label=Views] a').innerText === was`, before)
}

// The day line is paged by keys, and says what it shows.
func TestTheDayLineIsPaged(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Until(`() => document.querySelector('[aria-label="Day line"] p.sr-only')?.innerText.includes('expected in the inbox')`)
	p.Press(']')
	p.See("Wednesday 25 November")
	p.Press('[', '[')
	p.See("Monday 23 November")
	p.Click("Back to today")
	p.See("Tuesday 24 November")
}

// down moves the focus down a plain list, from where it is, until it is on a title. The
// title has to stand there first: in a list that is being read again it might come above
// the focus.
func down(t *testing.T, p browser.Page, title string) {
	t.Helper()
	p.Until(`(title) => document.querySelector('main').innerText.includes(title)`, title)
	for range 60 {
		p.Until(`() => document.querySelector('main [aria-current=true]') !== null`)
		if p.MustEval(`(title) => document.querySelector('main [aria-current=true]')?.innerText.includes(title) ?? false`, title).Bool() {
			return
		}
		p.Press('j')
	}
	t.Fatalf("%q is not in the list", title)
}
