package e2e

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// watched counts what React commits to the page, by the hook that it offers to tools;
// it has to stand there before React is loaded.
const watched = `
	window.commits = 0
	window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
		renderers: new Map(), supportsFiber: true, isDisabled: false, checkDCE() {}, inject: () => 1,
		onCommitFiberRoot() { window.commits++ }, onCommitFiberUnmount() {}, onPostCommitFiberRoot() {}, onScheduleFiberRoot() {},
	}`

// pressed presses a key and gives how often React committed until its effect was painted,
// two frames later.
const pressed = `(key) => new Promise((done) => {
	const before = window.commits
	document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
	requestAnimationFrame(() => requestAnimationFrame(() => done(window.commits - before)))
})`

// What makes a decision quick is that the page is made anew once or twice for it, and not
// for each part that hears of it. That is counted, which comes out the same on any
// machine.
func TestADecisionIsCommittedAFewTimes(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustEvalOnNewDocument(watched)
	for _, list := range []struct {
		path, ready, key string
		most             int
	}{
		{"/inbox", "section[aria-label=Letter] h1", "2", 2},
		{"/inbox", "section[aria-label=Letter] h1", "ArrowDown", 3}, // it is read then
		{"/archive", "section[aria-label=Letter] h1", "7", 2},
		{"/search?q=the", "section[aria-label=Letter] h1", "2", 2},
		{"/waiting", "main [aria-current=true]", "2", 4},
		{"/ahead", "main [aria-current=true]", "7", 3},
		{"/follow-ups", "main [aria-current=true]", "2", 3},
	} {
		p.MustNavigate(e.url + list.path).MustWaitLoad()
		p.Until(`(at) => document.querySelector(at) !== null`, list.ready)
		p.Quiet()
		// The least of three: what is read again in between is committed, too.
		least := math.MaxInt
		for range 3 {
			least = min(least, p.MustEval(pressed, list.key).Int())
			p.Sent()
		}
		assert.Positive(t, least, "%s at %s does something", list.key, list.path)
		assert.LessOrEqual(t, least, list.most, "%s at %s", list.key, list.path)
	}
}
