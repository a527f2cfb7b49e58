package e2e

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/store"
)

// A rule is begun with the letter in sight, says what it would have done while it is made, acts on what
// comes, and what it did is taken back.
func TestARuleByKeys(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Press('v', 'g')
	p.See("Parcels on their way")
	assert.Empty(t, offences(p))
	p.Press('v', 'i')
	p.MustElement("[role=option]")
	p.KeyActions().Press(input.ShiftLeft).Type('R').MustDo()
	p.See("In the last 60 days")
	from := *p.MustElement("[aria-label='Value of “It meets all of these”, 1']").MustAttribute("value")
	assert.Contains(t, from, "@")
	p.MustElement("[aria-label=Name]").MustFocus()
	p.Type("Friends")
	p.MustElement("[aria-label='Label of step 1']").MustFocus()
	p.Type("friends")
	p.See("each: label friends")
	assert.Empty(t, offences(p))
	p.Click("Keep the rule")
	p.See("New rule “Friends”")
	p.See("What it did")
	_, err := e.app.Hold(t.Context(), store.Own(1), "hold-for-rules", app.Holding{})
	require.NoError(t, err)
	e.comes("From: " + from + "\r\nTo: ines@norrholm.example\r\nDate: Tue, 24 Nov 2026 08:00:00 +0100\r\nSubject: Tea on Friday\r\nMessage-ID: <tea@x.example>\r\n\r\nAt four?\r\n")
	p.See("Acted on 1 letter in 60 days")
	p.Click("Acted on 1 letter")
	p.See("Rule “Friends”: label friends: “Tea on Friday”")
	assert.Empty(t, offences(p))
	p.MustElement("[aria-label='Undo for “Tea on Friday”']").MustFocus()
	p.Press(input.Enter)
	p.See("(undone)")
	p.MustElement("li[aria-label=Friends] [role=switch]").MustFocus()
	p.Press(input.Space)
	p.See("Rule “Friends” off")
	small := e.open(browser.Phone, true)
	small.MustNavigate(e.url + "/rules")
	small.See("Friends")
	assert.Empty(t, offences(small))
}

// What is being changed outlives the page, and says so where it is changed or taken away elsewhere, or can't
// be tried.
func TestARuleIsChangedElsewhere(t *testing.T) {
	e := serve(t)
	ctx, who := t.Context(), store.Own(1)
	name, other := "Ferns", "Mosses"
	made, err := e.app.NewRule(ctx, who, rand.Text(), app.RuleFields{Name: &name, Conditions: &rule.Conditions{All: []rule.Condition{{Of: rule.Subject, Is: "fern"}}}, Steps: &[]routine.Step{{Do: routine.Star}}})
	require.NoError(t, err)
	key := ""
	routed, err := e.app.NewRoutine(ctx, who, rand.Text(), app.RoutineFields{Name: &name, Key: &key, Steps: &[]routine.Step{{Do: routine.Star}}})
	require.NoError(t, err)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	for path, c := range map[string]struct {
		rename, remove func() error
		keep           string
	}{
		"/rules": {func() error {
			_, err := e.app.EditRule(ctx, who, rand.Text(), made.ID, app.RuleFields{Name: &other})
			return err
		}, func() error {
			_, err := e.app.EditRule(ctx, who, rand.Text(), made.ID, app.RuleFields{Remove: true})
			return err
		}, "rule"},
		"/routines": {func() error {
			_, err := e.app.EditRoutine(ctx, who, rand.Text(), routed.ID, app.RoutineFields{Name: &other})
			return err
		}, func() error {
			_, err := e.app.EditRoutine(ctx, who, rand.Text(), routed.ID, app.RoutineFields{Remove: true})
			return err
		}, "routine"},
	} {
		p.MustNavigate(e.url + path).MustWaitLoad()
		p.MustElement("[aria-label=Ferns]")
		p.MustElementR("[aria-label=Ferns] button", "^Change$").MustClick()
		p.MustElement("[aria-label=Name]").MustFocus()
		p.Type(" of the north")
		p.MustReload().MustWaitLoad()
		p.Until(`() => document.querySelector('[aria-label=Name]')?.value.includes('of the north')`)
		require.NoError(t, c.rename())
		p.See("It was changed elsewhere meanwhile.")
		assert.Empty(t, offences(p))
		require.NoError(t, c.remove())
		p.See("It was taken away elsewhere.")
		p.Click("Keep the " + c.keep)
		p.See("New " + c.keep + " “")
	}
	p.MustNavigate(e.url + "/rules").MustWaitLoad()
	p.Click("New rule")
	p.MustElement("[aria-label='Value of “It meets all of these”, 1']").MustFocus()
	p.Type("bram")
	p.See("In the last 60 days")
	require.NoError(t, proto.NetworkEnable{}.Call(p))
	network := proto.NetworkEmulateNetworkConditions{Offline: true, DownloadThroughput: -1, UploadThroughput: -1}
	require.NoError(t, network.Call(p))
	p.Type("x")
	p.See("This is as it was before your last change")
	network.Offline = false
	require.NoError(t, network.Call(p))
	p.Until(`() => !document.querySelector('[aria-label=Trial]')?.textContent.includes('as it was before')`)
}

// What somebody has begun to make stays theirs: who signs in after them in the same browser doesn't meet
// it, and they find it again.
func TestWhatIsBegunIsOnesOwn(t *testing.T) {
	e := serve(t)
	_, err := e.app.Store.AddPerson(t.Context(), store.Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []store.Account{{Address: "tove@norrholm.example", Name: "Tove"}}, time.Now())
	require.NoError(t, err)
	p := e.open(browser.Desk, false)
	as := func(person int) {
		p.MustEval(`(person) => fetch('/api/session', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ person }) })`, person)
		p.MustNavigate(e.url + "/rules").MustWaitLoad()
		p.MustElementR("button", "New rule")
	}
	as(1)
	p.Click("New rule")
	p.MustElement("[aria-label=Name]").MustFocus()
	p.Type("Ferns of mine")
	as(2)
	p.Quiet()
	assert.False(t, p.MustHas("[aria-label=Name]"), "it is somebody else’s")
	as(1)
	p.Until(`() => document.querySelector('[aria-label=Name]')?.value === 'Ferns of mine'`)
}
