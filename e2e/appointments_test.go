package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"

	"ebbe.example/ebbe/e2e/browser"
)

// An appointment is made from a letter, stands on the day line and in Ahead,
// is called off, and taken back.
func TestAnAppointment(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('a')
	p.See("New appointment")
	p.MustElementR("[role=dialog] label", "^What").MustElement("input").MustSelectAllText().MustInput("Gate with Bram")
	p.Press(input.Tab)
	p.Type("today 15:30 to 16:30")
	p.Until(`() => document.querySelector('[role=dialog]').innerText.includes('15:30 to 16:30')`)
	p.Press(input.Enter)
	p.See("New appointment “Gate with Bram” today 15:30")
	p.MustElement(`button[aria-label^="15:30 to 16:30: appointment, Gate with Bram"]`).MustClick()
	p.See("Call it off")
	p.Click("Call it off")
	p.See("Called off “Gate with Bram”")
	p.Until(`() => document.querySelector('button[aria-label*="appointment, Gate with Bram"]') === null`)
	p.Press('u')
	p.MustElement(`button[aria-label*="appointment, Gate with Bram"]`)

	// An entry that was looked at is no list: what is cancelled in Ahead and taken back stands there again.
	goTo(p, e.url+"/inbox")
	p.MustElement(`button[aria-label*="appointment, Gate with Bram"]`).MustClick()
	p.See("Call it off")
	p.Press(input.Escape)
	p.Quiet()
	p.Press('v', 'a')
	p.MustElement("main [data-entry]")
	first := inFocus(p)
	p.Press('7')
	p.Until(`(id) => document.getElementById(id) === null`, first)
	p.Sent()
	p.Press('u')
	p.Sent()
	p.Until(hasRow, first)
	down(t, p, "Gate with Bram")
}
