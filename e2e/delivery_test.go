package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// The plan is changed by keys, seen with what it would do, put in force, and
// taken back.
func TestThePlanIsEdited(t *testing.T) {
	e := servePlanned(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'd')
	p.MustElement(`[aria-label="The week’s plan"]`)
	p.See("11 letters wait")
	p.MustElement("#plan-2-closed-540").MustFocus()
	p.Press(input.ArrowDown)
	p.Until(`() => document.activeElement?.id === 'plan-2-closed-555'`) // moved by a quarter of an hour
	p.See("Draft, not in force yet")
	p.See("interruptions fewer")
	p.Keyboard.Press(input.ShiftLeft)
	p.Press(input.ArrowDown)
	p.Keyboard.Release(input.ShiftLeft)
	p.Until(`() => /09:15 to 12:00/.test(document.activeElement?.getAttribute('aria-label'))`)
	p.MustReload()
	p.See("Draft, not in force yet") // the draft outlives the page
	p.Click("Put in force")
	p.See("Delivery plan changed")
	p.SeeNot("Draft, not in force yet")
	p.MustElement("#plan-2-closed-555")
	p.MustEval(`() => document.activeElement.blur()`)
	p.Press('u')
	p.MustElement("#plan-2-closed-540")
}

func TestAPlanAsText(t *testing.T) {
	e := servePlanned(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/delivery").MustWaitLoad()
	p.MustElementR("summary", "As text").MustClick()
	text := p.MustElement(`textarea[aria-label="The plan as text"]`)
	p.Until(`() => /mon-thu/.test(document.querySelector('textarea[aria-label="The plan as text"]').value)`)
	text.MustSelectAllText().MustInput("daily 25:00")
	p.Click("Read it")
	p.See("no time of day")
	text.MustSelectAllText().MustInput("daily quiet")
	p.Click("Read it")
	p.See("never let anything in")
	assert.True(t, p.MustElementR("button", "Put in force").MustProperty("disabled").Bool(), "it can’t be put in force")
	p.Click("Throw away")
	p.Click("Try the plan on last week")
	p.See("Interruptions avoided")
	p.Press(input.Escape)
	p.MustElementR("button", "Remove the plan").MustClick()
	p.See("mail flows")
	p.See("Letters come as they arrive")
}

func TestLettingInEarlyCountsDown(t *testing.T) {
	e := servePlanned(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('h')
	p.Click("Let in 11 now")
	p.See("Letting in early")
	p.Click("Cancel")
	p.SeeNot("Letting in early")
	p.See("11 wait")
	p.Press('h')
	p.Click("Let in and open")
	p.Click("Let in now")
	p.See("letters let in")
	p.SeeNot("11 wait")
	p.See("Let in at 08:2")
}

func TestSomebodyIsLetThrough(t *testing.T) {
	e := servePlanned(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/delivery").MustWaitLoad()
	p.Click("^ ?Add$")
	p.MustElement(`select[aria-label=By]`).MustSelect("Domain")
	p.MustElement(`input[aria-label="What to let through"]`).MustInput("norrholm.example")
	p.See("letters of the past 30 days")
	p.MustElementR("form button", "^Let through$").MustClick()
	p.See("@norrholm.example")
	p.See("that wait")
	p.Click("^Let in$")
	p.See("let through: @norrholm.example")
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.See("Let through")
}
