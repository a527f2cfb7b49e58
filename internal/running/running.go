// Package running puts a whole Ebbe together and runs it: the page and its API, the
// post office that stands in for the mail service, and what falls due. The program
// and the tests of the interface run the same.
package running

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/webui"
)

// Options say what is served, and where.
type Options struct {
	File string // the database; its folder is made if it is missing
	Demo bool   // with the demo's clock, its bar and its correspondents
	// Web and Mail are the addresses of the page and of the post office; port 0 for
	// any.
	Web, Mail string
	// Hosts are further names by which the server is known, Proxies the addresses of
	// those before it whose word on who asks is taken.
	Hosts, Proxies []string
	Log            *slog.Logger
	// Hook is called at named points, for tests of what survives; nil for none.
	Hook func(point string)
}

// Ebbe is one that runs.
type Ebbe struct {
	App       *app.App
	Web, Mail string // where it is reached

	server *http.Server
	office *postoffice.Office
	cancel context.CancelFunc
	ended  chan error    // what ended the page, nil when it was stopped
	due    chan struct{} // closed when nothing falls due any more
}

// sendTimeout bounds how long a relay may take over a letter.
const sendTimeout = 20 * time.Second

// Open opens the database of an Ebbe that is not served.
func Open(ctx context.Context, o Options) (*app.App, error) {
	if err := os.MkdirAll(filepath.Dir(o.File), 0o755); err != nil {
		return nil, err
	}
	s, err := store.Open(o.File)
	if err != nil {
		return nil, err
	}
	clock := clockwork.NewRealClock()
	if o.Demo {
		if clock, err = demo.NewClock(ctx, s); err != nil {
			return nil, errors.Join(err, s.Close())
		}
	}
	a := app.New(s, clock, o.Log)
	a.Hook = o.Hook
	return a, nil
}

// Start runs it; Stop ends it.
func Start(ctx context.Context, o Options) (_ *Ebbe, err error) {
	a, err := Open(ctx, o)
	if err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, a.Store.Close())
		}
	}()
	web, err := net.Listen("tcp", o.Web)
	if err != nil {
		return nil, err
	}
	mail, err := net.Listen("tcp", o.Mail)
	if err != nil {
		return nil, errors.Join(err, web.Close())
	}
	e := &Ebbe{
		App: a, Web: web.Addr().String(), Mail: mail.Addr().String(),
		office: &postoffice.Office{App: a, Log: o.Log}, ended: make(chan error, 1), due: make(chan struct{}),
	}
	config := api.Config{App: a, Page: webui.Files(), Log: o.Log, Hosts: o.Hosts, Proxies: o.Proxies}
	if o.Demo {
		e.office.Correspondent = demo.Correspondents{}
		bar := demo.New(a)
		bar.Office = e.Mail
		config.Demo = bar
	}
	a.Alone = !o.Demo // only the demo has correspondents outside
	a.Post = e.office
	a.Sender = post.Relay{Addr: e.Mail, Timeout: sendTimeout}
	if err := a.ResumeImports(ctx); err != nil {
		return nil, errors.Join(err, web.Close(), mail.Close())
	}
	e.office.Start(mail)

	ctx, e.cancel = context.WithCancel(ctx)
	e.server = &http.Server{
		Handler: api.New(config), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	go func() {
		defer close(e.due)
		a.Run(ctx)
	}()
	go func() {
		err := e.server.Serve(web)
		if errors.Is(err, http.ErrServerClosed) {
			err = nil
		}
		e.ended <- err
	}()
	return e, nil
}

// Wait returns when ctx ends, or with the error that ended the page before.
func (e *Ebbe) Wait(ctx context.Context) error {
	select {
	case <-ctx.Done():
		return nil
	case err := <-e.ended:
		return err
	}
}

// Stop ends it and closes the database. What was accepted is kept; what is under way
// goes on at the next start.
func (e *Ebbe) Stop() error {
	e.cancel()
	err := errors.Join(e.server.Close(), e.office.Stop()) // open streams of changes would hold up a shutdown
	<-e.due
	e.App.StopImports()
	return errors.Join(err, e.App.Store.Close())
}
