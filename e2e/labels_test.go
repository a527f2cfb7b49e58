package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// A label gets a colour, which its letters show, and another name, under which they are found; both are undone.
func TestLabelsAsViews(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'm')
	p.MustElement("li[aria-label=loans]")
	assert.Empty(t, offences(p))
	p.MustElement("select[aria-label='Colour of loans']").MustSelect("violet")
	p.MustElement("select[aria-label='Shape of loans']")
	p.Sent()
	p.MustElement("button[aria-label='Rename loans']").MustClick()
	p.MustElement("input[aria-label='Name of loans']").MustSelectAllText().MustInput("lent/2026")
	p.Press(input.Enter)
	p.MustElement("li[aria-label='lent/2026']")
	p.Sent()
	assert.Empty(t, offences(p))
	p.MustElementR("li[aria-label='lent/2026'] a", "2026").MustClick()
	p.MustElement("[role=option]")
	p.Until(`() => [...document.querySelectorAll('[role=option] .chip')].some((c) => c.textContent === 'lent/2026' && c.querySelector('svg'))`)
	p.Press('v', 'm')
	p.MustElement("li[aria-label='lent/2026']")
	p.Quiet()
	p.Press('u')
	p.MustElement("li[aria-label=loans]")
}
