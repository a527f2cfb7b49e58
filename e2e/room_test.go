package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// At 200 and 400 % of a common screen, and on a phone either way up, every view
// has room for what one does there, nothing runs off to the side, and nothing
// that acts is covered (WCAG 2.2, 1.4.4 and 1.4.10).
func TestRoomAtEverySize(t *testing.T) {
	e := serve(t)
	for _, size := range []browser.Size{{Width: 640, Height: 400}, {Width: 320, Height: 200}, {Width: 390, Height: 844}, {Width: 844, Height: 390}} {
		t.Run(fmt.Sprintf("%dx%d", size.Width, size.Height), func(t *testing.T) {
			p := e.open(size, false)
			for _, path := range []string{"/shallows", "/follow-ups", "/work", "/waiting", "/ahead", "/archive", "/search?q=crate", "/journal", "/drafts", "/files", "/templates", "/routines", "/rules", "/backlog", "/day-sheet", "/day-sheet?of=month", "/labels", "/people?of=bram@oosterhuis-freight.example", "/attached", "/accounts", "/times", "/delivery", "/inbox"} {
				p.MustNavigate(e.url + path).MustWaitLoad()
				p.MustElement("main")
				p.Quiet()
				wide := p.MustEval(`() => document.documentElement.scrollWidth`).Int()
				assert.LessOrEqual(t, wide, size.Width, "%s runs off to the side", path)
			}
			p.MustElement("[role=option]")
			assert.GreaterOrEqual(t, p.MustEval(`() => document.querySelector('[role=listbox]').clientHeight`).Int(), 120, "the list")
			p.Press('1')
			p.MustElement("textarea[aria-label=Text]")
			assert.GreaterOrEqual(t, p.MustEval(`() => document.querySelector('textarea[aria-label=Text]').clientHeight`).Int(), 60, "the text")
			p.MustElement("details summary").MustEval(`() => this.parentElement.open = true`)
			assert.True(t, p.MustEval(`() => {
				const send = document.querySelector('[aria-label=Sending] button[type=submit]')
				send.scrollIntoView({ block: 'center' })
				const r = send.getBoundingClientRect()
				return send.contains(document.elementFromPoint(r.left + r.width / 2, r.top + r.height / 2))
			}`).Bool(), "Send is in sight and not covered")
		})
	}
}

// At 400 % of a common screen and on a phone rules, routines and sittings are made with everything in reach:
// nothing runs off to the side, and what keeps or begins them is not covered.
func TestRoomForWhatIsMade(t *testing.T) {
	e := serve(t)
	for _, size := range []browser.Size{{Width: 320, Height: 200}, browser.Phone} {
		t.Run(fmt.Sprintf("%dx%d", size.Width, size.Height), func(t *testing.T) {
			p := e.open(size, false)
			reach := func(button string) {
				t.Helper()
				p.Quiet()
				assert.LessOrEqual(t, p.MustEval(`() => document.documentElement.scrollWidth`).Int(), size.Width, "it runs off to the side")
				covered := p.Timeout(browser.Wait).MustElementR("button", button).MustEval(`() => {
					this.scrollIntoView({ block: 'center' })
					const r = this.getBoundingClientRect()
					const at = document.elementFromPoint(r.left + r.width / 2, r.top + r.height / 2)
					return this.contains(at) && r.left >= 0 && r.right <= innerWidth ? '' : at?.outerHTML.slice(0, 200) ?? 'outside'
				}`).Str()
				assert.Empty(t, covered, "%s is covered", button)
			}
			choose := func(label, option string) {
				p.Timeout(browser.Wait).MustElementR("button", label).MustFocus()
				p.Press(input.Enter)
				p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", option).MustClick()
			}
			p.MustNavigate(e.url + "/rules").MustWaitLoad()
			p.Click("New rule")
			p.MustElement("[aria-label='Value of “It meets all of these”, 1']").MustFocus()
			p.Type("bram")
			p.See("In the last 60 days")
			reach("Keep the rule")
			p.MustNavigate(e.url + "/routines").MustWaitLoad()
			p.Click("New routine")
			p.MustElement("[aria-label=Name]")
			choose(`Step 1:\s*Label`, "Write a letter")
			choose("Group of step 1", "guides")
			reach("Keep the routine")
			p.MustNavigate(e.url + "/inbox").MustWaitLoad()
			p.MustElement("[role=option]")
			p.KeyActions().Press(input.ShiftLeft).Type('S').MustDo()
			p.MustElement("[role=dialog]")
			reach("^Begin")
		})
	}
}

// The bars leave the room to letters: on a phone the list begins within 150 px,
// and who wants more rows has twelve of them at 1280x800.
func TestBarsLeaveRoomForLetters(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, false)
	p.MustElement("[role=option]")
	p.Quiet()
	assert.LessOrEqual(t, p.MustEval(`() => document.querySelector('[role=listbox]').getBoundingClientRect().top`).Num(), 150.0)

	p = e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustElement("button[aria-label*='look, keys']").MustClick()
	p.MustElementR("[role=menuitemcheckbox]", "More rows in lists").MustClick()
	p.Until(`() => document.documentElement.dataset.density === 'compact'`)
	p.Quiet()
	rows := p.MustEval(`() => {
		const list = document.querySelector('[role=listbox]').getBoundingClientRect()
		return [...document.querySelectorAll('[role=option]')].filter((r) => r.getBoundingClientRect().bottom <= list.bottom).length
	}`).Int()
	assert.GreaterOrEqual(t, rows, 12)
}
