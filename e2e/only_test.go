package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// Any list is narrowed by keys, several at once, and is whole again.
func TestOnlySomeOfAList(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('O').MustDo()
	p.Until(`() => document.activeElement?.innerText?.startsWith('unread')`)
	p.Press('a')
	p.Until(`() => new URL(location).searchParams.get('q') === 'mark:asks' && new URL(location).searchParams.get('within') === 'at:inbox'`)
	p.Press('t')
	p.Until(`() => new URL(location).searchParams.get('q') === 'mark:asks with:file'`)
	p.Until(`() => document.querySelectorAll('[role=dialog] [aria-pressed=true]').length === 2`)
	assert.Empty(t, offences(p))
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Until(`() => document.querySelectorAll('[role=option]').length === 4`)
	p.Quiet()
	p.KeyActions().Press(input.ShiftLeft).Type('O').MustDo()
	p.Until(`() => document.querySelectorAll('[role=dialog] [aria-pressed=true]').length === 2`)
	p.Press('a')
	p.Until(`() => new URL(location).searchParams.get('q') === 'with:file'`)
	p.Click("All again")
	p.Until(`() => location.pathname === '/inbox'`)
	p.Until(`() => document.querySelectorAll('[role=dialog] [aria-pressed=true]').length === 0`)
}

// What is written, waited for, put off or tracked is narrowed as lists are: within its own letters.
func TestOnlySomeOfWhatIsNoPlace(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	for path, within := range map[string]string{"/sent": "at:sent", "/waiting": "mark:waits", "/ahead": "at:later", "/follow-ups": "mark:tracked"} {
		p.MustNavigate(e.url + path).MustWaitLoad()
		p.Until(`() => document.querySelector('main') && document.querySelectorAll('[aria-busy]').length === 0`)
		p.KeyActions().Press(input.ShiftLeft).Type('O').MustDo()
		p.MustElement("[role=dialog] [aria-pressed]")
		p.Press('p')
		p.Until(`within => { const q = new URL(location).searchParams; return q.get('q') === 'kind:person' && q.get('within') === within }`, within)
		if path == "/sent" { // one's own letters are of no kind
			p.See("Nothing found")
			p.Press('p')
			p.Until(`() => location.pathname === '/sent'`)
			continue
		}
		p.Until(`() => document.querySelector('main [role=option]') !== null`)
		assert.Empty(t, offences(p), path)
	}
}
