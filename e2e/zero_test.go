package e2e

import (
	"context"
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/store"
)

// typist presses keys and counts them; a chord is one.
type typist struct {
	p    browser.Page
	keys int
}

func (k *typist) press(keys ...input.Key) {
	k.keys += len(keys)
	k.p.Press(keys...)
}

func (k *typist) write(text string) { k.p.Type(text) }

func (k *typist) send() {
	k.keys++
	control(k.p, input.Enter)
}

// A morning's inbox goes to zero by keys alone, in few of them, each letter to
// where it was meant to go.
func TestToZeroByKeys(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	k := &typist{p: p}
	left := e.inbox()
	require.GreaterOrEqual(t, left, 20)
	began := left
	meant := map[string]decide.Place{} // where each was meant to go, by its row
	for i := 0; left > 0; i++ {
		row := p.MustEval(`() => document.querySelector('[role=option][aria-selected=true]').id`).Str()
		switch i % 11 {
		case 0:
			k.press('4')
			p.See("What is to be done")
			k.press(input.Enter)
			meant[row] = decide.Archive
		case 1:
			k.press('3')
			p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
			k.write("fri 14")
			p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('what you typed')`)
			k.press(input.Enter)
			meant[row] = decide.Later
		case 2:
			k.press('1')
			p.MustElement("textarea[aria-label=Text]:focus")
			k.write("Thank you, that is fine with me.")
			p.Until(`() => document.querySelector('textarea[aria-label=Text]').value.startsWith('Thank you, that is fine')`)
			k.send()
			p.Until(`() => !document.querySelector('textarea[aria-label=Text]')`)
			meant[row] = decide.Archive
		case 3:
			k.press('6')
			p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
			k.write("rec")
			p.Until(`() => document.querySelector('[role=dialog] [aria-selected=true]')?.innerText.includes('receipts')`)
			k.press(input.Enter)
			meant[row] = decide.Archive
		case 4, 5:
			k.press('7')
			meant[row] = decide.Bin
		default:
			k.press('2')
			meant[row] = decide.Archive
		}
		left--
		p.Until(`(n) => document.querySelector('nav[aria-label=Views] a').innerText.replace(/\D/g, '') === String(n) && !document.querySelector('[role=dialog]')`, left)
	}
	p.See("Low water")
	// What is sorted out goes by kinds.
	lies, err := e.app.Shallows(context.Background(), store.Own(1))
	require.NoError(t, err)
	k.press('v', 'l')
	p.See("nothing here counts for zero")
	for left := lies.N; left > 0; {
		k.press(input.Home)
		p.Until(`() => document.querySelector('[data-shallow][aria-current] h2') !== null`)
		k.press('2')
		was := left
		p.Until(`(was) => Number(document.querySelector('nav[aria-label=Views] a[href="/shallows"]').innerText.replace(/\D/g, '')) < was`, was)
		left = p.MustEval(`() => Number(document.querySelector('nav[aria-label=Views] a[href="/shallows"]').innerText.replace(/\D/g, ''))`).Int()
	}
	p.See("Nothing lies here")
	assert.LessOrEqual(t, k.keys*10, 18*(began+lies.N), "%d keys for %d letters", k.keys, began+lies.N)
	assert.Zero(t, e.inbox())
	sorted := 0
	for _, place := range []decide.Place{decide.Archive, decide.Bin, decide.Later} {
		page, err := e.app.List(context.Background(), store.Own(1), place, false, 0, "")
		require.NoError(t, err)
		for _, r := range page.Rows {
			if to, ok := meant[fmt.Sprintf("row-%d", r.ID)]; ok {
				assert.Equal(t, to, place, r.Title)
				sorted++
			}
		}
	}
	assert.Equal(t, began, sorted)
}
