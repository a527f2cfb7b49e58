package e2e

import (
	"context"
	"crypto/rand"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// A kind is told when to come up, by keys; it does, above the inbox, and is passed over by one key and
// fetched again by undo.
func TestAKindComesUpAboveTheInbox(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'l')
	p.See("nothing here counts for zero")
	p.Click("What is sorted out")
	p.MustElement("[aria-label='When Reading comes up by itself']").MustFocus()
	p.Type("tue 8:2x")
	p.Press(input.Enter)
	p.See("is no time of day")
	p.MustElement("[aria-label='When Reading comes up by itself']").MustSelectAllText()
	p.Type("tue 8:21")
	p.Press(input.Enter)
	p.See("Reading comes up tue 8:21")
	assert.Empty(t, offences(p))
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	_, err := e.app.LetIn(context.Background(), store.Own(1), rand.Text(), 0, true)
	require.NoError(t, err)
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.Click(`\+10 min`)
	p.See("Reading came up")
	page, err := e.app.List(context.Background(), store.Own(1), decide.Inbox, false, 0, "")
	require.NoError(t, err)
	inbox := 0
	for _, r := range page.Rows {
		if r.Group.Kind == "" {
			inbox++
		}
	}
	assert.Less(t, inbox, len(page.Rows))
	assert.Equal(t, inbox, e.inbox(), "it counts nowhere")
	assert.Empty(t, offences(p))
	p.Press(input.Home)
	p.Until(`() => document.querySelector('[role=option]').id === document.querySelector('[role=listbox]').getAttribute('aria-activedescendant')`)
	p.Press('d')
	p.SeeNot("Reading came up")
	p.See("Passed over until its next round: reading")
	p.Press('u')
	p.See("Reading came up")
}

// What was sorted as it came is in the Journal, and put right there for one letter or its sender.
func TestWhatWasSortedIsPutRightInTheJournal(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	before := e.inbox()
	p.MustNavigate(e.url + "/journal").MustWaitLoad()
	p.MustElement("[aria-label='Find in the Journal']").MustFocus()
	p.Type("sorted out")
	p.See("Sorted out: ")
	p.Timeout(browser.Wait).MustElementR("button", "^Letters$").MustClick()
	p.Until(`() => document.activeElement.getAttribute('role') === 'option'`)
	n := p.MustEval(`() => document.querySelectorAll('[role=dialog] [role=option]').length`).Int()
	assert.Empty(t, offences(p))
	p.Press('1')
	p.See("To the inbox: ")
	p.Until(`(n) => document.querySelectorAll('[role=dialog] [role=option]').length < n`, n)
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Sent()
	assert.Equal(t, before+1, e.inbox())
	p.Press('u')
	p.See("Undone: To the inbox")
	p.Sent()
	assert.Equal(t, before, e.inbox())
}

// What is found, and what lies in the Shallows, is grouped and decided on as anything.
func TestWhatIsFoundIsDecidedOnInGroups(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustNavigate(e.url + "/search?q=bergflora").MustWaitLoad()
	p.MustElement("[role=option]")
	p.Click("As they came")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "By sender").MustClick()
	p.Until(`() => document.querySelector('[data-grouped][aria-current]')?.innerText.includes('Bergflora Society')`)
	assert.Empty(t, offences(p))
	p.See("from Bergflora Society")
	p.Press('2')
	p.Sent()
	rows, err := e.app.List(context.Background(), store.Own(1), decide.Shallows, false, 0, "")
	require.NoError(t, err)
	for _, r := range rows.Rows {
		assert.NotEqual(t, "Bergflora Society", r.From.Name)
	}
	p.Press('u')
	p.Sent()
	p.Press('v', 'l')
	p.See("nothing here counts for zero")
	p.Click("By kind")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "By domain").MustClick()
	p.MustElement("[data-grouped][aria-current]")
	p.Until(`() => document.body.innerText.includes('@bergflora.example')`)
	assert.Empty(t, offences(p))
	p.Click("By domain")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "By kind").MustClick()
	p.See("nothing here counts for zero")
}

// A line is dragged to another kind, which is a correction as by its key.
func TestALineIsDraggedToAnotherKind(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'l')
	p.See("nothing here counts for zero")
	middle := func(selector, text string) proto.Point {
		return *p.Timeout(browser.Wait).MustElementR(selector, text).MustShape().OnePointInside()
	}
	p.Mouse.MustMoveTo(middle("[data-shallow]", "Bergflora Society").X, middle("[data-shallow]", "Bergflora Society").Y)
	p.Mouse.MustDown("left")
	to := middle("nav[aria-label=Kinds] button", "Notices")
	require.NoError(t, p.Mouse.MoveLinear(to, 5))
	p.Until(`() => document.querySelector('nav[aria-label=Kinds]').innerText.includes('To the inbox')`)
	to = middle("nav[aria-label=Kinds] button", "Notices")
	require.NoError(t, p.Mouse.MoveLinear(to, 5))
	p.Mouse.MustUp("left")
	p.See("To notices")
	p.Press('u')
	p.See("Undone: To notices")
}

// Junk is learned once one says so; how much it was learned from is said.
func TestJunkIsLearnedByASwitch(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'j')
	p.See("Put here by itself what is like what you put here")
	p.MustElement("main input[type=checkbox]").MustFocus()
	p.Press(' ')
	p.See("Junk is learned from what you put there")
	require.NoError(t, e.app.LearnJunk(context.Background()))
	p.See("that are none; only where it is surer than 99 %")
	assert.Empty(t, offences(p))
	p.Press(' ')
	p.See("Junk is no longer learned")
}
