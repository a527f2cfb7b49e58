// Package browser drives the real interface in headless Chromium, for the
// tests and for the pictures in the docs.
package browser

import (
	"fmt"
	"os"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

// Wait is the longest that anything in the page is waited for, and Whole the longest
// that a page is driven: both far beyond what a busy machine needs.
const (
	Wait  = 45 * time.Second
	Whole = 5 * time.Minute
)

// Launch starts a browser; close it with MustClose. It uses Debian's
// Chromium, or the one that EBBE_CHROMIUM names.
func Launch() *rod.Browser {
	path := os.Getenv("EBBE_CHROMIUM")
	if path == "" {
		path = "/usr/bin/chromium"
	}
	url := launcher.New().Bin(path).Headless(true).NoSandbox(true).Set("disable-gpu").Set("font-render-hinting", "none").MustLaunch()
	return rod.New().ControlURL(url).MustConnect()
}

// Size is the size of the window, and whether it is touched rather than
// pointed at.
type Size struct {
	Width, Height int
	Touch         bool
}

// The sizes that every screen is looked at in.
var (
	Desk  = Size{1280, 800, false}
	Phone = Size{390, 844, true}
)

// Page is one page of the interface.
type Page struct {
	*rod.Page
	// Fail ends what drives the page, with the reason; it must not return.
	Fail func(why any)
}

// Open opens an address in a browser profile of its own, for as long as a test may take.
func Open(b *rod.Browser, url string, size Size, night bool) Page {
	return OpenFor(Whole, b, url, size, night)
}

// OpenFor is the same for whoever takes longer.
func OpenFor(whole time.Duration, b *rod.Browser, url string, size Size, night bool) Page {
	b = b.Timeout(whole) // not of the page: its keyboard and mouse would wait for ever
	page := b.MustIncognito().MustPage()
	page.MustSetViewport(size.Width, size.Height, 1, size.Touch)
	scheme := "light"
	if night {
		scheme = "dark"
	}
	_ = proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-color-scheme", Value: scheme}}}.Call(page)
	p := Page{page, func(why any) { panic(why) }}
	p.MustNavigate(url).MustWaitLoad()
	return p
}

// Enter enters the demo as its person and waits for the inbox with its letters: a key that is
// pressed before they are there has nothing to act on.
func (p Page) Enter() Page {
	p.Until(`() => document.activeElement?.textContent?.startsWith("Enter as")`)
	p.Press(input.Enter)
	p.MustElement(`nav[aria-label=Views]`)
	p.MustElement(`[aria-label="Day line"] svg`)
	p.Until(`() => document.querySelector('main') !== null && document.querySelector('[aria-label="Reading the list"]') === null`)
	return p
}

// MustElement waits for an element, no longer than for anything else, and says which
// one it waited for. What is done with the element afterwards has the page's own time.
func (p Page) MustElement(selector string) *rod.Element {
	found, err := p.Timeout(Wait).Element(selector)
	if err != nil {
		p.Fail(fmt.Sprintf("no %s (%v); the page ends: %s", selector, err, p.text()))
	}
	return found.Context(p.GetContext())
}

// text is what the page ends with, for what failed in it.
func (p Page) text() string {
	return p.MustEval(`() => document.body.innerText.slice(-3000)`).Str()
}

// See waits until a text can be seen in the page.
func (p Page) See(text string) {
	err := p.Timeout(Wait).Wait(rod.Eval(`(text) => document.body.innerText.toLowerCase().includes(text.toLowerCase())`, text))
	if err != nil {
		p.Fail(fmt.Sprintf("%q is not to be seen (%v); the page ends: %s", text, err, p.text()))
	}
}

// SeeNot waits until a text can no longer be seen.
func (p Page) SeeNot(text string) {
	p.Timeout(Wait).MustWait(`(text) => !document.body.innerText.toLowerCase().includes(text.toLowerCase())`, text)
}

// Press presses keys, one after the other.
func (p Page) Press(keys ...input.Key) {
	for _, k := range keys {
		p.Keyboard.MustType(k)
	}
}

// Type types a text into whatever has the focus.
func (p Page) Type(text string) { p.MustInsertText(text) }

// Until waits until an expression of the page is true.
func (p Page) Until(js string, args ...any) { p.Timeout(Wait).MustWait(js, args...) }

// Sent waits until the server has all that was done in this page.
func (p Page) Sent() {
	p.Until(`() => !Object.keys(localStorage).some((k) => k.includes('.queue.'))`)
}

// Letter is the page of a letter's own in its frame, once it has been read: until then
// another stands there.
func (p Page) Letter() *rod.Page {
	const frame = `iframe[title^='Text of the letter']`
	p.Until(`(frame) => { const page = document.querySelector(frame)?.contentDocument; return page && page.URL.includes('/page') && page.readyState === 'complete' }`, frame)
	return p.MustElement(frame).MustFrame()
}

// Click presses the first button or link with a text.
func (p Page) Click(text string) {
	p.Timeout(Wait).MustElementR("button, a, [role=menuitem], [role=option]", text).MustClick()
}

// Quiet waits until nothing in the page moves or loads.
func (p Page) Quiet() Page {
	p.Timeout(Wait).MustWait(`() => document.querySelectorAll('[aria-busy=true], [aria-busy=""]').length === 0 && document.fonts.status === 'loaded' &&
		!document.getAnimations().some((a) => a.playState === 'running' && a.effect?.getTiming().iterations !== Infinity)`)
	// A page without a next frame may not be called idle for as long as a minute, and one
	// behind another has none.
	p.Timeout(Wait).MustEval(`() => new Promise((done) => {
		const idle = () => requestIdleCallback(() => done(), { timeout: 1000 })
		requestAnimationFrame(idle)
		setTimeout(idle, 500)
	})`)
	return p
}
