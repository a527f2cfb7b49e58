package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// lineAt is the line of the Shallows in focus.
const lineAt = `() => document.querySelector('[data-shallow][aria-current]')?.innerText ?? ''`

// moveTo moves the focus in the Shallows until it is on a line with a text.
func moveTo(t *testing.T, p browser.Page, text string) {
	t.Helper()
	p.Press(input.Home)
	for range 40 {
		if at := p.MustEval(lineAt).Str(); strings.Contains(at, text) {
			return
		}
		was := p.MustEval(lineAt).Str()
		p.Press('j')
		p.Until(`(was) => (document.querySelector('[data-shallow][aria-current]')?.innerText ?? '') !== was`, was)
	}
	assert.Fail(t, "no such line", text)
}

func TestAKindIsClearedByOneKey(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('v', 'l')
	p.See("nothing here counts for zero")
	moveTo(t, p, "Meetings")
	p.See("2 letters")
	p.Press('2')
	p.SeeNot("Accepted: Guides’ rota")
	p.See("Done")
	p.Press('u')
	p.See("Accepted: Guides’ rota")
}

// A source is unfolded, read, put right, and that taken back: by the keyboard alone.
func TestASourceIsPutRight(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('v', 'l')
	p.See("sources")
	moveTo(t, p, "Bergflora Society")
	p.Press(' ')
	p.Until(`() => document.querySelector('[data-shallow] [aria-expanded=true]') !== null`)
	p.Press('j', ' ')
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	p.Press('y')
	p.See("it came by a list")
	p.See("the whole list")
	p.Press('3')
	p.See("To notices")
	p.See("3 more conversations moved")
	p.Press('u')
	p.See("Undone: To notices")
	moveTo(t, p, "Bergflora Society")
	p.Press('b')
	p.See("To the inbox")
	p.SeeNot("Bergflora Society")
	p.MustElementR("button", "What is sorted out").MustClick()
	p.See("list@bergflora.example")
	p.Press(input.Escape)
}

func TestToReading(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
	title := p.MustElement("section[aria-label=Letter] h1").MustText()
	p.Press('r')
	p.See("To reading")
	p.Press('v', 'l')
	p.See("you put it here")
	p.See(title)
	p.Press('u')
	p.SeeNot(title)
}

func TestTheShallowsOnAPhone(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, false)
	p.MustNavigate(e.url + "/shallows").MustWaitLoad()
	p.See("Hardware on the quay")
	p.Timeout(browser.Wait).MustElementR("[data-shallow]", "Hardware on the quay").MustClick()
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1') !== null`)
}
