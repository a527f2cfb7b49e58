package app

import (
	"context"
	"errors"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Reach signs in at a mail server where letters are read.
type Reach func(ctx context.Context, server post.Server, login post.Login) (post.Mailbox, error)

// Secrets keeps the passwords of mail servers, by their accounts.
type Secrets interface {
	Get(account int64) (string, error)
	Set(account int64, password string) error
}

// syncers are the accounts that are kept like their mail servers in this process.
type syncers struct {
	mu      sync.Mutex
	running map[int64]*syncer
	// blamed is how often a connection broke off before a letter had come.
	blamed map[copyAt]int
}

// syncer keeps an account like its mail server, in both directions.
type syncer struct {
	app     *App
	who     store.Who
	account int64
	cancel  context.CancelFunc
	ended   chan struct{}
	// wake lets it look at once: something was done here, or the person wants it.
	wake chan struct{}
	// looked is how each folder stood when it was last looked at, in this connection.
	looked map[int64]post.Opened
	// holds tells that the server has, or is to have, a folder for what the gate holds.
	holds bool
	// unseen tells that a folder could not be looked at this time.
	unseen bool
	// whole is when all folders were last looked at.
	whole time.Time
}

const (
	// wholeAgain is how long the folders that no news come from may differ.
	wholeAgain = time.Minute
	// longestPause is the longest that Ebbe waits before it tries a server again.
	longestPause = 10 * time.Minute
)

// StartSyncing keeps all accounts that have a mail server like it, until StopSyncing.
func (a *App) StartSyncing(ctx context.Context) error {
	all, err := a.Store.Connected(ctx)
	for account, who := range all {
		a.startSyncer(who, account)
	}
	return err
}

// StopSyncing ends that; what is under way goes on at the next start.
func (a *App) StopSyncing() {
	a.syncers.mu.Lock()
	list := make([]*syncer, 0, len(a.syncers.running))
	for _, y := range a.syncers.running {
		list = append(list, y)
	}
	a.syncers.running = nil
	a.syncers.mu.Unlock()
	for _, y := range list {
		y.cancel()
		<-y.ended
	}
}

func (a *App) newSyncer(who store.Who, account int64) *syncer {
	return &syncer{app: a, who: who, account: account, ended: make(chan struct{}), wake: make(chan struct{}, 1), looked: map[int64]post.Opened{}}
}

// startSyncer keeps one account like its server; one that is kept is woken.
func (a *App) startSyncer(who store.Who, account int64) {
	if a.Reach == nil {
		return
	}
	a.syncers.mu.Lock()
	defer a.syncers.mu.Unlock()
	if a.syncers.running[account] != nil {
		return
	}
	y := a.newSyncer(who, account)
	ctx, cancel := context.WithCancel(context.Background())
	y.cancel = cancel
	if a.syncers.running == nil {
		a.syncers.running = map[int64]*syncer{}
	}
	a.syncers.running[account] = y
	go y.run(ctx)
}

// stopSyncer ends the keeping of one account and waits until that is so.
func (a *App) stopSyncer(account int64) {
	a.syncers.mu.Lock()
	y := a.syncers.running[account]
	delete(a.syncers.running, account)
	a.syncers.mu.Unlock()
	if y != nil {
		y.cancel()
		<-y.ended
	}
}

// look lets it look at once.
func (y *syncer) look() {
	select {
	case y.wake <- struct{}{}:
	default:
	}
}

// run keeps the account like its server until ctx ends. Whatever fails is said to
// the person and tried again.
func (y *syncer) run(ctx context.Context) {
	defer close(y.ended)
	news, stop := y.app.Listen(y.who)
	defer stop()
	go func() {
		for {
			select {
			case <-ctx.Done():
				return
			case <-news:
				y.look()
			}
		}
	}()
	for tries := 0; ctx.Err() == nil; tries++ {
		began := time.Now()
		err := y.connected(ctx)
		if ctx.Err() != nil || errors.Is(err, errPaused) {
			return
		}
		if time.Since(began) > longestPause {
			tries = 0
		}
		y.say(err)
		select {
		case <-ctx.Done():
		case <-time.After(min(longestPause, 2*time.Second<<min(tries, 12))):
		}
	}
}

// errPaused ends the keeping of an account that the person has paused.
var errPaused = errors.New("paused")

// connected is one connection: both sides are made alike whenever something happens on
// either.
func (y *syncer) connected(ctx context.Context) (err error) {
	defer y.app.Caught("keeping an account like its server", &err)
	box, r, err := y.app.reach(ctx, y.who, y.account)
	if err != nil {
		return err
	}
	defer func() { _ = box.Close() }()
	clear(y.looked)
	y.whole = time.Time{}
	for look := true; ; {
		if err := y.round(ctx, box, look); err != nil {
			return err
		}
		if r.Trouble != "" {
			r.Trouble = ""
			y.say(nil)
		}
		inbox, err := y.inbox()
		if err != nil {
			return err
		}
		opened, err := box.Open(inbox.Name)
		if err != nil {
			return err
		}
		if last, ok := y.looked[inbox.ID]; inbox.ID != 0 && (!ok || last != opened) { // since it was looked at
			look = true
			continue
		}
		// What was done here alone is only told: nobody looks through a large inbox for it.
		woken, err := box.Wait(y.wake, wholeAgain)
		if err != nil {
			return err
		}
		look = !woken || time.Since(y.whole) >= wholeAgain
	}
}

// reach signs in at the server of an account.
func (a *App) reach(ctx context.Context, who store.Who, account int64) (post.Mailbox, store.Remote, error) {
	r, err := read(ctx, a, who, func(tx *store.Tx) (store.Remote, error) { return tx.Remote(account) })
	if err != nil {
		return nil, r, err
	}
	if r.Paused {
		return nil, r, errPaused
	}
	login, err := a.login(ctx, r, false)
	if err != nil {
		return nil, r, err
	}
	box, err := a.Reach(ctx, post.Server(r.Incoming), login)
	var f *post.Fault
	if errors.As(err, &f) && f.Step == post.AtPassword && login.Bearer != "" { // taken back before its time
		if login, err = a.login(ctx, r, true); err != nil {
			return nil, r, err
		}
		box, err = a.Reach(ctx, post.Server(r.Incoming), login)
	}
	return box, r, err
}

// say keeps why the server can't be used just now; nil for that it can.
func (y *syncer) say(why error) {
	text := ""
	if why != nil {
		text = "The connection was cut; it is tried again by itself."
		var f *post.Fault
		if errors.As(why, &f) {
			text = f.Reason
		}
		y.app.Log.Warn("an account is not kept like its server just now", "account", y.account, "reason", why)
	}
	err := y.app.Store.Write(context.Background(), y.who, func(tx *store.Tx) error {
		r, err := tx.Remote(y.account)
		if err != nil || r.Trouble == text {
			return err
		}
		r.Trouble = text
		return tx.SaveRemote(r)
	})
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		y.app.Log.Error("why an account is not kept like its server could not be kept", "account", y.account, "reason", err)
	}
	y.publish()
}

// publish tells open pages how far it is.
func (y *syncer) publish() {
	y.app.Publish(y.who.Inbox, work.News{Stale: []work.Reading{work.ReadAccounts}})
}

// inbox is the inbox there.
func (y *syncer) inbox() (store.RemoteFolder, error) {
	folders, err := read(context.Background(), y.app, y.who, func(tx *store.Tx) ([]store.RemoteFolder, error) { return tx.RemoteFolders(y.account) })
	for _, f := range folders {
		if f.Role == remote.Inbox {
			return f, nil
		}
	}
	return store.RemoteFolder{Name: "INBOX"}, err
}

// round makes both sides alike: what happened there is taken in if it is to be looked, and
// what happened here is told.
func (y *syncer) round(ctx context.Context, box post.Mailbox, look bool) error {
	for {
		if look {
			if err := y.pull(ctx, box); err != nil {
				return err
			}
		}
		blind, err := y.push(ctx, box)
		if err != nil || !blind {
			return err
		}
		look = true
	}
}

// SyncOnce makes both sides alike once, and says why it could not.
func (a *App) SyncOnce(ctx context.Context, who store.Who, account int64) error {
	box, _, err := a.reach(ctx, who, account)
	if err != nil {
		return err
	}
	err = a.newSyncer(who, account).round(ctx, box, true)
	return errors.Join(err, box.Close())
}
