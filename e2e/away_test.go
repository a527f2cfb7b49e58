package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/store"
)

// A letter can be put off while the server can't be reached: by the times that
// were read before; what can't be read says why, and the counts go along.
func TestLaterWithoutTheServer(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Quiet()
	p.Press('3') // the dialog is there once it was opened
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	p.Press(input.Escape)
	before := e.inbox()
	title := p.MustEval(`() => document.querySelector('section[aria-label=Letter] h1').innerText`).Str()

	require.NoError(t, proto.NetworkEnable{}.Call(p))
	network := proto.NetworkEmulateNetworkConditions{Offline: true, DownloadThroughput: -1, UploadThroughput: -1}
	require.NoError(t, network.Call(p))
	p.See("Ebbe can’t be reached")
	p.Press('3')
	p.Until(`() => document.activeElement.getAttribute('role') === 'combobox'`)
	p.Type("after the second frost")
	p.See("can’t be read without it")
	p.Press(input.Enter)
	p.MustElement("[role=dialog]")
	p.MustEval(`() => document.activeElement.select()`)
	p.Type("27 nov 2:15") // the core reads that as the afternoon; the page doesn't guess
	p.See("“27 nov 2:15” can’t be read without it")
	p.MustEval(`() => document.activeElement.select()`)
	p.Type("27 nov 14:15")
	p.Until(`() => [...document.querySelectorAll('[role=dialog] [role=option]')].some((o) => o.innerText.includes('14:15'))`)
	p.Press(input.Enter)
	p.Until(`(title) => document.querySelector('section[aria-label=Letter] h1').innerText !== title`, title)
	p.See("1 decision waits")
	p.Until(`(n) => document.querySelector('nav[aria-label=Views] a').innerText.includes(n)`, before-1)
	assert.Equal(t, before, e.inbox(), "the server doesn't know yet")

	network.Offline = false
	require.NoError(t, network.Call(p))
	p.SeeNot("Ebbe can’t be reached")
	p.Until(`() => !document.body.innerText.includes('decision waits')`)
	p.Sent() // with the server there it isn't told of a few that are on their way
	assert.Equal(t, before-1, e.inbox())
	ahead, err := e.app.Ahead(context.Background(), store.Own(1))
	require.NoError(t, err)
	var at *time.Time
	for _, one := range ahead.Entries {
		if one.Title == title {
			at = one.At
		}
	}
	require.NotNil(t, at)
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	assert.Equal(t, "2026-11-27 14:15", at.In(zone).Format("2006-01-02 15:04"))
}

// How old a letter is goes on with the clock, also where nothing else in its row
// has changed.
func TestAgesGoOnWithTheClock(t *testing.T) {
	e := serve(t)
	p := e.open(browser.Desk, false)
	const ages = `() => [...document.querySelectorAll('[role=option] time')].map((t) => t.innerText).slice(0, 3).join()`
	p.MustElement("[role=option]")
	p.Quiet()
	before := p.MustEval(ages).Str()
	p.MustElementR("aside[aria-label=Demo] button", `\+1 hour`).MustClick()
	p.Until(`(before) => (`+ages+`)() !== before`, before)
}
