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

// doorway stands before an Ebbe and keeps answers back, which the server has given
// already: what a slow line does.
type doorway struct {
	t    *testing.T
	mu   sync.Mutex
	path string        // of the answers that are kept back; "" for none
	kept chan struct{} // one for each that is
	open chan struct{} // closed when they may go on
}

// before puts a doorway before an Ebbe, which is reached through it from then on.
func before(e *ebbe) *doorway {
	e.t.Helper()
	to, err := url.Parse(e.url)
	require.NoError(e.t, err)
	d := &doorway{t: e.t}
	proxy := httputil.NewSingleHostReverseProxy(to)
	proxy.FlushInterval = -1 // the stream of changes goes on at once
	proxy.ModifyResponse = func(r *http.Response) error {
		d.mu.Lock()
		path, kept, open := d.path, d.kept, d.open
		d.mu.Unlock()
		asks := r.Request.Method == http.MethodGet || r.Request.URL.Path == "/api/board" // which takes a body
		if path == "" || !asks || !strings.HasPrefix(r.Request.URL.Path, path) {
			return nil
		}
		body, err := io.ReadAll(r.Body)
		r.Body = io.NopCloser(bytes.NewReader(body))
		kept <- struct{}{}
		<-open
		return err
	}
	proxy.ErrorHandler = func(w http.ResponseWriter, _ *http.Request, _ error) { w.WriteHeader(http.StatusBadGateway) }
	front := httptest.NewServer(proxy)
	e.t.Cleanup(front.Close)
	e.t.Cleanup(front.CloseClientConnections) // before that: a stream of changes never ends by itself
	e.url = front.URL
	return d
}

// keep keeps back the answers to what is asked at a path, until what it gives is
// called.
func (d *doorway) keep(path string) (letGo func()) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.path, d.kept, d.open = path, make(chan struct{}, 100), make(chan struct{})
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

// wait waits until an answer is kept back.
func (d *doorway) wait() {
	d.t.Helper()
	select {
	case <-d.kept:
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
		letGo := d.keep(list.asks)
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
	letGo := d.keep("/api/ahead")
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
	d.keep("/api/ahead")
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
	letGo := d.keep("/api/conversations/")
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
