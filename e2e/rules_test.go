package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// A rule is begun with the letter in sight, says what it would have done while it is made, acts on what
// comes, and what it did is taken back.
func TestARuleByKeys(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'g')
	p.See("Parcels on their way")
	assert.Empty(t, offences(p))
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('R').MustDo()
	p.See("In the last 60 days")
	from := *p.MustElement("[aria-label='Value of “It meets all of these”, 1']").MustAttribute("value")
	assert.Contains(t, from, "@")
	p.MustElement("[aria-label=Name]").MustFocus()
	p.Type("Friends")
	p.MustElement("[aria-label='Label of step 1']").MustFocus()
	p.Type("friends")
	p.See("each: label friends")
	assert.Empty(t, offences(p))
	p.Click("Keep the rule")
	p.See("New rule “Friends”")
	p.See("What it did")
	_, err := e.app.Hold(t.Context(), store.Own(1), "hold-for-rules", app.Holding{})
	require.NoError(t, err)
	e.comes("From: " + from + "\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\nSubject: Tea on Friday\r\nMessage-ID: <tea@x.example>\r\n\r\nAt four?\r\n")
	p.See("Acted on 1 letter in 60 days")
	p.Click("Acted on 1 letter")
	p.See("Rule “Friends”: label friends: “Tea on Friday”")
	assert.Empty(t, offences(p))
	p.MustElement("[aria-label='Undo for “Tea on Friday”']").MustFocus()
	p.Press(input.Enter)
	p.See("(undone)")
	p.MustElement("li[aria-label=Friends] [role=switch]").MustFocus()
	p.Press(input.Space)
	p.See("Rule “Friends” off")
	small := e.open(browser.Phone, true)
	small.MustNavigate(e.url + "/rules")
	small.See("Friends")
	assert.Empty(t, offences(small))
}
