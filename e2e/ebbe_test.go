// Package e2e drives the real interface in headless Chromium.
package e2e

import (
	"context"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"runtime/debug"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/running"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// oneBrowser is shared by all tests; each opens a profile of its own.
var oneBrowser = sync.OnceValue(browser.Launch)

func TestMain(m *testing.M) {
	code := m.Run()
	if browserUsed {
		_ = oneBrowser().Close()
	}
	os.Exit(code)
}

var browserUsed bool

// openPage opens a page of its own. What can't be done in it fails this test alone:
// a panic would end those after it.
func openPage(t *testing.T, url string, size browser.Size, night bool) browser.Page {
	t.Helper()
	browserUsed = true
	fail := func(why any) { t.Fatalf("%v\n%s", why, debug.Stack()) }
	p := browser.Open(oneBrowser().WithPanic(fail), url, size, night)
	p.Fail = fail
	t.Cleanup(func() {
		ctx, cancel := context.WithTimeout(context.Background(), browser.Wait) // its own may have run out
		defer cancel()
		p := p.Context(ctx)
		if t.Failed() {
			if picture, err := p.Screenshot(false, nil); err == nil {
				_ = os.WriteFile(filepath.Join(os.TempDir(), "ebbe-failed.png"), picture, 0o600)
			}
		}
		_ = p.Close() // it may be closed already
	})
	return p
}

// world is the demo world, made once and copied for each test.
var world = sync.OnceValues(func() (string, error) {
	folder, err := os.MkdirTemp("", "ebbe-world-")
	if err != nil {
		return "", err
	}
	file := filepath.Join(folder, "world.db")
	return file, demo.Fill(context.Background(), file, io.Discard)
})

// flowing is the demo world without its delivery plan: held until half past
// eight, and open from then on.
var flowing = sync.OnceValues(func() (string, error) {
	made, err := world()
	if err != nil {
		return "", err
	}
	raw, err := os.ReadFile(made)
	if err != nil {
		return "", err
	}
	file := filepath.Join(filepath.Dir(made), "flowing.db")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		return "", err
	}
	ctx := context.Background()
	s, err := store.Open(file)
	if err != nil {
		return "", err
	}
	defer s.Close()
	if err := s.SetClockOffset(ctx, time.Until(demo.Begins())); err != nil {
		return "", err
	}
	clock, err := demo.NewClock(ctx, s)
	if err != nil {
		return "", err
	}
	a := app.New(s, clock, slog.New(slog.DiscardHandler))
	people, err := s.People(ctx)
	if err != nil {
		return "", err
	}
	who := store.Own(people[0].ID)
	if _, err := a.Hold(ctx, who, "flowing-hold", app.Holding{Until: "today 08:30"}); err != nil {
		return "", err
	}
	_, err = a.PutPlan(ctx, who, "flowing-plan", 0, &show.PlanDraft{})
	return file, err
})

// ebbe is a running Ebbe.
type ebbe struct {
	t    *testing.T
	app  *app.App
	file string
	url  string
	stop func()
}

// serve runs Ebbe with the demo world, in which mail flows.
func serve(t *testing.T) *ebbe { return serveFile(t, flowing) }

// servePlanned runs it with the demo's delivery plan in force.
func servePlanned(t *testing.T) *ebbe { return serveFile(t, world) }

func serveFile(t *testing.T, file func() (string, error)) *ebbe {
	t.Helper()
	made, err := file()
	require.NoError(t, err)
	raw, err := os.ReadFile(made)
	require.NoError(t, err)
	e := &ebbe{t: t, file: filepath.Join(t.TempDir(), "demo.db")}
	require.NoError(t, os.WriteFile(e.file, raw, 0o600))
	e.wind()
	e.start("127.0.0.1:0")
	t.Cleanup(func() {
		e.stop()
		s, err := store.Open(e.file)
		require.NoError(t, err)
		problems, err := s.CheckKept(context.Background())
		require.NoError(t, err)
		require.Empty(t, problems)
		require.NoError(t, s.Close())
	})
	return e
}

// wind sets the clock to the morning in which each test begins: it goes on while
// the tests before this one run, and past half past eight nothing is held.
func (e *ebbe) wind() {
	s, err := store.Open(e.file)
	require.NoError(e.t, err)
	require.NoError(e.t, s.SetClockOffset(context.Background(), time.Until(demo.Begins().Add(time.Second))))
	require.NoError(e.t, s.Close())
}

func (e *ebbe) start(addr string) {
	e.t.Helper()
	runs, err := running.Start(context.Background(), running.Options{File: e.file, Demo: true, Web: addr, Mail: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler)})
	require.NoError(e.t, err)
	e.app, e.url = runs.App, "http://"+runs.Web
	e.stop = func() { _ = runs.Stop() }
}

// open opens the interface and enters.
func (e *ebbe) open(size browser.Size, night bool) browser.Page {
	return openPage(e.t, e.url, size, night).Enter()
}
