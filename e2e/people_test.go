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

	p.MustElement("main [type=search]").MustSelectAllText().MustInput("")
	p.Click("Walk guides")
	p.See("Write to all of them")
	assert.Empty(t, offences(p))
	p.MustElement("[aria-label='Who is in it'] button").MustClick()
	p.See("Between you")

	phone := e.open(browser.Phone, true)
	phone.MustNavigate(e.url + "/people?of=bram@crates.example")
	phone.See("Crates of ferns")
	assert.Empty(t, offences(phone))
	phone.Click("All people")
	phone.Until(`() => document.querySelectorAll('[aria-label=Known] li[data-known]').length > 3`)
}

// Somebody is erased by typing their address under what goes and what stays; then nothing finds them.
func TestSomebodyIsErased(t *testing.T) {
	e := serve(t)
	e.comes("From: Ferdi <ferdi@zeppelin.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\n" +
		"Message-ID: <one@zeppelin.example>\r\nSubject: A hangar\r\n\r\nMay it stand by the orangery?\r\n")
	before := e.inbox()
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/people?of=ferdi@zeppelin.example")
	p.Click("Erase them")
	p.See("1 letter from them")
	p.See("it comes as from anybody")
	assert.Empty(t, offences(p))
	assert.True(t, p.MustElementR("[role=dialog] button", "Erase for good").MustProperty("disabled").Bool())
	p.Type("ferdi@zeppelin")
	p.Press(input.Enter)
	p.See("1 letter from them")
	p.Type(".example")
	p.Press(input.Enter)
	p.See("Erased a correspondent, 1 letter")
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	assert.Equal(t, before-1, e.inbox())

	phone := e.open(browser.Phone, true)
	phone.MustNavigate(e.url + "/people?of=lise@norrholm.example")
	phone.Click("Erase them")
	phone.See("letters from them")
	assert.Empty(t, offences(phone))
	phone.Press(input.Escape)
	phone.Until(`() => !document.querySelector('[role=dialog]')`)
}
