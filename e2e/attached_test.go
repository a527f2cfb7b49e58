package e2e

import (
	"encoding/base64"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
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

// What else is read with the lists has no letters: after the attached, and with what was found counted, letters are
// marked, decided on and fetched back as before.
func TestLettersAreDecidedOnBesideOtherReadings(t *testing.T) {
	e := serve(t)
	e.comes(crates)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'n')
	p.MustElement("[aria-label='Files of letters'] button")
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	first, n := inFocus(p), e.inbox()
	p.Press('2')
	p.Until(`(id) => document.getElementById(id) === null`, first)
	p.Sent()
	assert.Equal(t, n-1, e.inbox())
	p.Press('u')
	p.Until(`(id) => document.getElementById(id) !== null`, first)
	p.Sent()
	assert.Equal(t, n, e.inbox())

	p.MustNavigate(e.url + "/search?q=zinnia")
	p.See("Found 1")
	starred := func() int {
		page, err := e.app.Search(t.Context(), store.Own(1), show.Asked{Q: "zinnia mark:starred"})
		require.NoError(t, err)
		return len(page.Rows)
	}
	p.Press('s')
	p.Sent()
	assert.Equal(t, 1, starred())
}
