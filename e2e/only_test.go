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
