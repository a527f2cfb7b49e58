package e2e

import (
	"bytes"
	"context"
	"crypto/rand"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

const inText = `(part) => document.querySelector('textarea[aria-label=Text]')?.value.includes(part)`

// A template is found by typing and put in by keys; what it does not know is filled in, and
// nothing leaves before.
func TestATemplateByKeys(t *testing.T) {
	e := serve(t)
	name, text := "Crate sizes", "Dear {first name},\n\nthe crates are {size}."
	_, err := e.app.NewTemplate(context.Background(), store.Own(1), rand.Text(), app.TemplateFields{Name: &name, Text: &text})
	require.NoError(t, err)
	p := e.answering(browser.Desk, false)
	alt(p, 't')
	p.MustElement(`[role=dialog] input`)
	p.Type("crate siz")
	p.Until(`() => document.querySelectorAll('[role=dialog] [role=option]').length === 1`)
	p.Press(input.Enter)
	p.Until(inText, "Dear Bram,\n\nthe crates are {size}.")
	p.Until(`() => document.activeElement.hasAttribute('data-to-fill-in')`)
	control(p, input.Enter)
	p.See("Not filled in: {size}")
	p.Until(`() => document.activeElement.hasAttribute('data-to-fill-in')`)
	p.Type("60 by 98")
	p.Press(input.Enter)
	p.Until(inText, "the crates are 60 by 98.")
	control(p, input.Enter)
	sendAnyway(p)
	_, l := e.going()
	assert.Contains(t, l.Text, "the crates are 60 by 98.")
}

// A proposed answer is put into the text by one key, and nothing is sent by itself.
func TestAProposedAnswer(t *testing.T) {
	e := serve(t)
	p := e.answering(browser.Desk, true)
	p.MustElementR("[data-suggestion]", "Yes, I will confirm the four crate sizes")
	alt(p, '1')
	p.Until(inText, "Yes, I will confirm the four crate sizes.")
	p.Until(`() => document.querySelectorAll('[data-suggestion]').length === 0`)
	p.Until(asked, "Can you confirm", true)
}

// A note, a working title and a file are one's own: on the letter, in its row, found, undone.
func TestNotesByKeys(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	was := focused(p)
	p.Press('e')
	p.MustElement(`[role=dialog] textarea`)
	p.Type("Call *Maren* about the quince.")
	p.Press(input.Tab)
	p.Type("Quince matters")
	file := filepath.Join(t.TempDir(), "sketch.txt")
	require.NoError(t, os.WriteFile(file, []byte("A quince."), 0o600))
	p.MustElement(`[role=dialog] input[type=file]`).MustSetFiles(file)
	p.See("Added “sketch.txt”")
	control(p, input.Enter)
	p.Until(`() => document.querySelector('section[aria-label=Letter] h1').innerText.startsWith('Quince matters')`)
	p.See("They call it “" + was + "”")
	p.Until(`() => document.querySelector('[aria-label="Your note"] em')?.innerText === 'Maren'`)
	p.Until(`() => document.querySelector('[aria-label="With your note"]') !== null`)
	assert.Equal(t, "A quince.", p.MustEval(`() => fetch(document.querySelector('[aria-label="Your files"] a').href).then((r) => r.text())`).Str())
	p.Press('/')
	p.Type("quince")
	p.Press(input.Enter)
	p.MustElementR("[role=option]", "Quince matters")
	p.Press('u')
	p.Until(`(was) => [...document.querySelectorAll('[role=option]')].every((r) => !r.innerText.includes('Quince matters'))`, was)
}

// Templates and groups are made in their view, on a phone as well; a group fills the receivers.
func TestTemplatesAndGroups(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, false)
	p.MustNavigate(e.url + "/templates").MustWaitLoad()
	p.Click("New template")
	for _, text := range []string{"Closed", "", "Dear {first name}, we are closed."} {
		p.Type(text)
		p.Press(input.Tab)
	}
	p.Click("Make this template")
	p.MustElementR("section button", "Closed")
	p.Click("New group")
	p.Type("Garden board")
	p.Press(input.Tab)
	p.Type("Tove <tove@norrholm.example>; henrik@norrholm.example, nobody")
	p.Click("Make this group")
	p.See("nobody")
	p.MustElement(`form[aria-label="New group"] textarea`).MustSelectAllText().MustInput("Tove <tove@norrholm.example>; henrik@norrholm.example")
	p.Click("Make this group")
	p.SeeNot("Make this group")
	p.MustNavigate(e.url + "/inbox").MustWaitLoad()
	p.MustElement(`[role=option]`)
	p.Press('n')
	p.MustElement(`form[aria-label="New letter"] [role=combobox]`)
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	p.Type("garden")
	p.MustElementR("[role=option]", "Garden board")
	p.Press(input.Enter)
	p.Until(`() => document.querySelectorAll('form .chip').length === 2`)
}

// What another program shares begins a letter with it, and sends nothing.
func TestSharedFilesBeginALetter(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	require.NoError(t, form.WriteField("subject", "A quince"))
	file, err := form.CreateFormFile("files", "quince.txt")
	require.NoError(t, err)
	_, err = file.Write([]byte("It is yellow."))
	require.NoError(t, err)
	require.NoError(t, form.Close())
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.Post(e.url+"/share", form.FormDataContentType(), &body)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	p.MustNavigate(e.url + res.Header.Get("Location")).MustWaitLoad()
	p.Until(`() => document.querySelector('#subject')?.value === 'A quince'`)
	p.MustElementR(`[aria-label=Files] a`, "quince.txt")
}

// A letter that recurs is written, seen in Ahead and skipped there by a key.
func TestALetterThatRecurs(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	p.Press('n')
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	p.Type("bram@freight.example")
	p.Press(input.Tab)
	p.MustElement("#subject").MustInput("Rota for {date: mon}")
	alt(p, 'l')
	p.Until(`() => document.activeElement.closest('[role=dialog]') !== null`)
	p.Type("fri 9:00")
	p.Until(`() => document.querySelector('[role=dialog]').innerText.includes('27 Nov')`)
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`) // Enter waits for the day to be understood
	p.Timeout(browser.Wait).MustElement(`input[placeholder="every friday"]`).MustInput("every friday")
	p.Until(`() => document.querySelector('#recurs').innerText === '✓ every friday'`)
	control(p, input.Enter)
	p.See("It leaves Fri") // the letter is out of the way of the keys
	p.Sent()
	p.Press('v', 'a')
	p.MustElement("main [aria-current=true]")
	for range 60 { // it stands further down than is drawn
		if p.MustEval(`() => document.querySelector('main [aria-current=true]')?.innerText.includes('Rota for Monday 30 November')`).Bool() {
			break
		}
		was := p.MustEval(`() => document.querySelector('main [aria-current=true]')?.id`).Str()
		p.Press('j')
		p.Until(`(was) => document.querySelector('main [aria-current=true]')?.id !== was`, was)
	}
	leaving := func() (titles []string) {
		p.Sent()
		ahead, err := e.app.Ahead(context.Background(), store.Own(1))
		require.NoError(t, err)
		for _, entry := range ahead.Entries {
			if entry.Kind == "send" {
				titles = append(titles, entry.Title)
			}
		}
		return titles
	}
	p.Press('b')
	p.See("Left out “Rota for Monday 30 November”")
	assert.Equal(t, []string{"Rota for Monday 7 December"}, leaving())
	p.Press('u')
	p.SeeNot("Left out “Rota for Monday 30 November”; the next leaves")
	assert.Equal(t, []string{"Rota for Monday 30 November"}, leaving())
}

// An absence is set in the accounts, and ends when one says so.
func TestAnAbsence(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, true)
	p.MustNavigate(e.url + "/accounts").MustWaitLoad()
	p.Click("Away…")
	p.Until(`() => document.activeElement.placeholder === 'mon 8:00'`)
	p.Type("mon 8:00")
	p.See("30 Nov, 08:00")
	p.Press(input.Tab)
	p.Type("Tove Lindqvist")
	p.Click("Answer while I am away")
	p.See("back Mon 30 Nov, 08:00")
	p.MustElement(`header a[aria-label^="Letters are answered by your note"]`)
	p.Click("I am here")
	p.Until(`() => !document.querySelector('header a[aria-label^="Letters are answered"]')`)
	p.SeeNot("back Mon 30 Nov")
}
