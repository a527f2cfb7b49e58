package e2e

import (
	"strconv"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// A sitting by keys alone: begun, decided, skipped, undone, answered in place; it outlives the page,
// and ends in its account.
func TestASittingByKeys(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('S').MustDo()
	p.See("How long")
	assert.Empty(t, offences(p))
	p.Press('3', input.Enter)
	left := func(words string) {
		t.Helper()
		p.Until(`words => document.querySelector('[data-left]')?.textContent.includes(words)`, words)
	}
	n := e.inbox()
	left(strconv.Itoa(n) + " left of " + strconv.Itoa(n))
	title := func() string { return p.MustElement("section[aria-label=Letter] h1").MustText() }
	shown := func(not string) string {
		t.Helper()
		p.Until(`not => { const h = document.querySelector('section[aria-label=Letter] h1'); return h && h.textContent !== not }`, not)
		return title()
	}
	first := shown("")
	assert.Empty(t, offences(p))
	p.Press('2')
	left(strconv.Itoa(n-1) + " left")
	second := shown(first)
	p.See("Done with")
	p.Press('j')
	third := shown(second)
	p.MustReload()
	left(strconv.Itoa(n-1) + " left")
	assert.Equal(t, third, shown(""), "it goes on where it was")
	p.Press('u') // the skip
	p.Until(`title => document.querySelector('section[aria-label=Letter] h1')?.textContent === title`, second)
	p.Press('1')
	p.MustElement("[data-writing]")
	p.Type("Thank you.")
	p.Until(`() => JSON.parse(localStorage.getItem('ebbe.1.sitting-ring-of'))?.stopped > 0`)
	p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
	left(strconv.Itoa(n-2) + " left")
	p.Press(input.Escape)
	p.See("2 decided")
	p.See("1 answered, 1 done with")
	assert.Empty(t, offences(p))
	p.Press('u')
	left(strconv.Itoa(n-2) + " left") // it was not meant to end
	p.Press(input.Escape)
	p.See("2 decided")
	p.Press(input.Escape)
	p.MustElement("[role=option]")
}

// One sitting in two pages: what one of them decides is out of the heap of the other, and it ends in both.
func TestASittingInTwoPages(t *testing.T) {
	e := serve(t)
	p, q := e.open(browser.Desk, false), e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('S').MustDo()
	p.See("How long")
	p.Press('3', input.Enter)
	left := func(of browser.Page, n int) {
		t.Helper()
		of.Until(`words => document.querySelector('[data-left]')?.textContent.includes(words)`, strconv.Itoa(n)+" left")
	}
	n := e.inbox()
	left(p, n)
	q.MustNavigate(e.url + "/sitting")
	left(q, n)
	title := func(of browser.Page) string { return of.MustElement("section[aria-label=Letter] h1").MustText() }
	first := title(p)
	assert.Equal(t, first, title(q))
	p.Press('2')
	left(p, n-1)
	left(q, n-1)
	gone := `first => document.querySelector('section[aria-label=Letter] h1')?.textContent !== first`
	q.Until(gone, first)
	second := title(q)
	q.Press('2')
	left(q, n-2)
	left(p, n-2)
	p.Until(gone, second)
	p.Press(input.Escape)
	p.See("2 decided")
	q.See("2 decided")
}
