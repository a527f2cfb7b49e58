package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
)

// From a letter to all that is known of who wrote it, written down, found by their office, and back; cards come in
// out of a file.
func TestWhoWroteIt(t *testing.T) {
	e := serve(t)
	e.comes("From: Bram Oosterhuis <bram@crates.example>\r\nTo: ines@norrholm.example, Lise Bo <lise@norrholm.example>\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n" +
		"Message-ID: <who@crates.example>\r\nSubject: Crates of ferns\r\n\r\nCan you tell me the sizes?\r\n")
	p := e.open(browser.Desk, false)
	p.Timeout(browser.Wait).MustElementR("[role=option]", "Crates of ferns").MustClick()
	p.See("Can you tell me the sizes?")
	p.KeyActions().Press(input.ShiftLeft).Type('P').MustDo()
	p.See("1 from them, 0 to them")
	p.See("waits for your decision")
	assert.Empty(t, offences(p))

	p.Click("Write down")
	p.MustElement("[role=dialog] input")
	p.MustElementR("[role=dialog] label", "Belongs to").MustElement("input").MustFocus()
	p.Type("Oosterhuis & Sons")
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.See("Oosterhuis & Sons")
	p.MustElement("main [type=search]").MustFocus()
	p.Type("sons")
	p.Until(`() => document.querySelectorAll('[aria-label=Known] li[data-known]').length === 1`)

	file := filepath.Join(t.TempDir(), "people.vcf")
	require.NoError(t, os.WriteFile(file, []byte("BEGIN:VCARD\nVERSION:3.0\nFN:Tove Lind\nORG:Ferns\nEMAIL:tove@ferns.example\nEND:VCARD\nBEGIN:VCARD\nFN:Cut"), 0o600))
	p.MustElement("input[type=file]").MustSetFiles(file)
	p.See("1 written down anew")
	p.See("it breaks off before its end")
	p.Press(input.Enter)
	p.Quiet()
	p.MustElement("main [type=search]").MustSelectAllText()
	p.Type("ferns")
	p.Press(input.ArrowDown)
	p.See("Nothing is open between you.")
	assert.Empty(t, offences(p))

	phone := e.open(browser.Phone, true)
	phone.MustNavigate(e.url + "/people?of=bram@crates.example")
	phone.See("Crates of ferns")
	assert.Empty(t, offences(phone))
	phone.Click("All people")
	phone.Until(`() => document.querySelectorAll('[aria-label=Known] li[data-known]').length > 3`)
}
