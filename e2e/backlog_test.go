package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// A backlog is gone through by keys: its heaps, their letters, a decision on all of one, and back.
func TestABacklogByKeys(t *testing.T) {
	e := serve(t)
	for n := range 12 {
		e.comes(fmt.Sprintf("From: Moss Post <post@moss.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\nSubject: Number %d\r\nMessage-ID: <%d@moss.example>\r\n\r\nAs each week.\r\n", n, n))
	}
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	before := e.inbox()
	p.Press('v', 'h')
	p.See("From Moss Post")
	p.See("left for you")
	assert.Empty(t, offences(p))
	p.Press(input.Space)
	p.See("Number 11")
	assert.Empty(t, offences(p))
	p.Click("^A day$")
	p.See("at this pace cleared by")
	p.MustEval(`() => document.activeElement.blur()`)
	p.Press(input.Enter)
	p.See("Done with 12 letters")
	assert.Equal(t, before-12, e.inbox())
	p.See("today 12 of")
	assert.Empty(t, offences(p))
	p.Press('u')
	p.See("From Moss Post")
	assert.Equal(t, before, e.inbox())
	p.Click("No plan")
	p.See("Take a share each working day")
	small := e.open(browser.Phone, true)
	small.MustNavigate(e.url + "/backlog").MustWaitLoad()
	small.See("From Moss Post")
	assert.Empty(t, offences(small))
}
