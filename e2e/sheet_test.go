package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// The day sheet accounts for what was just decided, for days before, and for weeks, and is printed alone.
func TestTheDaySheet(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('2')
	p.Sent()
	p.Press('v', 'y')
	p.See("Tuesday 24 November")
	p.See("1 decided")
	assert.Equal(t, []string{"Done", "1"}, strings.Fields(p.MustElement("section[aria-label=Decided] li").MustText()))
	assert.Empty(t, offences(p))
	p.Press('u')
	p.See("Decided 0")

	p.Press('[')
	p.See("Monday 23 November")
	p.See("you, median")
	p.Press(']')
	p.See("Tuesday 24 November")
	p.MustElementR("button", "^Week$").MustClick()
	p.See("23 to 29 November 2026")
	assert.Len(t, p.MustElements("main tbody tr"), 7)
	assert.Empty(t, offences(p))
	p.Press('[')
	p.See("16 to 22 November 2026")
	p.MustElementR("th a", "Wed 18").MustClick()
	p.See("Wednesday 18 November")

	require.NoError(t, proto.EmulationSetEmulatedMedia{Media: "print"}.Call(p.Page))
	p.Until(`() => [...document.querySelectorAll('header, nav, [aria-label="Day line"]')].filter((e) => !e.closest('.sheet')).every((e) => e.getClientRects().length === 0)`)
	pages, err := p.PDF(&proto.PagePrintToPDF{})
	require.NoError(t, err)
	first := make([]byte, 5)
	_, err = pages.Read(first)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-", string(first))
}

// Where it is wanted it opens once in the evening, and not again.
func TestTheDaySheetOpensInTheEvening(t *testing.T) {
	e := serve(t)
	_, err := e.app.EditSettings(t.Context(), store.Own(1), "an-early-evening", app.SettingsFields{Evening: new("09:00")})
	require.NoError(t, err)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'y')
	p.See("Tuesday 24 November")
	p.MustElement("main input[type=checkbox]").MustClick()
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.MustElementR("button", `\+1 hour`).MustClick()
	p.Until(`() => location.pathname === '/day-sheet'`)
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.MustReload().MustWaitLoad()
	p.MustElement("[role=option]")
	p.Quiet()
	assert.Equal(t, "/inbox", p.MustEval(`() => location.pathname`).Str())
}

// A search is kept under a name, stands with its count among what is put away, and is forgotten again.
func TestKeepingASearch(t *testing.T) {
	e := serve(t)
	e.comes(crates)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.MustNavigate(e.url + "/search?q=zinnia")
	p.MustElement("[role=option]")
	p.Quiet()
	p.KeyActions().Press(input.ShiftLeft).Type('K').MustDo()
	p.See("Keep this search")
	assert.Empty(t, offences(p))
	p.Type("Flowers")
	p.Press(input.Enter)
	p.Sent()
	p.MustNavigate(e.url + "/inbox")
	p.MustElement("[role=option]")
	p.MustElementR("button", "Put away").MustClick()
	p.MustElementR("[role=menuitem]", `Flowers\s*1`).MustClick()
	p.Until(`() => new URLSearchParams(location.search).get('q') === 'zinnia'`)
	p.MustElementR("button", "Flowers")
	p.KeyActions().Press(input.ShiftLeft).Type('K').MustDo()
	p.MustElementR("button", "Forget it").MustClick()
	p.Sent()
	p.MustElementR("main button", "^Keep")
}
