package e2e

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// doorway stands before an Ebbe and keeps back what goes through it: what a slow line
// does, and one that breaks. The browser could keep requests back too, but on a busy
// machine some go past it.
type doorway struct {
	t  *testing.T
	mu sync.Mutex
	keeps
}

// keeps is what a doorway keeps back; nothing while there is no path.
type keeps struct {
	path string
	what kept
	lets int           // how many go through before
	met  chan struct{} // one for each that is kept back
	open chan struct{} // closed when they may go on
}

// kept is what is kept back of what goes through.
type kept int

const (
	answers kept = iota // of what is only asked; the server has given them already
	requests
	connections // closed in the middle
)

// before puts a doorway before an Ebbe, which is reached through it from then on.
func before(e *ebbe) *doorway {
	e.t.Helper()
	to, err := url.Parse(e.url)
	require.NoError(e.t, err)
	d := &doorway{t: e.t}
	proxy := httputil.NewSingleHostReverseProxy(to)
	proxy.FlushInterval = -1 // the stream of changes goes on at once
	proxy.ModifyResponse = func(r *http.Response) error {
		k := d.meets(r.Request, answers)
		if k == nil {
			return nil
		}
		body, err := io.ReadAll(r.Body)
		r.Body = io.NopCloser(bytes.NewReader(body))
		k.wait(r.Request.Context())
		return err
	}
	proxy.ErrorHandler = func(w http.ResponseWriter, _ *http.Request, _ error) { w.WriteHeader(http.StatusBadGateway) }
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if k := d.meets(r, requests); k != nil {
			k.wait(r.Context())
		}
		if d.meets(r, connections) != nil {
			panic(http.ErrAbortHandler)
		}
		proxy.ServeHTTP(w, r)
	}))
	e.t.Cleanup(front.Close)
	e.t.Cleanup(front.CloseClientConnections) // before that: a stream of changes never ends by itself
	e.url = front.URL
	return d
}

// meets gives what keeps a request back, or nil.
func (d *doorway) meets(r *http.Request, what kept) *keeps {
	d.mu.Lock()
	defer d.mu.Unlock()
	asks := r.Method == http.MethodGet || r.URL.Path == "/api/board" // which takes a body
	if d.path == "" || d.what != what || (what == answers && !asks) || !strings.HasPrefix(r.URL.Path, d.path) {
		return nil
	}
	if d.lets > 0 {
		d.lets--
		return nil
	}
	k := d.keeps
	return &k
}

func (k *keeps) wait(ctx context.Context) {
	k.met <- struct{}{}
	select {
	case <-k.open:
	case <-ctx.Done(): // given up by the page
	}
}

// keep keeps back what goes to a path, once some have gone through, until what it gives
// is called.
func (d *doorway) keep(what kept, path string, lets int) (letGo func()) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.keeps = keeps{path, what, lets, make(chan struct{}, 100), make(chan struct{})}
	open := d.open
	letGo = sync.OnceFunc(func() {
		d.mu.Lock()
		d.path = ""
		d.mu.Unlock()
		close(open)
	})
	d.t.Cleanup(letGo) // nothing is kept for good
	return letGo
}

// wait waits until something is kept back.
func (d *doorway) wait() {
	d.t.Helper()
	select {
	case <-d.met:
	case <-time.After(browser.Wait):
		d.t.Fatalf("nothing asks for %s", d.path)
	}
}

// A list that was being read when a row of it was decided has that row still; it
// brings it back in no list, however late the answer comes.
func TestAnAnswerThatComesLateBringsNothingBack(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	for i, list := range []struct {
		name, path, asks string
		key              input.Key
	}{
		{"the inbox", "/inbox", "/api/places/inbox", '2'},
		{"a place", "/archive", "/api/places/archive", '7'},
		{"Ahead", "/ahead", "/api/ahead", '7'},
		{"the follow-ups", "/follow-ups", "/api/board", '2'},
		{"Waiting", "/waiting", "/api/waiting", '2'},
	} {
		goTo(p, e.url+list.path)
		first := inFocus(p)
		letGo := d.keep(answers, list.asks, 0)
		// Another page changes what every list goes by: the hours of the day.
		_, err := e.app.EditSettings(context.Background(), store.Own(1), fmt.Sprint("another-page-", i, "-changes"), app.SettingsFields{Zone: new([]string{"Europe/Stockholm", "Europe/Oslo"}[i%2])})
		require.NoError(t, err)
		d.wait()
		p.Press(list.key)
		otherwise(p, first)
		p.Sent()
		letGo()
		p.Quiet()
		p.Quiet()
		assert.False(t, p.MustEval(hasRow, first).Bool(), list.name)
	}
}

// What is read at the pause is given up for what another page has changed meanwhile;
// that is read for all that, and what was decided stays away.
func TestAReadingThatIsGivenUpIsMadeUpFor(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	goTo(p, e.url+"/ahead")
	first := inFocus(p)
	letGo := d.keep(answers, "/api/ahead", 0)
	p.Press('7')
	otherwise(p, first)
	p.Sent()
	d.wait() // at the pause
	_, err := e.app.NewAppointment(context.Background(), store.Own(1), "an-appointment-meanwhile", app.AppointmentFields{Title: new("Elsewhere meanwhile"), When: new("today 17:00"), Minutes: new(30)}, 0)
	require.NoError(t, err)
	p.Until(`(n) => document.querySelector('nav[aria-label=Views] a[href="/ahead"]').textContent.endsWith(n)`, fmt.Sprint(" ", e.overview().Ahead)) // it has heard of it
	letGo()
	p.See("Elsewhere meanwhile")
	assert.False(t, p.MustEval(hasRow, first).Bool())
}

// Whoever goes to another list while one is being read sees the one they went to; and
// an answer for a list that was left is no longer waited for.
func TestAListThatIsSlowKeepsNobody(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Quiet()
	d.keep(answers, "/api/ahead", 0)
	p.MustElement(`nav[aria-label=Views] a[href="/ahead"]`).MustClick()
	d.wait()
	p.Until(`() => document.querySelector('main [aria-busy=true], main [aria-busy=""]') !== null`) // it says that it reads
	p.MustElement(`nav[aria-label=Views] a[href="/follow-ups"]`).MustClick()
	p.Until(`() => location.pathname === '/follow-ups' && document.querySelectorAll('main [id^="row-"], main [aria-current]').length > 0`)
	p.MustElement(`nav[aria-label=Views] a[href="/inbox"]`).MustClick()
	p.Until(`() => location.pathname === '/inbox' && document.querySelector('[role=option]') !== null`)
	first := inFocus(p)
	p.Press('2')
	otherwise(p, first)
	p.Sent()
}

// The letter in focus is decided before it could be shown; what was asked for of it
// comes late and shows nothing.
func TestALetterThatComesLateIsNotShown(t *testing.T) {
	e := serve(t)
	d := before(e)
	p := e.open(browser.Desk, false)
	p.MustElement("[role=option]")
	p.Quiet()
	was := inFocus(p)
	p.Press(input.ArrowDown)
	otherwise(p, was)
	letGo := d.keep(answers, "/api/conversations/", 0)
	for range 3 {
		now := inFocus(p)
		p.Press(input.ArrowDown)
		otherwise(p, now)
	}
	last := inFocus(p)
	p.Press('2')
	next := otherwise(p, last)
	p.Sent()
	letGo()
	p.Quiet()
	assert.Equal(t, next, inFocus(p))
	assert.False(t, p.MustEval(hasRow, last).Bool())
	p.Until(`(id) => {
		const title = document.querySelector('section[aria-label=Letter] h1')?.innerText
		return title && document.getElementById(id).innerText.includes(title)
	}`, next)
}
