package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// The private account is connected by keys; what fails is said in words. Then what is done
// on the phone is done here, and what is done here is on the phone.
func TestConnectingAnAccount(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/accounts").MustWaitLoad()
	const server = "section[aria-label='ines@halvorsen.example'] [aria-label='Mail server']"
	p.MustElement(server + " button").MustFocus()
	p.Press(input.Enter)
	p.See("These servers were found by its domain")
	p.Until(`() => document.activeElement?.type === "password"`)
	p.Type("wrong")
	p.MustElement("form input[type=checkbox]").MustFocus()
	p.Press(input.Space)
	p.MustElement("form input[type=password]").MustFocus()
	p.Press(input.Enter)
	p.See("refused the name or the password")
	p.See("✓ works")
	p.MustElement("form input[type=password]").MustSelectAllText().MustInput("lantern")
	p.Press(input.Enter)
	p.See("and Ebbe are alike")
	p.SeeNot("Password, or app password")

	p.Click("The phone")
	p.See("Another program on the mail server")
	subject := p.MustElement("aside[aria-label='The phone'] li .truncate").MustText()
	p.MustElement("aside[aria-label='The phone'] li button[aria-haspopup=menu]").MustClick()
	p.Timeout(browser.Wait).MustElementR("[role=menuitem]", "^Archive$").MustClick()
	p.Until(`(subject) => document.querySelector("aside[aria-label='The phone'] li .truncate")?.innerText !== subject`, subject)
	p.MustNavigate(e.url + "/journal").MustWaitLoad()
	p.See("Archived elsewhere: “" + subject)
	p.See("elsewhere")
	p.MustNavigate(e.url + "/accounts").MustWaitLoad()
	p.MustElementR(server+" button", "Pause").MustClick()
	p.See("is left alone")
	p.MustElementR(server+" button", "Go on").MustClick()
	p.See("and Ebbe are alike")
	p.MustElementR(server+" button", "Disconnect").MustClick()
	p.See("All letters stay, here and there")
	p.MustElementR(server+" button", "^Disconnect$").MustClick()
	p.See("Not connected with a mail server")
	assert.NotContains(t, p.MustEval(`() => JSON.stringify(localStorage)`).Str(), "lantern", "a password is kept in no page")
}

// Somebody signs in where their mail is instead of giving a password, by keys; who refuses is
// told so and can begin anew. Labels and what is held are told to the server from then on.
func TestSigningInForAnAccount(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	const server = "section[aria-label='ines@halvorsen.example'] [aria-label='Mail server']"
	begin := func() {
		p.MustNavigate(e.url + "/accounts").MustWaitLoad()
		p.MustElement(server + " button").MustFocus()
		p.Press(input.Enter)
		p.See("Or sign in at Somebody’s mail")
		p.MustElementR(server+" button", "Sign in at").MustFocus()
		p.Press(input.Enter)
		p.See("Let Ebbe read and send the letters of ines@halvorsen.example?")
		p.Until(`() => document.activeElement?.textContent === 'Allow'`)
	}
	begin()
	p.Click("Refuse")
	p.See("Ebbe was not allowed to read the letters")
	p.Press(input.Enter)
	p.MustElementR("h1", "Accounts")

	begin()
	p.Press(input.Enter)
	p.See("and Ebbe are alike")
	p.Until(`() => location.pathname === '/accounts' && location.search === ''`)

	holds := p.MustElement(server + " input[type=checkbox]")
	holds.MustFocus()
	p.Press(input.Space)
	p.Until(`(box) => document.querySelector(box).checked`, server+" input[type=checkbox]")
	p.Until(`() => !document.querySelector('[aria-busy=true]')`)
	p.MustReload().MustWaitLoad()
	p.Until(`(box) => document.querySelector(box)?.checked`, server+" input[type=checkbox]")
}
