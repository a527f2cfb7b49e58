package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

// theRow finds the row in focus, in whatever list is shown, and what tells it from
// others.
const theRow = `(() => {
	const list = document.querySelector('[role=listbox]')
	const row = document.querySelector('main [aria-current=true]') ?? (list && document.getElementById(list.getAttribute('aria-activedescendant')))
	return row ? row.id || row.innerText.trim() : ''
})()`

// hasRow tells whether a list shows such a row.
const hasRow = `(row) => document.getElementById(row) !== null || [...document.querySelectorAll('[role=option]')].some((o) => o.innerText.trim() === row)`

func inFocus(p browser.Page) string { return p.MustEval(`() => ` + theRow).Str() }

// otherwise waits until another row is in focus.
func otherwise(p browser.Page, was string) string {
	p.Until(`(was) => { const now = `+theRow+`; return now !== '' && now !== was }`, was)
	return inFocus(p)
}

// goTo opens a list by its address.
func goTo(p browser.Page, url string) {
	p.MustNavigate(url).MustWaitLoad()
	p.Until(`() => ` + theRow + ` !== ''`)
	p.Quiet()
}

// Every list is moved through with the same keys; where several rows can be taken
// at once, they are selected with the same keys too.
func TestEveryListIsMovedThroughAlike(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	for _, list := range []struct {
		name, path string
		selects    bool
	}{
		{"the inbox", "/inbox", true},
		{"a place", "/archive", true},
		{"what was found", "/search?q=the", true},
		{"Ahead", "/ahead", true},
		{"the follow-ups", "/follow-ups", true},
		{"Waiting", "/waiting", false},
		{"the Journal", "/journal", false},
	} {
		goTo(p, e.url+list.path)
		moved := func(key input.Key) string {
			was := inFocus(p)
			p.Press(key)
			return otherwise(p, was)
		}
		first := inFocus(p)
		second := moved(input.ArrowDown)
		assert.Equal(t, first, moved('k'), "%s: back where it was", list.name)
		assert.Equal(t, second, moved('j'), "%s: the same way", list.name)
		moved(input.End)
		assert.Equal(t, first, moved(input.Home), list.name)

		selected := func(n string) {
			p.Until(`(n) => [...document.querySelectorAll('[role=status]')].some((s) => s.innerText.includes(n + ' selected'))`, n)
		}
		if list.selects {
			p.Press('x')
			selected("1")
			p.Press(input.Escape)
			p.SeeNot("1 selected")
			p.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown, input.ArrowDown).Release(input.ShiftLeft).MustDo()
			selected("3")
		}
		p.KeyActions().Press(input.ControlLeft).Type('a').Release(input.ControlLeft).MustDo()
		if list.selects {
			p.Until(`() => [...document.querySelectorAll('[role=status]')].some((s) => / selected/.test(s.innerText) && parseInt(s.innerText) > 3)`)
		}
		p.Press(input.Escape)
		p.Until(`() => ![...document.querySelectorAll('[role=status]')].some((s) => / selected/.test(s.innerText))`)
	}
}

// What is in focus when it leaves gives its place to what followed it, in every
// list in which something can be done with.
func TestTheNextRowTakesThePlace(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	for _, list := range []struct {
		name, path string
		leaves     input.Key
	}{
		{"the inbox", "/inbox", '2'},
		{"Ahead", "/ahead", '7'},
		{"Waiting", "/waiting", '7'},
		{"the follow-ups", "/follow-ups", '2'},
	} {
		goTo(p, e.url+list.path)
		first := inFocus(p)
		p.Press(input.ArrowDown)
		leaving := otherwise(p, first)
		p.Press(input.ArrowDown)
		following := otherwise(p, leaving)
		p.Press(input.ArrowUp)
		assert.Equal(t, leaving, otherwise(p, following), list.name)
		p.Press(list.leaves)
		assert.Equal(t, following, otherwise(p, leaving), "%s: the next one is there", list.name)
		p.Press('u')
		p.Until(`(id) => document.getElementById(id) !== null`, leaving)
	}
}

// In every list a decision is seen at the key, whether or not the server can be
// reached; what was taken back stands there again.
func TestADecisionLeavesEveryListAtTheKey(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	require.NoError(t, proto.NetworkEnable{}.Call(p))
	network := proto.NetworkEmulateNetworkConditions{DownloadThroughput: -1, UploadThroughput: -1}
	reach := func(away bool) {
		network.Offline = away
		require.NoError(t, network.Call(p))
	}
	for _, list := range []struct {
		name, path string
		key        input.Key
	}{
		{"the inbox", "/inbox", '2'},
		{"a place", "/archive", '7'},
		{"Ahead", "/ahead", '7'},
		{"the follow-ups", "/follow-ups", '2'},
		{"Waiting", "/waiting", '2'},
	} {
		goTo(p, e.url+list.path)
		first := inFocus(p)
		reach(true)
		p.Press(list.key)
		next := otherwise(p, first)
		there := func(row string) bool { return p.MustEval(hasRow, row).Bool() }
		assert.False(t, there(first), list.name)
		assert.NotEmpty(t, next, list.name)
		reach(false)
		p.Sent()
		assert.False(t, there(first), "%s: it stays away once the server has it", list.name)
		p.Press('u')
		p.Sent()
		p.Until(hasRow, first)
	}
}

// Whatever the page makes of an answer, what was done after it goes out too.
func TestWhatWaitsGoesOnAfterAnAnswerThatIsNotUnderstood(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustEvalOnNewDocument(`
		const real = window.fetch
		window.fetch = async (asked) => {
			const answer = await real(asked)
			if (window.garbled || !asked.url.endsWith('/api/decisions')) return answer
			window.garbled = true
			return new Response(JSON.stringify({ ...(await answer.json()), left: 5 }), answer)
		}`)
	p.MustReload().MustWaitLoad()
	p.MustElement("[role=option]")
	before := e.inbox()
	p.Press('2', '2', '2')
	p.Sent()
	assert.Equal(t, before-3, e.inbox())
	assert.True(t, p.MustEval(`() => window.garbled`).Bool())
}
