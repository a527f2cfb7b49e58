// Package running puts a whole Ebbe together and runs it: the page and its API, the
// post office that stands in for the mail service, and what falls due. The program
// and the tests of the interface run the same.
package running

import (
	"cmp"
	"context"
	"crypto/x509"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"github.com/jonboulle/clockwork"

	"ebbe.example/ebbe/internal/apart"
	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/folder"
	"ebbe.example/ebbe/internal/lists"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/post/imap"
	"ebbe.example/ebbe/internal/postoffice"
	"ebbe.example/ebbe/internal/postoffice/authority"
	"ebbe.example/ebbe/internal/postoffice/listserver"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/vault"
	"ebbe.example/ebbe/internal/webui"
)

// Options say what is served, and where.
type Options struct {
	File string // the database; its folder is made if it is missing
	Demo bool   // with the demo's clock, its bar and its correspondents
	// Web and Mail are the addresses of the page and of the post office; port 0 for
	// any.
	Web, Mail string
	// Outside is the address of the mail server that stands in for one outside, in the
	// demo; "" for any of this machine.
	Outside string
	// SignIn is the address of what stands in for where one signs in there, likewise.
	SignIn string
	// Providers are where people can sign in instead of giving a password.
	Providers []app.Provider
	// Hosts are further names by which the server is known, Proxies the addresses of
	// those before it whose word on who asks is taken.
	Hosts, Proxies []string
	Log            *slog.Logger
	// Key is that of the passwords of mail servers, in base64; "" for the one in the
	// file beside the database. Roots are whom to trust beside those whom the machine
	// trusts; nil for these alone.
	Key   string
	Roots *x509.CertPool
	// Cert and CertKey are the files of the certificate to serve with; "" for none.
	// Secure tells that people reach it over TLS in any case.
	Cert, CertKey string
	Secure        bool
	MetricsToken  string // see api.Config
	// Hook is called at named points, for tests of what survives; nil for none.
	Hook func(point string)
	// ReadFiles begins a process that reads files (apart.Serve); nil where none are read.
	ReadFiles func() *exec.Cmd
	// SaveTo is the folder into which rules save files; "" for none.
	SaveTo string
}

// Ebbe is one that runs.
type Ebbe struct {
	App       *app.App
	Web, Mail string // where it is reached

	server *http.Server
	office *postoffice.Office
	mail   net.Addr // of the post office
	// mailstore is the stand-in for a mail server outside; nil for none.
	mailstore *mailstore.Server
	// lists stand in for mailing lists outside; nil for none.
	lists      *listserver.Server
	authority  *http.Server
	cancel     context.CancelFunc
	ended      chan error    // what ended the page, nil when it was stopped
	due        chan struct{} // closed when nothing falls due any more
	synced     chan struct{} // closed when no more accounts are connected
	learned    chan struct{} // closed when nothing is learned any more
	filed      chan struct{} // closed when no files are read any more
	saved      chan struct{} // closed when no files are saved any more
	lookedBack chan struct{} // closed when no days are read ahead any more
}

// patience is how long a file may be read.
const patience = 20 * time.Second

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
	a.Hook, a.MadeUp = o.Hook, demo.Small
	if o.ReadFiles != nil {
		a.Texts = &apart.Reader{Command: o.ReadFiles, Patience: patience}
	}
	if o.SaveTo != "" {
		a.Folder = folder.Folder(o.SaveTo)
	}
	if err := reaching(a, o); err != nil {
		return nil, errors.Join(err, s.Close())
	}
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
		App: a, Web: web.Addr().String(), Mail: mail.Addr().String(), mail: mail.Addr(),
		office: &postoffice.Office{App: a, Log: o.Log}, ended: make(chan error, 1), due: make(chan struct{}),
	}
	config := api.Config{App: a, Page: webui.Files(), Log: o.Log, Hosts: o.Hosts, Proxies: o.Proxies, Secure: o.Secure, MetricsToken: o.MetricsToken}
	if o.Demo {
		bar := demo.New(a)
		bar.ListServer = &listserver.Server{Lists: demo.Lists, File: o.File + ".lists", Now: a.Now}
		if err := bar.ListServer.Start(); err != nil {
			return nil, errors.Join(err, web.Close(), mail.Close())
		}
		e.lists = bar.ListServer
		a.Lists = lists.Outside{Dial: e.lists.Dial, Roots: e.lists.Roots(), LookupTXT: e.lists.LookupTXT}
		e.office.Correspondent = demo.Correspondents{Lists: e.lists}
		bar.Office = e.Mail
		if bar.Outside, err = e.outside(ctx, o); err != nil {
			return nil, errors.Join(err, web.Close(), mail.Close())
		}
		config.Demo = bar
	}
	if !o.Demo {
		a.Lists = lists.Outside{}
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
	e.synced = make(chan struct{})
	go func() {
		defer close(e.synced)
		e.keepSynced(ctx, o.Log)
	}()
	e.learned = make(chan struct{})
	go func() {
		defer close(e.learned)
		a.KeepLearning(ctx)
	}()
	e.filed = make(chan struct{})
	go func() {
		defer close(e.filed)
		if a.Texts != nil {
			a.KeepReadingFiles(ctx)
		}
	}()
	e.saved = make(chan struct{})
	go func() {
		defer close(e.saved)
		if a.Folder != nil {
			a.KeepSaving(ctx)
		}
	}()
	e.lookedBack = make(chan struct{})
	go func() {
		defer close(e.lookedBack)
		a.LookBack(ctx)
	}()
	go func() {
		defer close(e.due)
		a.Run(ctx)
	}()
	go func() {
		err := e.serve(web, o)
		if errors.Is(err, http.ErrServerClosed) {
			err = nil
		}
		e.ended <- err
	}()
	return e, nil
}

// outside starts the mail server that stands in for the one of the demo's private
// address.
func (e *Ebbe) outside(ctx context.Context, o Options) (*demo.Outside, error) {
	secure, roots, err := mailstore.Certify(standIn)
	if err != nil {
		return nil, err
	}
	server := &mailstore.Server{Folder: o.File + ".outside", TLS: secure, Log: o.Log}
	if err := e.signIn(server, &o); err != nil {
		return nil, err
	}
	if err := demo.FillOutside(ctx, e.App.Store, server); err != nil {
		return nil, err
	}
	l, err := net.Listen("tcp", cmp.Or(o.Outside, "127.0.0.1:0"))
	if err != nil {
		return nil, err
	}
	port := func(l net.Addr) int { return l.(*net.TCPAddr).Port } //nolint:forcetypeassert // it listens over TCP
	e.mailstore = server
	go func() {
		if err := server.Serve(l); err != nil {
			o.Log.Error("the stand-in mail server has ended", "reason", err)
		}
	}()
	o.Roots = roots
	if err := reaching(e.App, o); err != nil {
		return nil, err
	}
	out := &demo.Outside{
		Server: server, Store: e.App.Store, Reach: e.App.Reach,
		Incoming: post.Server{Host: standIn, Port: port(l.Addr()), Security: post.StartTLS}, Outgoing: post.Server{Host: standIn, Port: port(e.mail), Security: post.StartTLS},
	}
	e.App.Resolver = out
	e.office.Outside, e.office.TLS = out, secure
	return out, nil
}

// signIn starts what stands in for where one signs in for that server.
func (e *Ebbe) signIn(server *mailstore.Server, o *Options) error {
	const client = "ebbe"
	signs := &authority.Authority{Users: []string{demo.OutsideAddress}, Client: client, File: o.File + ".signed-in", Now: time.Now}
	if err := signs.Load(); err != nil {
		return err
	}
	l, err := net.Listen("tcp", cmp.Or(o.SignIn, "127.0.0.1:0"))
	if err != nil {
		return err
	}
	server.Allows = signs.Allows
	e.authority = &http.Server{Handler: signs, ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := e.authority.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			o.Log.Error("the stand-in for signing in has ended", "reason", err)
		}
	}()
	at := "http://" + l.Addr().String()
	o.Providers = append(o.Providers, app.Provider{
		Name: "Somebody’s mail", Hosts: []string{standIn}, ClientID: client, AuthorizeURL: at + authority.AuthorizePath, TokenURL: at + authority.TokenPath, Scopes: []string{"mail"},
	})
	return nil
}

// standIn is the name of the machine on which the stand-ins serve.
const standIn = "localhost"

// newAccounts is how often is looked for accounts that another process has connected.
const newAccounts = time.Minute

// keepSynced keeps accounts like their mail servers, also those that are connected later
// from a terminal.
func (e *Ebbe) keepSynced(ctx context.Context, log *slog.Logger) {
	for {
		if err := e.App.StartSyncing(ctx); err != nil && ctx.Err() == nil {
			log.Error("accounts are not kept like their mail servers", "reason", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(newAccounts):
		}
	}
}

// reaching lets accounts have mail servers.
func reaching(a *app.App, o Options) error {
	secrets, err := vault.Open(o.File, o.Key)
	if err != nil {
		return err
	}
	a.Secrets, a.Resolver, a.Providers = secrets, net.DefaultResolver, o.Providers
	a.Reach = func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error) {
		return imap.Dial(ctx, server, login, o.Roots)
	}
	a.Submit = func(server post.Server, login post.Login) app.Sender {
		return post.Submission{Server: server, Login: login, Roots: o.Roots, Timeout: sendTimeout}
	}
	return nil
}

func (e *Ebbe) serve(web net.Listener, o Options) error {
	if o.Cert != "" {
		return e.server.ServeTLS(web, o.Cert, o.CertKey)
	}
	return e.server.Serve(web)
}

// graceful is how long requests under way may take to come to their end.
const graceful = 5 * time.Second

// end ends the page: what is under way comes to its end, streams of changes are over with
// the context.
func (e *Ebbe) end() error {
	ctx, cancel := context.WithTimeout(context.Background(), graceful)
	defer cancel()
	if err := e.server.Shutdown(ctx); err != nil {
		return e.server.Close()
	}
	return nil
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
	err := errors.Join(e.end(), e.office.Stop())
	<-e.due
	<-e.synced
	<-e.learned
	<-e.filed
	<-e.saved
	<-e.lookedBack
	e.App.StopImports()
	e.App.StopSyncing()
	if e.lists != nil {
		err = errors.Join(err, e.lists.Stop())
	}
	if e.mailstore != nil {
		err = errors.Join(err, e.mailstore.Close(), e.authority.Close())
	}
	return errors.Join(err, e.App.Store.Close())
}
