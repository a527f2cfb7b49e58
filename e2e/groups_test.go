package e2e

import (
	"context"
	"crypto/rand"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// A group takes the focus and a decision as a whole; what is starred in it stays, until the key
// is pressed once more; and one undo brings back what went.
func TestAGroupIsDecidedOn(t *testing.T) {
	e := serve(t)
	ctx, who := context.Background(), store.Own(1)
	page, err := e.app.List(ctx, who, decide.Inbox, false, 0, "")
	require.NoError(t, err)
	var magdas []show.Row
	for _, r := range page.Rows {
		if r.From.Name == "Magda Wolny" {
			magdas = append(magdas, r)
		}
	}
	require.Greater(t, len(magdas), 1)
	_, err = e.app.Mark(ctx, who, app.Marking{Command: rand.Text(), On: []int64{magdas[0].ID}, Mark: "star"})
	require.NoError(t, err)
	before := e.inbox()

	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Click("As they came")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "By sender").MustClick()
	p.MustElement("[data-grouped][aria-current]")
	p.Until(`() => document.activeElement?.closest('[role=menu]') === null`)
	at := `(text) => document.querySelector('[data-grouped][aria-current]')?.innerText.includes(text)`
	for range 30 {
		if p.MustEval(at, "Magda Wolny").Bool() {
			break
		}
		was := p.MustEval(`() => document.querySelector('[data-grouped][aria-current]')?.id`).Str()
		p.Press('j')
		p.Until(`(was) => document.querySelector('[data-grouped][aria-current]')?.id !== was`, was)
	}
	p.Until(at, "Magda Wolny")
	p.See("from Magda Wolny")
	p.Press(' ')
	p.See(magdas[0].Title)
	assert.Empty(t, offences(p))
	p.Press('2')
	p.See("1 starred stay there")
	p.Sent()
	assert.Equal(t, before-len(magdas)+1, e.inbox())
	p.Until(at, "Magda Wolny")
	p.Press('2')
	p.Until(`() => ![...document.querySelectorAll('[data-grouped]')].some((g) => g.innerText.includes('Magda Wolny'))`)
	p.Sent()
	assert.Equal(t, before-len(magdas), e.inbox())
	p.Press('u')
	p.Until(`() => [...document.querySelectorAll('[data-grouped]')].some((g) => g.innerText.includes('Magda Wolny'))`)
	p.Sent()
	assert.Equal(t, before-len(magdas)+1, e.inbox())
	p.Press(input.Home)
	p.Click("By sender")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "As they came").MustClick()
	p.MustElement("[role=option]")
}

// The inbox is ordered by what matters first, a group of which opens by itself; what was learned of a
// sender is read, put right by a key, and forgotten.
func TestWhatMattersFirst(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Click("As they came")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "What matters first").MustClick()
	p.MustElementR("[data-grouped]", "Ranked high")
	p.Until(`() => { const list = [...document.querySelectorAll('[data-grouped]')]; const at = (text) => list.findIndex((g) => g.innerText.startsWith(text)); return at('Ranked high') === 0 && at('The rest') > 1 }`)
	assert.Empty(t, offences(p))
	p.Click("What matters first")
	p.Timeout(browser.Wait).MustElementR("[role=menuitemradio]", "As they came").MustClick()

	p.MustElementR("[role=option]", "A question about the gentians").MustClick()
	p.MustElementR("section[aria-label=Letter] h1", "A question about the gentians")
	p.Press('z') // all like this
	p.MustElementR("[role=status]", "selected from Magda Wolny")
	p.Until(`() => document.querySelectorAll('[role=option][aria-selected=true]').length > 1`)
	assert.Empty(t, offences(p))
	p.Press(input.Escape)

	p.MustElementR("[role=option]", "The attic").MustClick()
	p.MustElementR("section[aria-label=Letter] h1", "The attic")
	p.Press('y')
	p.MustElementR("[role=dialog] [aria-label='What matters'] p", "letters from signe@halvorsen.example you answered, followed up or handed on")
	assert.Empty(t, offences(p))
	p.Press('+')
	p.See("Ranked high: you said that it matters")
	p.MustElement(`[role=option] [aria-label="ranked high: you said that it matters"]`)
	p.Press('u')
	p.SeeNot("Ranked high: you said that it matters")
	p.Press('y')
	p.MustElementR("[role=dialog] button", "Forget what was learned").MustFocus()
	p.Press(input.Enter)
	p.See("Forgot what was learned of signe@halvorsen.example")
	p.Press('y')
	p.See("Nothing was learned of signe@halvorsen.example yet")
}
