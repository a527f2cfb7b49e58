package e2e

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// leave puts a command into the page's queue as a page that is no more has left it.
func leave(p browser.Page, id, command string) {
	p.MustEval(`(id, command) => localStorage.setItem('ebbe.1.queue.' + id, JSON.stringify({ id, page: 'gone', at: 1, value: JSON.parse(command) }))`, id, command)
}

// second opens another page of the same browser.
func (e *ebbe) second(p browser.Page) browser.Page {
	other := browser.Page{Page: p.Browser().MustPage(e.url)}
	other.MustSetViewport(1280, 800, 1, false).MustWaitLoad()
	other.MustElement(`[role=option]`)
	other.Quiet()
	return other
}

func (e *ebbe) overview() show.Overview {
	e.t.Helper()
	o, err := e.app.Overview(context.Background(), store.Own(1))
	require.NoError(e.t, err)
	return o
}

// What a page has left in the queue is carried out by the next one, once, also where
// an earlier Ebbe called it otherwise; what can't be is refused in words and stops
// none of the rest.
func TestWhatAPageHasLeftIsCarriedOut(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	row := p.MustEval(`() => document.querySelector('[role=listbox]').getAttribute('aria-activedescendant').replace('row-', '')`).Str()
	before := e.overview()
	quiet := `{"browser":false,"sound":false,"count":false}`
	leave(p, "left-unknown", `{"path":"to-be-done-away-with","body":{}}`)
	leave(p, "left-refused", `{"path":"decide","body":{"kind":"done","on":[{"id":987654321,"last":1}]}}`)
	leave(p, "left-decision", `{"path":"decide","body":{"kind":"done","on":[{"id":`+row+`,"last":1000000}]},"hides":[`+row+`]}`)
	leave(p, "left-notices", `{"path":"notices","body":{"through":`+quiet+`,"reminders":`+quiet+`,"rounds":`+quiet+`,"mentions":`+quiet+`,"count":true}}`)
	for range 2 {
		p.MustReload().MustWaitLoad()
		p.MustElement(`[role=option]`)
		p.Sent()
		assert.Equal(t, before.Inbox-1, e.overview().Inbox)
		assert.True(t, e.overview().Count, "the settings that were left")
	}
	assert.Equal(t, 0, p.MustEval(`(id) => document.querySelectorAll('#row-' + id).length`, row).Int())
}

// Undo in another page takes back what the same person did last, wherever that was;
// it asks nothing that was not decided otherwise.
func TestAnotherPageUndoes(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	before := e.overview().Inbox
	other := e.second(p)
	p.MustActivate()
	p.Press('2')
	p.Until(`(n) => document.querySelector('nav[aria-label=Views] a[href="/inbox"]').textContent.endsWith(n)`, fmt.Sprint(" ", before-1))
	other.MustActivate()
	other.Until(`(n) => document.querySelector('nav[aria-label=Views] a[href="/inbox"]').textContent.endsWith(n)`, fmt.Sprint(" ", before-1))
	other.Press('u')
	for _, page := range []browser.Page{p, other} {
		page.Until(`(n) => document.querySelector('nav[aria-label=Views] a[href="/inbox"]').textContent.endsWith(n)`, fmt.Sprint(" ", before))
	}
	assert.Equal(t, before, e.overview().Inbox)
}

// A draft that is being written without the server is kept in the page, and on the
// server once it is back; the focus stays in the text throughout.
func TestADraftOutlastsTheServer(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	p.Press('1')
	p.MustElement("form[aria-label=Answer] textarea")
	p.Until(`() => document.activeElement?.tagName === 'TEXTAREA'`)
	addr := strings.TrimPrefix(e.url, "http://")
	e.stop()
	p.Type("Written while nobody was there. ")
	unsaved := `Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`
	p.Until(`() => ` + unsaved)
	assert.Equal(t, "TEXTAREA", p.MustEval(`() => document.activeElement.tagName`).Str())
	e.start(addr)
	p.Type("And this too. ")
	p.Until(`() => !` + unsaved) // it has reached the server
	assert.Equal(t, "TEXTAREA", p.MustEval(`() => document.activeElement.tagName`).Str())
	drafts, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(drafts, func(d show.DraftView) bool {
		return strings.Contains(d.Writing.Text, "Written while nobody was there. And this too.")
	}))
	p.MustReload().MustWaitLoad()
	p.Until(`() => [...document.querySelectorAll('textarea')].some((t) => t.value.includes('And this too.'))`)
}

// An answer that is gone on with before the server has it is the same answer, though
// the page has read its letter anew meanwhile and heard of no draft.
func TestADraftNotYetToldOfIsGoneOnWith(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	id, err := strconv.ParseInt(strings.TrimPrefix(inFocus(p), "row-"), 10, 64)
	require.NoError(t, err)
	had, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	letGo := d.keep(requests, "/api/drafts/", 0)
	p.Press('1')
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	p.Type("Half of an answer. ")
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('textarea')`)
	_, err = e.app.Mark(context.Background(), store.Own(1), app.Marking{Command: "a-label-meanwhile", On: []int64{id}, Mark: "label", Value: "meanwhile"})
	require.NoError(t, err)
	p.Until(`() => document.querySelector('section[aria-label=Letter]').innerText.includes('meanwhile')`)
	p.Press('1')
	p.Until(textIs, "Half of an answer. ")
	letGo()
	p.Until(`() => !Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`)
	p.Type("And the other half.")
	p.Until(`() => Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`)
	p.Until(`() => !Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`)
	drafts, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	assert.Len(t, drafts, len(had)+1, "one answer, not two")
}

// An answer is gone on with as it was left, though what the page has read of its
// letter is of before the last words: they are never written over by older ones.
func TestAnOlderDraftIsNeverGoneOnWith(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	p.Press('1')
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	p.Type("Half of an answer. ")
	saved := `() => !Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`
	p.Until(saved)
	p.Press(input.Escape)
	p.See("go on writing")
	p.Quiet()

	d.keep(requests, "/api/conversations/", 0)
	p.Press('1')
	p.Until(textIs, "Half of an answer. ")
	p.Press(input.End)
	p.Type("The other half.")
	p.Until(saved)
	p.Press(input.Escape)
	p.Until(`() => !document.querySelector('textarea')`)
	p.Press('1')
	p.Until(textIs, "Half of an answer. The other half.")
}

// What is typed on after its draft was sent or thrown away elsewhere is a draft of its own.
func TestWritingOnWhatIsOverElsewhere(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	saved := `() => !Object.keys(localStorage).some((key) => key.includes('.unsaved.'))`
	texts := func() (out []string) {
		drafts, err := e.app.Drafts(context.Background(), store.Own(1))
		require.NoError(t, err)
		for _, d := range drafts {
			out = append(out, d.Writing.Text)
		}
		return out
	}
	had := len(texts())
	p.Press('1')
	p.Until(`() => document.activeElement.getAttribute('aria-label') === 'Text'`)
	p.Type("Half of an answer. ")
	p.Until(saved)
	drafts, err := e.app.Drafts(context.Background(), store.Own(1))
	require.NoError(t, err)
	_, err = e.app.DropDraft(context.Background(), store.Own(1), "dropped-elsewhere", drafts[0].ID)
	require.NoError(t, err)
	p.Type("And more.")
	p.Until(saved)
	left := texts()
	require.Len(t, left, had+1)
	assert.Contains(t, left[0], "Half of an answer. And more.")
}

// The focus is never lost: what closes gives it back to the list, and the next key
// does what it says.
func TestTheFocusComesBack(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement(`[role=option]`)
	p.Quiet()
	home := func() {
		p.Until(`() => !document.querySelector('[role=dialog], [role=menu]')`)
		p.Until(`() => document.activeElement !== document.body && document.activeElement !== null`)
		was := inFocus(p)
		p.Press(input.ArrowDown)
		otherwise(p, was)
	}
	for _, dialog := range []input.Key{'3', '4', '6', 'l'} {
		p.Press(dialog)
		p.Until(`() => document.querySelector('[role=dialog]:not([aria-busy])') !== null`)
		p.Press(input.Escape)
		home()
	}
	decided := inFocus(p)
	p.Press('2') // the row that had it has left
	p.Until(`(row) => `+theRow+` !== row`, decided)
	home()
	p.Press('u') // and is in focus once it is back
	p.Until(`(row) => `+theRow+` === row`, decided)
	home()
}

// A part of the page that can't be fetched breaks nothing: it says so, what one was at
// stays, and it is there once it can be fetched.
func TestAPartThatCannotBeFetched(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Quiet()
	title := focused(p)
	addr := strings.TrimPrefix(e.url, "http://")
	e.stop()
	p.Press('?')
	p.See("could not be fetched")
	assert.Equal(t, title, focused(p))
	p.Until(`() => document.querySelector('[role=dialog]') === null`)
	p.Press(input.ArrowDown) // the keys are the list's again
	p.Until(`(was) => document.querySelector('section[aria-label=Letter] h1').innerText !== was`, title)
	e.start(addr)
	p.Press('?')
	p.MustElementR("[role=dialog]", "press one to change it")
}
