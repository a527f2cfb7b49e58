package e2e

import (
	"context"
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/store"
)

func laneOf(p browser.Page, title string) string {
	return p.MustEval(`(title) => [...document.querySelectorAll('[data-card]')].find((c) => c.innerText.includes(title))?.closest('section')?.getAttribute('aria-label')?.split(',')[0] ?? ''`, title).Str()
}

func inLane(p browser.Page, title, lane string) {
	p.Until(`(title, lane) => [...document.querySelectorAll('[data-card]')].find((c) => c.innerText.includes(title))?.closest('section')?.getAttribute('aria-label')?.startsWith(lane)`, title, lane)
}

// A line of plain words is read as a whole while it is typed, and a part that
// is not meant is only words.
func TestNotingDown(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('c')
	p.See("Note down")
	p.Type("ring the ferry wed 10, high, for winter, 15 min")
	p.See("project Winter walks")
	p.Until(`() => document.querySelectorAll('[role=dialog] li').length === 4`)
	p.MustElement(`button[aria-label="“high” is only words"]`).MustClick()
	p.Until(`() => document.querySelectorAll('[role=dialog] li').length === 3`)
	p.MustElement("[role=dialog] input").MustFocus()
	p.Press(input.Enter)
	p.See("New follow-up “ring the ferry, high”")
	p.Press('v', 'f')
	p.MustElement("main[aria-label=Follow-ups]")
	inLane(p, "ring the ferry, high", "This week")
}

// Cards go from lane to lane by keys and by dragging, several are changed at
// once, and undone as one.
func TestTheBoard(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'f')
	title := "Send the lift height to Bram"
	p.Until(`() => document.querySelectorAll('[data-card]').length > 8`)
	p.Press(input.ArrowRight)
	p.Until(`(title) => document.querySelector('[data-card][aria-current=true]')?.innerText.includes(title)`, title)
	p.KeyActions().Press(input.ShiftLeft).Type(input.ArrowRight).MustDo()
	inLane(p, title, "This week")
	p.Press('u')
	inLane(p, title, "Today")
	p.MustElementR("[role=radio]", "^stage$").MustClick()
	p.Until(`() => [...document.querySelectorAll('h2')].some((h) => h.innerText.includes('To print'))`)
	p.MustEval(`(title) => {
		const card = [...document.querySelectorAll('[data-card]')].find((c) => c.innerText.includes(title))
		const lane = [...document.querySelectorAll('section')].find((s) => s.getAttribute('aria-label')?.startsWith('To print'))
		const data = new DataTransfer()
		card.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: data }))
		lane.dispatchEvent(new DragEvent('dragover', { bubbles: true, cancelable: true, dataTransfer: data }))
		lane.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data }))
	}`, title)
	inLane(p, title, "To print")
	p.KeyActions().Press(input.ControlLeft).Type('a').MustDo()
	all, err := e.app.FollowUps(context.Background(), store.Own(1), false)
	require.NoError(t, err)
	p.See(fmt.Sprintf("%d selected", len(all)))
	p.MustElementR("button", `Priority:\s*Priority`).MustClick()
	p.MustElementR("[role=menuitemradio]", "^low$").MustClick()
	p.See(fmt.Sprintf("Changed %d follow-ups", len(all)))
	p.MustElementR("[role=radio]", "^priority$").MustClick()
	inLane(p, title, "Low")
	p.Press('u')
	inLane(p, title, "Urgent")
	assert.NotEqual(t, "Low", laneOf(p, "Sign form 7"), "all of them are as they were")
}

// All fields are changed in place, beside the list; the day's follow-ups are
// worked through one at a time.
func TestDetailAndWorkingThrough(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'f')
	p.Until(`() => document.querySelectorAll('[data-card]').length > 8`)
	p.Press(input.ArrowRight, ' ')
	p.MustElement("section[aria-label=Follow-up] textarea[aria-label=Title]")
	p.MustElement("input[aria-label='One more step']").MustInput("measure the door").MustType(input.Enter)
	p.MustElement("input[type=checkbox][aria-label='measure the door']").MustClick()
	p.See("1/1")
	p.MustElementR("section[aria-label=Follow-up] button", "^Write$").MustClick()
	p.MustElement("textarea[aria-label='Notes, in Markdown']").MustInput("the **east** gate")
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	p.Until(`() => document.querySelector('.notes strong')?.innerText === 'east'`)
	p.Press(input.Escape)
	p.SeeNot("the east gate")

	p.Press('w')
	p.MustElement("main[aria-label='Work through today']")
	p.See("4 of 4 left")
	p.Press('2')
	p.See("Completed “")
	p.See("3 of 3 left")
	p.Press('3')
	p.See("Not today")
	p.Type("fri")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
	p.Press(input.Enter)
	p.See("2 of 2 left")
	p.Press('6', '6')
	p.See("That was all for today")
	p.Press('u')
	p.See("3 of 3 left")
}

// A file of tasks is shown before anything is made of it.
func TestTasksComeInAsAFile(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'f')
	p.MustElement("button[aria-label='In and out, and by mail']").MustClick()
	p.MustElement("textarea[aria-label='Or paste it here']").MustInput("(A) Call the ferry +Board\ndue:soonish Fail")
	p.Click("Look at it")
	p.See("1 would be made; 1 can’t be read")
	p.See("Line 2")
	p.Click("Make 1 follow-up")
	p.See("Brought in 1 follow-up")
	p.See("Call the ferry")
}

// Shift and the flag's key ask for its times.
func TestAFlagForAnotherTime(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('j', 'j')
	p.KeyActions().Press(input.ShiftLeft).Type('F').MustDo()
	p.MustElement("[role=dialog] [role=combobox]")
	p.Type("tomorrow to fri, remind thu 10")
	p.See("reminder Thu 26 Nov, 10:00")
	p.Press(input.Enter)
	p.See("Flagged “")
	p.Until(`() => document.querySelector('section[aria-label=Letter]').innerText.includes('Fri 27 Nov')`)
}
