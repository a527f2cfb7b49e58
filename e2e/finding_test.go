package e2e

import (
	"net/url"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

// crates is a letter that no other search of the demo finds.
const crates = "From: Bram <bram@oosterhuis-freight.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 07:00:00 +0100\r\nSubject: Zinnia seeds\r\nMessage-ID: <zinnia@x.example>\r\n" +
	"MIME-Version: 1.0\r\nContent-Type: text/html; charset=utf-8\r\n\r\n<p>The Zinnía seeds and more zinnias came.</p>\r\n"

// What is typed is completed, found while one types, marked in its row and in the letter, and narrowed.
func TestFindingByKeys(t *testing.T) {
	e := serve(t)
	e.comes(crates)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('/')
	p.Type("fro")
	p.See("who wrote it")
	assert.Empty(t, offences(p))
	p.Press(input.ArrowDown, input.Enter)
	assert.Equal(t, "from:", p.MustElement("[aria-label='Find letters']").MustProperty("value").Str())
	p.Type("bram zinn")
	p.Until(`() => [...document.querySelectorAll('[role=option] mark')].some((m) => m.textContent === 'Zinnia')`)
	p.Press(input.Enter)
	p.Until(`() => document.querySelector('section[aria-label=Letter] iframe')?.contentDocument?.querySelectorAll('mark').length === 2`)
	p.Press('.')
	p.See("1 of 2")
	p.Press('.', '.')
	p.See("1 of 2")
	p.Press(',')
	p.See("2 of 2")
	assert.Empty(t, offences(p))

	// The scope, the order, and what narrows, by their keys.
	p.Press(';')
	p.Until(`() => new URLSearchParams(location.search).get('within') === 'at:inbox'`)
	p.Press('=')
	p.See("Best first")
	p.Press(';')
	p.Until(`() => !new URLSearchParams(location.search).has('within')`)
	p.Press('2')
	p.See("archive")
	p.Sent()
}

// While one types, the sheet keeps the letter before; from Enter on, keys that are the sheet's own mean the letter in focus.
func TestTheSheetWhileOneTypes(t *testing.T) {
	e := serve(t)
	e.comes(crates)
	e.comes(strings.NewReplacer("Zinnia seeds", "Quince trees", "zinnia@", "quince@", "Zinnía seeds", "quinces").Replace(crates))
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustNavigate(e.url + "/search?q=quince")
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1')?.innerText === 'Quince trees'`)
	p.Press('/')
	p.Type("subject:zinnia")
	p.MustElementR("[role=option]", "Zinnia seeds")
	p.Press(input.Enter, 'e')
	p.MustElement(`[role=dialog] textarea`)
	p.Press(input.Tab)
	p.Type("Seeds of ours")
	control(p, input.Enter)
	p.See("They call it “Zinnia seeds”")
	p.Sent()
}

// Where nothing is found, it is said what would find something; what can't be read is said where it stands.
func TestNothingFound(t *testing.T) {
	e := serve(t)
	e.comes(crates)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustNavigate(e.url + "/search?q=" + url.QueryEscape("zinnai from:bram"))
	p.See("Spelt otherwise")
	assert.Empty(t, offences(p))
	p.Click("zinnia from:bram")
	p.Until(`() => document.querySelector('[role=option] mark') !== null`)
	p.MustNavigate(e.url + "/search?q=" + url.QueryEscape("zinnia or mark:purple x"))
	p.See("“purple” is not known there")
	p.See("Read as (zinnia or purple) x")
	assert.Empty(t, offences(p))
	small := e.open(browser.Phone, true)
	small.MustNavigate(e.url + "/search?q=zinnia")
	small.Until(`() => document.querySelector('[role=option] mark') !== null`)
	assert.Empty(t, offences(small))
}

// What the page can do is done by its name.
func TestACommandByName(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('>').MustDo()
	p.Type("new fol")
	p.See("New follow-up")
	assert.Empty(t, offences(p))
	p.Press(input.Enter)
	p.MustElement("[role=dialog]")
	p.Press(input.Escape)
	p.Until(`() => document.querySelector('[role=dialog]') === null`)
	p.Quiet()
	p.KeyActions().Press(input.ShiftLeft).Type('>').MustDo()
	p.Type("qqq")
	p.See("Nothing here is called that.")
	p.Press(input.Escape)
	p.Until(`() => document.activeElement?.tagName !== 'INPUT'`)
}

// What was found is counted anew once nobody decides on it any more.
func TestWhatWasFoundIsCountedOnceItRests(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustNavigate(e.url + "/search?q=" + url.QueryEscape("at:inbox the"))
	found := p.MustElementR("main h1", `Found \d+`).MustText()
	p.Quiet()
	n, err := strconv.Atoi(strings.TrimSpace(strings.TrimPrefix(found, "Found")))
	require.NoError(t, err)
	p.Press('2', '2', '2')
	p.Until(`(n) => document.querySelector('main h1').textContent.trim() === 'Found ' + n`, n-3)
	p.Sent()
}
