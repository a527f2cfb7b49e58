package e2e

import (
	"context"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// control presses a key with Ctrl held.
func control(p browser.Page, keys ...input.Key) {
	p.KeyActions().Press(input.ControlLeft).Type(keys...).MustDo()
}

// sendAnyway waits for what is being sent to go, also where an ask is left open.
func sendAnyway(p browser.Page) {
	p.Until(`() => !document.querySelector('textarea') || document.body.innerText.includes('Send all the same')`)
	if p.MustEval(`() => document.body.innerText.includes('Send all the same')`).Bool() {
		control(p, input.Enter)
	}
	p.See("It leaves in")
	p.Sent()
}

// inboxes counts what stands in the inbox.
func (e *ebbe) inbox() int {
	e.t.Helper()
	o, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(e.t, err)
	return o.Inbox
}

const textIs = `(text) => document.querySelector('textarea[aria-label=Text]')?.value.startsWith(text)`

// While a letter is written every single key is text, wherever the focus is or
// has been.
func TestNoKeyGoesAstrayWhileWriting(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	title, before := focused(p), e.inbox()
	p.Press('1')
	p.MustElement("textarea[aria-label=Text]")
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	p.Type("Thanks. ")
	p.Click("for an answer")
	p.MustElementR("[role=dialog] h2", "Wait for an answer until")
	p.Type("fri")
	p.See("Fri 27 Nov")
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Until(`() => document.activeElement.textContent.startsWith('Waits')`)
	p.Press('7', 's', 'a', 'n')
	p.MustEval(`() => document.activeElement.blur()`)
	p.Press('7', '2', 's')
	p.Until(textIs, "Thanks. 72s")
	assert.Nil(t, p.MustEval(`() => document.querySelector('[role=dialog]')`).Val(), "no dialog lies over it")
	assert.Equal(t, before, e.inbox())

	// Left for now it is shown on its letter at once, and gone on with.
	p.Press(input.Escape)
	p.See("go on writing")
	assert.Equal(t, title, focused(p))
	p.Press('1')
	p.Until(textIs, "Thanks. 72s")
	p.See("answer by Fri 27 Nov")
	p.MustReload().MustWaitLoad()
	p.Until(textIs, "Thanks. 72s")
	p.Press(input.Escape)
	p.See("go on writing")
	p.Press('v', 'u')
	p.MustElementR("h1", "Drafts")
	p.See(title)
}

// What is typed while a letter that is being sent is still open is not in it.
func TestNoKeyGetsIntoALetterOnItsWay(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.answering(browser.Desk, false)
	p.Type("Sixty by ninety-eight.")
	letGo := d.keep(requests, "/api/doubts", 0)
	control(p, input.Enter)
	d.wait()
	p.Press('j', '7')
	letGo()
	sendAnyway(p)
	_, l := e.going()
	assert.NotContains(t, l.Text, "j7")
	assert.Contains(t, l.Text, "Sixty by ninety-eight.")
}

// An answer in which nothing was typed leaves nothing behind.
func TestAnAnswerThatWasOnlyOpenedIsNoDraft(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	had, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	for range 3 {
		p.Press('1')
		p.See("is quoted below your text")
		p.Press(input.Escape)
		p.Until(`() => !document.querySelector('textarea')`)
	}
	has, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	assert.Len(t, has, len(had))
}

// What stands in a field of people goes along, or stops the letter there.
func TestTypedAddressesAreTaken(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('5')
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	p.Type("henrik@norrholm.example,")
	p.Press(input.Enter)
	p.Type("somebody new")
	control(p, input.Enter)
	p.See("“somebody new” is no address")
	p.MustElement("textarea[aria-label=Text]")
	for range len("somebody new") {
		p.Press(input.Backspace)
	}
	p.Type("no@@where") // which only the core knows to be none: it is marked, and the letter stays
	control(p, input.Enter)
	p.See("“no@@where” is not an address. Mend it, or take it out.")
	p.Until(`() => document.querySelector('[aria-label="Remove no@@where"]') !== null`)
	p.MustElement(`[aria-label="Remove no@@where"]`).MustClick()
	p.MustElement("form[aria-label='Hand on'] input[role=combobox]").MustFocus()
	p.Type("second@else.example")
	control(p, input.Enter)
	p.See("Handed on")
	p.Until(`() => !document.querySelector('textarea')`)
	waits, err := e.app.WaitingList(context.Background(), store.Own(1), false)
	require.NoError(t, err)
	var both bool
	for _, w := range waits {
		both = both || len(w.Persons) == 2
	}
	assert.True(t, both, "both of them got it")
}

// Of labels the highlighted one is taken, an exact name wins, and a new one is
// made only where it is chosen.
func TestLabelsTakeWhatIsHighlighted(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	id := e.label(p, "walks")
	e.label(p, "walk")
	e.label(p, "receipts")
	p.Press('l')
	p.MustElement("input[aria-label=Label]")
	p.Type("rec")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText === 'receipts'`)
	p.Press(input.Escape)
	p.Press('6')
	p.MustElement("input[aria-label=Label]")
	p.Type("walk")
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText === 'walk'`)
	for range 4 {
		p.Press(input.Backspace)
	}
	p.Press(input.ArrowDown)
	p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]') !== null`)
	first := p.MustEval(`() => document.querySelector('[role=dialog] [aria-selected=true]').innerText`).Str()
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Sent()
	c, err := e.app.Open(context.Background(), store.Own(1), id)
	require.NoError(t, err)
	assert.Contains(t, c.Labels, first)
	assert.Equal(t, decide.Archive, c.Place)
}

// label labels the letter in focus, and gives its conversation.
func (e *ebbe) label(p browser.Page, name string) int64 {
	e.t.Helper()
	id := int64(p.MustEval(`() => Number(document.querySelector('[role=option][aria-selected=true]').id.replace('row-', ''))`).Int())
	p.Press('l')
	p.MustElement("input[aria-label=Label]")
	p.Type(name)
	p.Until(`(name) => document.querySelector('[role=dialog]').innerText.includes(name)`, name)
	p.Until(`(name) => [...document.querySelectorAll('[role=dialog] [role=option]')].some((o) => o.innerText.includes(name))`, name)
	for range 9 { // down to the new one, which stands last
		p.Press(input.ArrowDown)
	}
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Until(`(name) => document.querySelector('section[aria-label=Letter]').innerText.includes(name)`, name)
	return id
}

// A capital can be bound to a command.
func TestACapitalCanBeAKey(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('?')
	p.MustElement(`[aria-label$="change the key of Star"]`).MustClick()
	p.KeyActions().Press(input.ShiftLeft).Type('K').MustDo()
	p.Until(`() => document.querySelector('[aria-label$="change the key of Star"]').innerText === 'Shift K'`)
}

// Back and forth; and a word before the undo key goes on to something else.
func TestUndoAndRedo(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	before := e.inbox()
	p.Press('2')
	p.See("Done with")
	p.Press('u')
	p.See("Undone: Done with")
	p.Until(`(n) => document.querySelector('nav[aria-label=Views]').innerText.includes(n)`, before)
	p.KeyActions().Press(input.ShiftLeft).Type('U').MustDo()
	p.See("Done again: Done with")
	assert.Equal(t, before-1, e.inbox())
	p.Press('u')
	p.Until(`(n) => document.querySelector('nav[aria-label=Views]').innerText.includes(n)`, before)
	p.Press('u')
	p.See("Next would be")
	assert.Equal(t, before, e.inbox())
}

// Two windows decide otherwise on one letter: the second is told.
func TestTheSecondWindowIsTold(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	require.NoError(t, proto.NetworkEnable{}.Call(p))
	offline := proto.NetworkEmulateNetworkConditions{Offline: true, DownloadThroughput: -1, UploadThroughput: -1}
	require.NoError(t, offline.Call(p))
	titles := []string{focused(p)}
	p.Press('7')
	p.See("will be sent")
	p.Until(`(was) => document.querySelector('section[aria-label=Letter] h1')?.innerText !== was`, titles[0])
	titles = append(titles, focused(p))
	p.Press('7')
	other := e.open(browser.Desk, true)
	for _, title := range titles {
		focus(t, other, title)
		other.Press('2')
		other.Until(`(was) => document.querySelector('section[aria-label=Letter] h1')?.innerText !== was`, title)
	}
	other.Sent()
	offline.Offline = false
	require.NoError(t, offline.Call(p))
	for _, title := range titles { // one question after the other, none in another's place
		p.See("“" + title + "” has gone elsewhere meanwhile: it is in the archive now")
		p.Until(`() => document.activeElement.innerText === 'Leave it where it is'`)
		p.Press(input.Enter)
	}
	p.SeeNot("Decided meanwhile")
	rows, err := e.app.List(context.Background(), store.Own(1), decide.Bin, false, 0, "")
	require.NoError(t, err)
	for _, r := range rows.Rows {
		assert.NotContains(t, titles, r.Title)
	}
}
