package e2e

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
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

// The plan is drawn: a block is dragged over a free day, made longer by its
// lower edge, and carried to another day.
func TestThePlanIsDrawn(t *testing.T) {
	p := openDelivery(t)
	at := func(day, minute int) proto.Point {
		p.Quiet().MustWaitStable() // what a draft would do moves the grid down
		at := p.MustEval(`(day, minute) => {
			const box = document.querySelector("[data-day='" + day + "']").getBoundingClientRect()
			return [box.x + box.width / 2, box.y + box.height * minute / 1440]
		}`, day, minute)
		return proto.NewPoint(at.Get("0").Num(), at.Get("1").Num())
	}
	drag := func(from, to proto.Point) {
		t.Helper()
		p.Mouse.MustMoveTo(from.X, from.Y).MustDown(proto.InputMouseButtonLeft)
		p.Mouse.MustMoveTo((from.X+to.X)/2, (from.Y+to.Y)/2)
		p.Mouse.MustMoveTo(to.X, to.Y).MustUp(proto.InputMouseButtonLeft)
	}
	drag(at(5, 9*60+30), at(5, 10*60+30))
	p.MustElement(`#plan-5-closed-570[aria-label^="Friday, closed 09:30 to 10:30"]`)
	edge := at(5, 10*60+30)
	drag(proto.NewPoint(edge.X, edge.Y-2), proto.NewPoint(edge.X, at(5, 11*60).Y))
	p.MustElement(`#plan-5-closed-570[aria-label^="Friday, closed 09:30 to 11:00"]`)
	drag(at(5, 10*60), at(6, 13*60))
	p.MustElement(`#plan-6-closed-750[aria-label^="Saturday, closed 12:30 to 14:00"]`)
	assert.False(t, p.MustHas("#plan-5-closed-570"))
	assert.False(t, p.MustHas("[role=dialog]"), "a drag is no click")
	p.MustElementR("[role=radio]", "rounds").MustClick()
	drag(at(5, 10*60), at(5, 10*60))
	p.MustElement("#plan-5-rounds-600")
	p.Click("Throw away")
	p.Until(`() => !document.querySelector("#plan-5-rounds-600")`)
	p.Click("Take it back")
	p.MustElement("#plan-5-rounds-600")
}

// A thing of the plan takes exact times, several at once too, and says what it
// does not understand.
func TestABlockTakesExactTimes(t *testing.T) {
	p := openDelivery(t)
	p.MustElement("#plan-2-closed-540").MustFocus()
	p.Press(input.Enter)
	p.Until(`() => document.activeElement?.value === "09:00-11:30"`)
	p.Press(input.Escape)
	p.Until(`() => document.activeElement?.id === "plan-2-closed-540"`)
	p.Press(input.Enter)
	times := p.MustElementR("[role=dialog] label", "Tuesday, closed").MustElement("input")
	times.MustSelectAllText().MustInput("9-25")
	p.Press(input.Enter)
	p.See("“25” is no time of day")
	times.MustSelectAllText().MustInput("9:20-10, 10:40-11:30")
	p.Press(input.Enter)
	p.Until(`() => document.activeElement?.id === "plan-2-closed-560"`)
	p.MustElement("#plan-2-closed-640").MustClick()
	p.MustElementR("[role=dialog] button", "Remove").MustClick()
	p.Until(`() => !document.querySelector("#plan-2-closed-640")`)
	p.See("Draft, not in force yet")
	p.Press(input.Tab) // the focus was not lost with what is gone
	p.MustElement("#plan-2-closed-560").MustClick()
	p.MustElement("[role=dialog] input").MustSelectAllText().MustInput("9-11:30")
	p.Press(input.Enter)
	p.SeeNot("Draft, not in force yet") // it is as it was
}

func TestDaysThatAreExceptions(t *testing.T) {
	p := openDelivery(t)
	p.MustElement(`[aria-label^="Wed 25"]`).MustFocus()
	p.Press(input.Enter)
	p.Until(`() => document.activeElement?.textContent === "Add a round"`)
	p.Press(input.End)
	p.Until(`() => document.activeElement?.textContent === "Take 25 Nov off"`)
	p.Press(input.Enter)
	p.See("Draft, not in force yet")
	p.MustElement(`[aria-label*="an exception: day off quiet all day"]`)
	p.MustElementR("summary", "As text.*1 day is one").MustClick()
	list := p.MustElement(`[aria-label="Days that are exceptions"]`)
	list.MustElement("input[type=date]").MustInputTime(time.Date(2026, 12, 23, 0, 0, 0, 0, time.UTC))
	list.MustElement(`[aria-label="What it is"]`).MustInput("Guides’ day")
	list.MustElement("select").MustSelect("with its own times")
	own := list.MustElement(`[aria-label="Its own times"]`)
	own.MustInput("9-11")
	p.Press(input.Enter)
	p.See("say what 9-11 is")
	own.MustSelectAllText().MustInput("12:00; closed 9-11")
	p.Press(input.Enter)
	p.See("Wed 23 Dec 2026, Guides’ day")
	p.Until(`() => document.activeElement?.closest("[aria-label='Days that are exceptions']") !== null`) // the focus stays in the form
	p.Click("Put in force")
	p.See("Delivery plan changed")
	p.MustReload()
	p.MustElementR("summary", "As text.*2 days are").MustClick()
	p.Until(`() => /2026-11-25 “day off” quiet\n2026-12-23 “Guides’ day” 12:00; closed 9:00-11:00/.test(document.querySelector("textarea").value)`)
	p.See("Thu 26 Nov, 08:30") // nothing comes tomorrow
}

func TestAPlanAsText(t *testing.T) {
	p := openDelivery(t)
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
	p := openDelivery(t)
	p.Click("^ ?Add$")
	p.MustElement(`select[aria-label=By]`).MustSelect("Domain")
	p.MustElement(`input[aria-label="What to let through"]`).MustInput("norrholm.example")
	p.See("letters of the past 30 days")
	p.MustElementR("form button", "^Let through$").MustClick()
	p.See("@norrholm.example")
	p.See("that wait")
	p.Click("^Let in$")
	p.See("let through: @norrholm.example")
	p.MustElementR("li button", "project: Bromeliad loan").MustClick()
	p.Until(`() => document.activeElement?.getAttribute("role") === "combobox" && document.activeElement.value === "Fri 18 Dec"`)
	p.See("letters of the past 30 days")
	p.Press(input.Backspace)
	p.Click("Change its end")
	p.Until(`() => [...document.querySelectorAll("[aria-label='Let through at any time'] li")].some((li) => li.textContent === "project: Bromeliad loan")`)
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.See("Let through")
}

// What is counted stands in the title of a page that nobody looks at, in all
// pages of the browser, until one of them is looked at.
func TestWhatCameIsCounted(t *testing.T) {
	p := openDelivery(t)
	p.Until(`() => /^(Delivery · )?Ebbe$/.test(document.title)`)
	p.MustElement(`[aria-label="Rounds: counted in the page’s title and icon"]`).MustClick()
	p.Until(`() => document.querySelector("[aria-label^='Rounds: counted']").checked`)
	p.MustEval(`() => { document.hasFocus = () => false }`)
	p.Click("10 min")
	p.Until(`() => /^1 new · (Delivery · )?Ebbe$/.test(document.title) && document.querySelector("link[rel=icon]").href.startsWith("data:")`)
	p.MustElementR("label", "The inbox’s number").MustClick()
	p.Until(`() => /^1 new · \d+ · (Delivery · )?Ebbe$/.test(document.title)`)
	p.MustEval(`() => { delete document.hasFocus; dispatchEvent(new Event("focus")) }`)
	p.Until(`() => /^\d+ · (Delivery · )?Ebbe$/.test(document.title)`)
	other := browser.Page{Page: p.Browser().MustPage(p.MustInfo().URL)}
	other.Until(`() => /^\d+ · (Delivery · )?Ebbe$/.test(document.title)`)
	p.MustEval(`() => localStorage.setItem("ebbe.1.unseen", '["round:1"]')`)
	other.Until(`() => localStorage.getItem("ebbe.1.unseen") === "[]"`) // it shows what the first one counted
}

// openDelivery serves the demo world with its plan, and opens the view of it.
func openDelivery(t *testing.T) browser.Page {
	t.Helper()
	e := servePlanned(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/delivery").MustWaitLoad()
	p.MustElement(`[aria-label="The week’s plan"]`)
	return p
}
