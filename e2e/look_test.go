package e2e

import (
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

// offences are what axe holds against the page by WCAG 2.2 A and AA.
func offences(p browser.Page) string {
	axe, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	if err != nil {
		panic(err)
	}
	return p.MustEval(fmt.Sprintf(`async () => { %s
		const r = await window.axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], iframes: false })
		return r.violations.map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | ')).join('\n') }`, axe)).Str()
}

// Every view is clean to axe in both looks and both sizes, and nothing scrolls
// sideways on a phone.
func TestEveryViewIsAccessible(t *testing.T) {
	e := servePlanned(t)
	for _, size := range []browser.Size{browser.Desk, browser.Phone} {
		for _, night := range []bool{false, true} {
			p := e.open(size, night)
			for _, path := range everyView {
				p.MustNavigate(e.url + path).MustWaitLoad()
				p.MustElement(`main`)
				p.Quiet()
				assert.Empty(t, offences(p), "%s at %d, night %v", path, size.Width, night)
				wide := p.MustEval(`() => document.documentElement.scrollWidth - innerWidth`).Int()
				assert.LessOrEqual(t, wide, 0, "%s scrolls sideways at %d", path, size.Width)
			}
			require.NoError(t, p.Close())
		}
	}
}

// On a phone the queue fills the screen, a touch opens a letter, and the deck
// has keys of thumbs' size.
func TestOnAPhone(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, false)
	p.MustElement(`[role=option]`).MustTap()
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1')?.getBoundingClientRect().width > 0`)
	small := p.MustEval(`() => [...document.querySelectorAll('[role=toolbar] button')].filter((b) => { const r = b.getBoundingClientRect(); return r.width < 44 || r.height < 44 }).length`).Int()
	assert.Zero(t, small)
	p.MustElementR(`[role=toolbar] button`, "Done").MustTap()
	p.Until(`() => document.querySelector('[role=toolbar]').innerText.includes('Undo')`)
}
