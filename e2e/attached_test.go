package e2e

import (
	"encoding/base64"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/e2e/browser"
)

// The files of all letters, found and narrowed by what they are, each with its beginning, and from it to its letter.
func TestTheFilesOfAllLetters(t *testing.T) {
	e := serve(t)
	e.comes("From: Bram <bram@crates.example>\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\nMessage-ID: <files@crates.example>\r\nSubject: Crates of ferns\r\n" +
		"MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=cut\r\n\r\n--cut\r\nContent-Type: text/plain\r\n\r\nThe sizes.\r\n" +
		"--cut\r\nContent-Type: text/csv; charset=utf-8\r\nContent-Disposition: attachment; filename=sizes-of-crates.csv\r\nContent-Transfer-Encoding: base64\r\n\r\n" +
		base64.StdEncoding.EncodeToString([]byte("crate;height\nSmøla;1,20\n")) + "\r\n--cut--\r\n")
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'n')
	p.See("sizes-of-crates.csv")
	p.See("Smøla")
	assert.Empty(t, offences(p))
	p.MustElement("main [type=search]").MustFocus()
	p.Type("sizes of")
	p.Until(`() => document.querySelectorAll('[aria-label="Files of letters"] button').length === 1`)
	p.Press(input.Tab)
	p.MustElement("main [type=search]").MustSelectAllText()
	p.Press(input.Backspace)
	p.Until(`() => document.querySelectorAll('[aria-label="Files of letters"] button').length > 1`)
	p.MustElementR("[aria-label='What they are'] button", "Tables").MustClick()
	p.Until(`() => [...document.querySelectorAll('[aria-label="Files of letters"] button')].every((b) => /csv|xlsx|ods/.test(b.innerText))`)
	p.MustElementR("[aria-label='Files of letters'] button", "sizes-of-crates").MustClick()
	p.Until(`() => document.activeElement.id.startsWith('file-')`)
	p.Press(' ')
	p.See("The sizes.")

	phone := e.open(browser.Phone, true)
	phone.MustNavigate(e.url + "/attached")
	phone.MustElementR("[aria-label='Files of letters'] button", "sizes-of-crates").MustClick()
	phone.See("Smøla")
	assert.Empty(t, offences(phone))
	phone.Click("All files")
	phone.See("sizes-of-crates.csv")
}
