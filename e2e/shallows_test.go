package e2e

import (
	"context"
	"crypto/rand"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/store"
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

// Lists are left and senders turned away by keys, from one letter and in a clearing session.
func TestListsAreLeftAndTurnedAway(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Click("Send a letter in")
	p.Click("of three lists that can be left")
	p.See("new of Moss & Lichen")
	_, err := e.app.LetIn(context.Background(), store.Own(1), rand.Text(), 0, false)
	require.NoError(t, err)
	p.Press('v', 'l')
	p.See("nothing here counts for zero")
	on := func(name string) {
		p.Timeout(browser.Wait).MustElementR("[data-shallow]", name).MustClick()
		p.Until(`(name) => document.querySelector('[data-shallow][aria-current]')?.innerText.includes(name)`, name)
		p.Until(`(name) => document.querySelector('section[aria-label=Letter]')?.innerText.includes(name)`, name)
		p.Press('y')
		p.MustElement("[role=dialog] [aria-label='Not wanted']")
	}
	on("Moss & Lichen")
	p.See("the list is asked at once")
	assert.Empty(t, offences(p))
	p.Press('0')
	p.See("Unsubscribed from list all.moss-lichen.example")
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	on("Shelf and Bracket")
	p.Press('7')
	p.See("Turned away: offers@shelf-bracket.example; 1 conversation to the bin")
	p.Until(`() => ![...document.querySelectorAll('[data-shallow]')].some((row) => row.innerText.includes('Shelf and Bracket'))`)
	p.Sent()
	p.Press('u')
	p.Timeout(browser.Wait).MustElementR("[data-shallow]", "Shelf and Bracket")

	p.Click("Clear out senders")
	p.Until(`() => document.activeElement.getAttribute('role') === 'option'`)
	before := p.MustEval(`() => document.querySelectorAll('[role=dialog] [role=option]').length`).Int()
	assert.Empty(t, offences(p))
	p.Press('j', 'x', 'j', 'x')
	p.Until(`() => document.querySelectorAll('[role=dialog] [aria-selected=true]').length === 2`)
	p.Press('7')
	p.See("Turned away: 2 senders")
	p.Until(`(n) => document.querySelectorAll('[role=dialog] [role=option]').length === n`, before-2)
	p.Until(`() => document.activeElement.getAttribute('role') === 'option'`)
	p.Press('1')
	p.See("Never junk: list")
	p.Until(`(n) => document.querySelectorAll('[role=dialog] [role=option]').length === n`, before-3)
}
