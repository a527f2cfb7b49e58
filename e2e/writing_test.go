package e2e

import (
	"context"
	"crypto/rand"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/store"
)

// alt presses a key with Alt held.
func alt(p browser.Page, key input.Key) {
	p.KeyActions().Press(input.AltLeft).Type(key).MustDo()
}

// answering receives a letter that asks two things, and begins the answer to it.
func (e *ebbe) answering(size browser.Size, night bool) browser.Page {
	e.t.Helper()
	ctx, who := context.Background(), store.Own(1)
	raw := "From: Bram Oosterhuis <bram@freight.example>\r\nTo: ines@norrholm.example\r\nCc: lise@norrholm.example\r\nSubject: Crates of the orchids\r\nMessage-ID: <orchids@freight.example>\r\n\r\n" +
		"Dear Ines,\r\n\r\nThe van is booked. Can you confirm the four crate sizes? Which courier do you use for the last leg?\r\n\r\nBram\r\n"
	require.NoError(e.t, e.app.Receive(ctx, app.Incoming{Inbox: who.Inbox, To: "ines@norrholm.example", Source: "smtp", Raw: []byte(raw), At: e.app.Now()}))
	_, err := e.app.LetIn(ctx, who, rand.Text(), 0, false) // whatever is held at that time of the morning
	require.NoError(e.t, err)
	p := e.open(size, night)
	p.MustElementR("[role=option]", "Crates of the orchids").MustClick()
	p.MustElementR("section[aria-label=Letter] h1", "Crates of the orchids")
	p.Press('1')
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	return p
}

// going is the letter that is to leave next, as whoever gets it reads it.
func (e *ebbe) going() (o store.Outgoing, l letter.Letter) {
	e.t.Helper()
	require.NoError(e.t, e.app.Store.Read(context.Background(), store.Own(1), func(tx *store.Tx) error {
		all, err := tx.Outbox()
		require.NoError(e.t, err)
		require.NotEmpty(e.t, all)
		o = all[len(all)-1]
		raw, err := tx.OutgoingBytes(o)
		l = letter.Parse(raw)
		return err
	}))
	return o, l
}

const asked = `(text, covered) => [...document.querySelectorAll('[aria-label="What the letter asks"] [role=checkbox]')].some((b) => b.getClientRects().length && b.getAttribute('aria-label').startsWith(text) && b.getAttribute('aria-checked') === String(covered))`

// The letter stays in sight, its asks tick themselves off, and what is left out is said
// once before the answer goes.
func TestAnsweringInSightOfTheLetter(t *testing.T) {
	e := serve(t)
	p := e.answering(browser.Desk, false)
	p.See("The van is booked.")
	p.Until(asked, "Can you confirm", false)
	p.Type("Dear Bram,\n\nthe four crate sizes are attached.\n")
	p.Until(asked, "Can you confirm", true)
	p.See("answered in line 3")
	p.Until(asked, "Which courier", false)
	control(p, input.Enter)
	p.See("It says “attached”, and no file goes along.")
	p.See("Not answered yet: “Which courier do you use for the last leg?”")
	p.Press(input.Escape)
	p.SeeNot("no file goes along")
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)

	// What is selected in the letter is quoted where the cursor is; below it is answered.
	p.MustEval(`() => {
		const text = document.querySelector('[aria-label="The letter that is answered"] mark:last-of-type')
		getSelection().selectAllChildren(text)
	}`)
	p.Click("Quote")
	p.Until(`() => document.activeElement.value?.includes('> Which courier do you use for the last leg?')`)
	p.Type("Harbour Carriers.\n")
	p.Until(asked, "Which courier", true)

	file := filepath.Join(t.TempDir(), "crates å.csv")
	require.NoError(t, os.WriteFile(file, []byte("crate,60,98"), 0o600))
	p.MustElement("input[aria-label='Files to attach']").MustSetFiles(file)
	p.MustElementR("[aria-label=Files] a", "crates å.csv")
	control(p, input.Enter)
	p.See("Answered “Crates of the orchids”")
	_, l := e.going()
	require.Len(t, l.Attachments(), 1)
	assert.Equal(t, "crate,60,98", string(l.Attachments()[0].Content))
	assert.Empty(t, l.HTML)
}

// An answer goes through the asks by one key: each is quoted, and ticks itself off once
// something stands below it.
func TestAnsweringPointByPoint(t *testing.T) {
	e := serve(t)
	p := e.answering(browser.Desk, true)
	p.Until(asked, "Can you confirm", false) // what it asks is looked for first
	alt(p, 'q')
	p.Until(inText, "> Can you confirm the four crate sizes?\n\n")
	p.Type("60 by 98.")
	p.Until(asked, "Can you confirm", true)
	alt(p, 'q')
	p.Until(inText, "60 by 98.\n> Which courier do you use for the last leg?\n\n")
	p.Type("The green one.")
	p.Until(asked, "Which courier", true)
	was := p.MustElement("textarea[aria-label=Text]").MustProperty("value").Str()
	alt(p, 'q') // nothing else is to be answered
	p.Quiet()
	assert.Equal(t, was, p.MustElement("textarea[aria-label=Text]").MustProperty("value").Str())
}

// On a phone the letter is one tap away, and the asks stay above the text.
func TestAnsweringOnAPhone(t *testing.T) {
	e := serve(t)
	p := e.answering(browser.Phone, true)
	p.Until(asked, "Which courier", false)
	p.SeeNot("The van is booked.")
	p.MustElementR("[role=tab]", "Their letter").MustTap()
	p.See("The van is booked.")
	p.MustElementR("[role=tab]", "Answer").MustTap()
	p.SeeNot("The van is booked.")
	p.MustElementR("[aria-label='What the letter asks'] li", "Which courier") // in the page, and ticked by hand
	p.MustEval(`() => [...document.querySelectorAll('[role=checkbox][aria-label^="Which courier"]')].find((b) => b.getClientRects().length).click()`)
	p.Until(asked, "Which courier", true)
	p.See("ticked by you")
}

// Markdown is seen as its reader will see it, pictures that are pasted stand in the text,
// and it leaves at a time of its own.
func TestMarkdownLater(t *testing.T) {
	e := serve(t)
	p := e.answering(browser.Desk, true)
	alt(p, 'm')
	p.MustElement("[role=toolbar][aria-label=Markdown]")
	p.Type("The sizes are ")
	control(p, 'b')
	p.Type("attached")
	p.Until(textIs, "The sizes are **attached**")
	p.Press(input.End)
	p.MustEval(`() => {
		const data = new DataTransfer()
		data.items.add(new File([Uint8Array.from(atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='), (c) => c.charCodeAt(0))], 'crate.png', { type: 'image/png' }))
		document.activeElement.dispatchEvent(new ClipboardEvent('paste', { bubbles: true, cancelable: true, clipboardData: data }))
	}`)
	p.See("in the text")
	alt(p, 'v')
	p.Until(`() => document.querySelector('iframe[title="The letter as they see it"]')?.contentDocument?.querySelector('strong')?.innerText === 'attached'`)
	p.Until(`() => document.querySelector('iframe[title="The letter as they see it"]').contentDocument.querySelector('img')?.naturalWidth === 1`)
	alt(p, 'v')
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	alt(p, 'l')
	p.MustElementR("[role=dialog] h2", "Send it")
	p.Type("11:40")
	p.See("today 11:40")
	p.Press(input.Enter)
	p.MustElementR("[aria-label=Sending] button", "Leaves")
	control(p, input.Enter)
	p.See("Not answered yet")
	control(p, input.Enter)
	p.See("Ahead has it until then")
	o, l := e.going()
	assert.True(t, o.Later)
	assert.Contains(t, l.HTML, "<strong>attached</strong>")
	require.Len(t, l.Parts, 1)
	assert.Contains(t, l.HTML, "cid:"+l.Parts[0].ContentID)

	// Until it goes it is written on.
	p.MustNavigate(e.url + "/ahead").MustWaitLoad()
	p.MustElementR("[id^=entry-send]", "Crates of the orchids").MustClick()
	p.Press(input.Enter)
	p.Until(textIs, "The sizes are **attached**")
	p.See("in the text")
}

// A file that broke off with its page goes on where it was once it is chosen again; and
// receivers move between the fields by keys.
func TestAFileGoesOnAfterAReload(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.answering(browser.Desk, false)
	p.Type("Here it is.")
	file := filepath.Join(t.TempDir(), "plan.bin")
	require.NoError(t, os.WriteFile(file, make([]byte, 5<<20), 0o600))
	letGo := d.keep(connections, "/api/attached/", 1) // after the first piece nothing comes through
	p.MustElement("input[aria-label='Files to attach']").MustSetFiles(file)
	p.Until(`() => document.querySelector('progress')?.value === 2097152`)
	p.Sent()
	p.Until(`() => !localStorage.getItem(Object.keys(localStorage).find((k) => k.includes('unsaved')) ?? '')?.includes('plan.bin')`)
	p.MustReload().MustWaitLoad() // before anything comes through again
	p.See("It broke off")
	letGo()
	p.MustElement("input[aria-label='Files to attach']").MustSetFiles(file)
	p.MustElementR("[aria-label=Files] a", "plan.bin")
	p.SeeNot("It broke off")

	p.MustElement("form input[role=combobox]").MustFocus()
	p.KeyActions().Press(input.AltLeft).Type(input.ArrowDown).MustDo()
	p.Until(`() => document.querySelectorAll('form input[role=combobox]').length === 3 && document.querySelectorAll('form input[role=combobox]')[1].parentElement.innerText.includes('Bram')`)
	p.MustElement("form input[role=combobox]").MustFocus()
	p.MustEval(`() => {
		const data = new DataTransfer()
		data.setData('text/plain', '"Bo, Lise" <lise@norrholm.example>; tove@norrholm.example\nnobody')
		document.activeElement.dispatchEvent(new ClipboardEvent('paste', { bubbles: true, cancelable: true, clipboardData: data }))
	}`)
	p.MustElement(`[aria-label="Remove nobody"]`)
	p.MustElement(`[aria-label="Remove tove@norrholm.example"]`)
	control(p, input.Enter)
	p.See("“nobody” is not an address. Mend it, or take it out.")
	p.MustElement(`[aria-label="Remove nobody"]`).MustClick()
	p.MustElement("textarea").MustFocus()
	control(p, input.Enter)
	p.Click("Send all the same")
	p.See("Answered “Crates of the orchids”")
	o, l := e.going()
	assert.ElementsMatch(t, []string{"lise@norrholm.example", "tove@norrholm.example", "bram@freight.example"}, o.Recipients)
	require.Len(t, l.Attachments(), 1)
	assert.Len(t, l.Attachments()[0].Content, 5<<20)
}

// A link to an address, and what is shared from outside, begin a letter; nothing is sent.
func TestALinkBeginsALetter(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustNavigate(e.url + "/write?mailto=" + url.QueryEscape("mailto:bram@freight.example?cc=lise@norrholm.example&subject=Crates%20again&body=Dear%20Bram,%0D%0A&bcc=no%0D%0Abody")).MustWaitLoad()
	p.Until(textIs, "Dear Bram,")
	p.MustElement(`[aria-label="Remove bram@freight.example"]`)
	p.MustElement(`[aria-label="Remove lise@norrholm.example"]`)
	p.MustElement(`[aria-label="Remove no body"]`)
	p.Until(`() => document.querySelector('#subject').value === 'Crates again' && location.pathname === '/inbox'`)
	alt(p, 'f')
	p.MustElement("[role=dialog] input, [role=dialog] textarea")
	p.Type("measure crate 4 again")
	p.Press(input.Enter)
	p.See("follow-up: measure crate 4 again")
	p.MustElement("textarea").MustFocus()
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('textarea')`)
	p.MustNavigate(e.url + "/write?subject=Shared&text=" + url.QueryEscape("Look at this") + "&url=" + url.QueryEscape("https://norrholm.example/plan")).MustWaitLoad()
	p.Until(textIs, "Look at this\nhttps://norrholm.example/plan")
}
