package e2e

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// What was done is said where it hides nothing that one types on a phone.
func TestWhatIsSaidHidesNoField(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Phone, false)
	p.MustElement("[role=option]")
	p.Press('2')
	p.MustElement("[data-sonner-toast]")
	p.Press('1')
	p.MustElement("[data-writing]:focus")
	p.Until(`() => {
		const field = document.activeElement.getBoundingClientRect()
		return [...document.querySelectorAll('[data-sonner-toast]')].every((t) => {
			const said = t.getBoundingClientRect()
			return said.bottom <= field.top || said.top >= field.bottom
		})
	}`)
	p.Sent()
}

// On a phone what is ahead, who is waited for and what is to be followed up are
// worked with by touch alone.
func TestTheOtherListsByTouch(t *testing.T) {
	e := serve(t)
	ctx, who := context.Background(), store.Own(1)
	p := e.open(browser.Phone, true)
	p.MustElement("[role=option]")

	goTo(p, e.url+"/ahead")
	before, err := e.app.Ahead(ctx, who)
	require.NoError(t, err)
	first := inFocus(p)
	p.MustElement(`main [aria-current=true] button[aria-label^="Move "]`).MustTap()
	p.MustElement(`[role=dialog] input`)
	p.Type("in 20 days")
	p.Press(input.Enter)
	p.Until(`() => !document.querySelector('[role=dialog]')`)
	p.Sent()
	moved, err := e.app.Ahead(ctx, who)
	require.NoError(t, err)
	assert.Len(t, moved.Entries, len(before.Entries))
	assert.NotEqual(t, before.Entries[0].ID, moved.Entries[0].ID, "the first is further on")
	p.Until(`(id) => `+theRow+` !== '' && document.querySelector('main [data-entry]').id !== id`, first)
	second := inFocus(p)
	p.MustElement(`main [aria-current=true] button[aria-label^="More for "]`).MustTap()
	p.MustElementR("[role=menuitem]", "^Cancel$").MustTap()
	p.Until(`(id) => document.getElementById(id) === null`, second)
	p.Sent()
	cancelled, err := e.app.Ahead(ctx, who)
	require.NoError(t, err)
	assert.Len(t, cancelled.Entries, len(before.Entries)-1)

	goTo(p, e.url+"/waiting")
	waits, err := e.app.WaitingList(ctx, who, false)
	require.NoError(t, err)
	answered := inFocus(p)
	p.MustElementR("main [aria-current=true] button", "^Answered$").MustTap()
	p.Until(`(id) => document.getElementById(id) === null`, answered)
	p.Sent()
	left, err := e.app.WaitingList(ctx, who, false)
	require.NoError(t, err)
	assert.Len(t, left, len(waits)-1)
	p.MustElementR("[role=radio]", "^Settled$").MustTap()
	p.See("Wait again")

	goTo(p, e.url+"/follow-ups")
	assert.LessOrEqual(t, p.MustEval(`() => document.documentElement.scrollWidth`).Int(), browser.Phone.Width)
	done := inFocus(p)
	p.MustElement(`main [aria-current=true] button[aria-label^="Complete "]`).MustTap()
	p.Until(`(id) => document.getElementById(id) === null`, done)
	p.Sent()
	after, err := e.app.Board(ctx, who, show.Arranged{By: "due", Closed: true})
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(after.Lanes, func(l show.BoardLane) bool {
		return slices.ContainsFunc(l.IDs, func(id int64) bool { return strings.HasSuffix(done, fmt.Sprint("-", id)) })
	}), "%s is done", done)
}
