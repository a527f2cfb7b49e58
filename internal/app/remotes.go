package app

import (
	"context"
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// RemoteView is the mail server of an account, as it is shown.
type RemoteView struct {
	Account  int64         `json:"account"`
	Login    string        `json:"login"`
	Incoming remote.Server `json:"incoming"`
	Outgoing remote.Server `json:"outgoing"`
	Paused   bool          `json:"paused"`
	Trouble  string        `json:"trouble,omitempty" doc:"Why it can’t be used just now"`
	// Holds and Purges are what the person has chosen; KeepsLabels tells that it keeps
	// keywords.
	SignIn      string `json:"signIn,omitempty" doc:"Where the person signs in instead of with a password"`
	Holds       bool   `json:"holds" doc:"What the gate holds waits in a folder of its own there"`
	Purges      bool   `json:"purges" doc:"What the bin lets go of is taken away there"`
	KeepsLabels bool   `json:"keepsLabels" doc:"Labels are told to it"`
	// Here and There count letters.
	Here     int        `json:"here" doc:"Letters of it that are here"`
	There    int        `json:"there" doc:"Letters that it has"`
	SyncedAt *time.Time `json:"syncedAt,omitempty" doc:"When both sides last agreed"`
	// Refused are the words of the server for what it would not do.
	Refused []string `json:"refused"`
}

// shownRefusals bounds what is listed of what a server would not do.
const shownRefusals = 5

// Remotes are the mail servers of the person's accounts.
func (a *App) Remotes(ctx context.Context, who store.Who) ([]RemoteView, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]RemoteView, error) {
		list, err := tx.Remotes()
		if err != nil {
			return nil, err
		}
		out := make([]RemoteView, len(list))
		for i, r := range list {
			v := RemoteView{
				Account: r.AccountID, Login: r.Login, Incoming: r.Incoming, Outgoing: r.Outgoing, Paused: r.Paused, Trouble: r.Trouble,
				SignIn: r.SignIn, Holds: r.Holds, Purges: r.Purges, Refused: []string{},
			}
			folders, err := tx.RemoteFolders(r.AccountID)
			if err != nil {
				return nil, err
			}
			v.KeepsLabels = slices.ContainsFunc(folders, func(f store.RemoteFolder) bool { return f.Keeps.Has(remote.Labels) })
			if !r.SyncedAt.IsZero() {
				v.SyncedAt = &list[i].SyncedAt
			}
			if v.Here, v.There, err = tx.RemoteProgress(r.AccountID); err != nil {
				return nil, err
			}
			failed, err := tx.FailedRemoteTasks(r.AccountID, shownRefusals)
			if err != nil {
				return nil, err
			}
			for _, t := range failed {
				if !slices.Contains(v.Refused, t.Trouble) {
					v.Refused = append(v.Refused, t.Trouble)
				}
			}
			out[i] = v
		}
		return out, nil
	})
}

// Servers are those of a domain.
type Servers struct {
	Incoming remote.Server `json:"incoming"`
	Outgoing remote.Server `json:"outgoing"`
	// Found tells that DNS names them; else they are a guess.
	Found bool `json:"found"`
	// Foreign names a server outside the domain of the address, to be confirmed
	// first; "" for none.
	Foreign string `json:"foreign,omitempty"`
}

// Resolver asks DNS for the servers of a service.
type Resolver interface {
	LookupSRV(ctx context.Context, service, proto, name string) (string, []*net.SRV, error)
}

// lookupTime bounds how long DNS may take.
const lookupTime = 5 * time.Second

// FindServers finds the mail servers for an address.
func (a *App) FindServers(ctx context.Context, address string) (Servers, error) {
	checked, err := letter.CheckAddress(address)
	if err != nil {
		return Servers{}, work.Invalid("address", "%v.", err)
	}
	_, domain, _ := strings.Cut(checked.Email, "@")
	ctx, cancel := context.WithTimeout(ctx, lookupTime)
	defer cancel()
	out := Servers{}
	out.Incoming, out.Outgoing = remote.Guess(domain)
	in, foundIn := a.service(ctx, remote.Incoming, domain)
	sub, foundOut := a.service(ctx, remote.Outgoing, domain)
	if foundIn {
		out.Incoming = in
	}
	if foundOut {
		out.Outgoing = sub
	}
	out.Found = foundIn && foundOut
	for _, s := range []remote.Server{out.Incoming, out.Outgoing} {
		if remote.Foreign(s, domain) && out.Foreign == "" {
			out.Foreign = s.Host
		}
	}
	return out, nil
}

// service is the first server that DNS names for one of the services.
func (a *App) service(ctx context.Context, services []remote.Service, domain string) (remote.Server, bool) {
	if a.Resolver == nil {
		return remote.Server{}, false
	}
	for _, s := range services {
		_, records, err := a.Resolver.LookupSRV(ctx, s.Name, "tcp", domain)
		if err != nil {
			continue // there is none, or nobody knows
		}
		for _, r := range records {
			if found, ok := s.Found(remote.Target{Host: r.Target, Port: int(r.Port)}); ok {
				return found, true
			}
		}
	}
	return remote.Server{}, false
}

// Connecting says how an account is connected with its mail server.
type Connecting struct {
	Account  int64
	Login    string
	Password string // "" for the one that is kept
	Incoming remote.Server
	Outgoing remote.Server
	// SignIn is where the person signs in instead; "" for nowhere.
	SignIn string
	// bearer is what they got there; the Password is then what it is renewed with.
	bearer string
}

// Tried is what came of trying to reach mail servers.
type Tried struct {
	Incoming TriedServer `json:"incoming"`
	Outgoing TriedServer `json:"outgoing"`
}

// OK tells that both can be used.
func (t Tried) OK() bool { return t.Incoming.OK && t.Outgoing.OK }

// TriedServer is what came of trying one.
type TriedServer struct {
	OK bool `json:"ok"`
	// Step is where it failed, Reason says it in words.
	Step   post.Step `json:"step,omitempty" enum:"name,port,tls,password,folder"`
	Reason string    `json:"reason,omitempty"`
	// Folders is how many folders there are.
	Folders int `json:"folders,omitempty"`
	// Most and Tells are what a server for sending offers; see post.Offers.
	Most  int64 `json:"most,omitempty" doc:"How large a letter may be, in bytes; left out where the server doesn't say"`
	Tells bool  `json:"tells,omitempty" doc:"It reports what becomes of letters"`
}

func failedAt(err error) TriedServer {
	var f *post.Fault
	if errors.As(err, &f) {
		return TriedServer{Step: f.Step, Reason: f.Reason}
	}
	return TriedServer{Step: post.AtPort, Reason: err.Error()}
}

// TryServers tries to reach the mail servers of an account, and changes nothing.
func (a *App) TryServers(ctx context.Context, who store.Who, c Connecting) (Tried, error) {
	if err := a.complete(ctx, who, &c); err != nil {
		return Tried{}, err
	}
	return a.try(ctx, c), nil
}

// complete checks what was typed, and takes the password that is kept if none was.
func (a *App) complete(ctx context.Context, who store.Who, c *Connecting) error {
	if a.Reach == nil || a.Secrets == nil {
		return work.Refuse("No mail server can be connected here.")
	}
	_, err := read(ctx, a, who, func(tx *store.Tx) (bool, error) {
		_, alive, err := tx.Account(c.Account)
		if err == nil && !alive {
			err = store.ErrNotFound
		}
		return alive, err
	})
	if err != nil {
		return work.Gone("That account is no longer there.")
	}
	for field, s := range map[string]*remote.Server{"incoming": &c.Incoming, "outgoing": &c.Outgoing} {
		s.Host = strings.TrimSpace(s.Host)
		if s.Host == "" || s.Port < 1 || s.Port > 65535 {
			return work.Invalid(field, "A server needs a name and a port.")
		}
		if !slices.Contains([]string{post.TLS, post.StartTLS, post.Plain}, s.Security) {
			return work.Invalid(field, "There is no such way to keep a connection private.")
		}
	}
	if c.Login = strings.TrimSpace(c.Login); c.Login == "" {
		return work.Invalid("login", "The server needs a name by which it knows you, mostly your address.")
	}
	if c.SignIn != "" {
		return a.signInFor(*c)
	}
	if c.Password != "" {
		return nil
	}
	return a.keptSecret(ctx, who, c)
}

// signInFor checks that what a provider gives is shown to no other server.
func (a *App) signInFor(c Connecting) error {
	p, ok := a.provider(c.SignIn)
	for field, s := range map[string]remote.Server{"incoming": c.Incoming, "outgoing": c.Outgoing} {
		if !ok || !p.isFor(s.Host) {
			return work.Invalid(field, "%s does not sign anybody in at %s.", c.SignIn, s.Host)
		}
	}
	return nil
}

// keptSecret takes what an account has signed in with so far.
func (a *App) keptSecret(ctx context.Context, who store.Who, c *Connecting) error {
	r, err := read(ctx, a, who, func(tx *store.Tx) (store.Remote, error) { return tx.Remote(c.Account) })
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if r.SignIn != "" {
		c.SignIn = r.SignIn
		if err := a.signInFor(*c); err != nil {
			return err
		}
		login, err := a.login(ctx, r, false)
		if err != nil {
			return work.Invalid("password", "%s", failedAt(err).Reason)
		}
		c.bearer = login.Bearer
	}
	if c.Password, err = a.Secrets.Get(c.Account); err != nil {
		return work.Invalid("password", "Type the password, or the app password, of this account.")
	}
	return nil
}

func (a *App) try(ctx context.Context, c Connecting) (t Tried) {
	login := post.Login{User: c.Login, Password: c.Password}
	if c.bearer != "" {
		login.Password, login.Bearer = "", c.bearer
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var both sync.WaitGroup // neither waits for a silent other
	both.Go(func() { t.Incoming = a.tryIncoming(ctx, post.Server(c.Incoming), login) })
	defer both.Wait()
	t.Outgoing.OK = true
	if tries, ok := a.Submit(post.Server(c.Outgoing), login).(interface {
		Try(context.Context) (post.Offers, error)
	}); ok {
		offers, err := tries.Try(ctx)
		t.Outgoing.Most, t.Outgoing.Tells = offers.Most, offers.Tells
		if err != nil {
			t.Outgoing = failedAt(err)
		}
	}
	return t
}

func (a *App) tryIncoming(ctx context.Context, server post.Server, login post.Login) TriedServer {
	box, err := a.Reach(ctx, server, login)
	if err != nil {
		return failedAt(err)
	}
	defer func() { _ = box.Close() }()
	folders, err := listed(box, false)
	if err == nil {
		_, err = box.Open("INBOX")
	}
	if err != nil {
		words, _ := box.Refused(err)
		return TriedServer{Step: post.AtFolder, Reason: strings.TrimSpace("The inbox can’t be opened. " + words)}
	}
	return TriedServer{OK: true, Folders: len(folders)}
}

// Connect connects an account with its mail server, if it can be reached. What it has is
// taken in from then on, and both are kept alike.
func (a *App) Connect(ctx context.Context, who store.Who, command string, c Connecting) (Decided, error) {
	if err := a.complete(ctx, who, &c); err != nil {
		return Decided{}, err
	}
	t := a.try(ctx, c)
	if !t.OK() {
		for field, s := range map[string]TriedServer{"outgoing": t.Outgoing, "incoming": t.Incoming} {
			if !s.OK {
				return Decided{}, work.Invalid(field, "%s", s.Reason)
			}
		}
	}
	a.stopSyncer(c.Account)
	if err := a.Secrets.Set(c.Account, c.Password); err != nil {
		return Decided{}, err
	}
	out, err := a.settleRemote(ctx, who, command, "Connected ", c.Account, func(s *step) error {
		r, err := s.Remote(c.Account)
		if errors.Is(err, store.ErrNotFound) || err == nil && r.Incoming.Host != c.Incoming.Host {
			// another server: what is known of the old one says nothing of it
			if err := s.DropRemote(c.Account); err != nil {
				return err
			}
			last, err := s.LastChangeOfAll()
			if err != nil {
				return err
			}
			r = store.Remote{AccountID: c.Account, MadeAt: s.At, ReadTo: last}
		} else if err != nil {
			return err
		}
		r.Person, r.Login, r.Incoming, r.Outgoing, r.SignIn, r.Paused, r.Trouble = who.Person, c.Login, c.Incoming, c.Outgoing, c.SignIn, false, ""
		if err := s.SaveRemote(r); err != nil {
			return err
		}
		return s.limitLetters(c.Account, t.Outgoing.Most)
	})
	if err == nil {
		a.startSyncer(who, c.Account)
	}
	return out, err
}

// limitLetters lets an account write no larger letters than its mail server takes.
func (s *step) limitLetters(account, most int64) error {
	row, _, err := s.Account(account)
	if err != nil {
		return err
	}
	limit := writing.Limit(row.SizeLimit, most)
	if limit < row.SizeLimit {
		s.Title += fmt.Sprintf("; it takes letters up to %s", writing.Megabytes(limit))
	}
	var changes change.List
	kinds.Account.SizeLimit.Set(&changes, account, row.SizeLimit, limit)
	return s.Change(changes)
}

// settleRemote is a step that says how an account is connected; it is not undone.
func (a *App) settleRemote(ctx context.Context, who store.Who, command, did string, account int64, fn func(*step) error) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "connect"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		s.Final = true
		x, _, err := s.Account(account)
		if err != nil {
			return Decided{}, work.Gone("That account is no longer there.")
		}
		s.Title = did + x.Address
		s.Stale(work.ReadAccounts)
		err = fn(s)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

// PauseRemote leaves the mail server of an account alone for a while, or goes on.
func (a *App) PauseRemote(ctx context.Context, who store.Who, command string, account int64, paused bool) (Decided, error) {
	did := map[bool]string{true: "Paused the mail server of ", false: "Went on with the mail server of "}[paused]
	out, err := a.settleRemote(ctx, who, command, did, account, func(s *step) error {
		r, err := s.Remote(account)
		if err != nil {
			return work.Gone("That account is not connected.")
		}
		r.Paused, r.Trouble = paused, ""
		return s.SaveRemote(r)
	})
	if err != nil {
		return out, err
	}
	a.stopSyncer(account)
	if !paused {
		a.startSyncer(who, account)
	}
	return out, nil
}

// RemoteSettings is what a person chooses for the mail server of an account.
type RemoteSettings struct {
	Holds  bool `json:"holds"`
	Purges bool `json:"purges"`
}

// SetRemote says what the mail server of an account holds and lets go of.
func (a *App) SetRemote(ctx context.Context, who store.Who, command string, account int64, set RemoteSettings) (Decided, error) {
	out, err := a.settleRemote(ctx, who, command, "Set what is held and let go of at the mail server of ", account, func(s *step) error {
		r, err := s.Remote(account)
		if err != nil {
			return work.Gone("That account is not connected.")
		}
		r.Holds, r.Purges = set.Holds, set.Purges
		return s.SaveRemote(r)
	})
	if err != nil {
		return out, err
	}
	return out, a.LookNow(ctx, who, account)
}

// Disconnect parts an account from its mail server. All letters stay, here and there.
func (a *App) Disconnect(ctx context.Context, who store.Who, command string, account int64) (Decided, error) {
	_, err := read(ctx, a, who, func(tx *store.Tx) (store.Remote, error) { return tx.Remote(account) })
	if err != nil {
		return Decided{}, work.Gone("That account is not connected.")
	}
	a.stopSyncer(account)
	out, err := a.settleRemote(ctx, who, command, "Disconnected ", account, func(s *step) error { return s.DropRemote(account) })
	if err != nil {
		return out, err
	}
	return out, a.Secrets.Set(account, "")
}

// LookNow lets the mail server of an account be looked at at once.
func (a *App) LookNow(ctx context.Context, who store.Who, account int64) error {
	_, err := read(ctx, a, who, func(tx *store.Tx) (store.Remote, error) { return tx.Remote(account) })
	if err != nil {
		return work.Gone("That account is not connected.")
	}
	a.stopSyncer(account)
	a.startSyncer(who, account)
	return nil
}
