// Package mailstore is the mail server that stands in for those outside: it keeps the
// letters of its users in folders and serves them over IMAP. What it keeps survives a
// restart, with the UIDs that letters had.
package mailstore

import (
	"crypto/tls"
	"errors"
	"log/slog"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
)

// usual are the folders that each user has, with their special uses (RFC 6154).
var usual = []struct {
	name string
	use  imap.MailboxAttr
}{
	{"INBOX", ""}, {"Archive", imap.MailboxAttrArchive}, {"Drafts", imap.MailboxAttrDrafts}, {"Junk", imap.MailboxAttrJunk}, {"Sent", imap.MailboxAttrSent}, {"Trash", imap.MailboxAttrTrash},
}

// Server is such a mail server. Its fields are set before it serves.
type Server struct {
	// Folder is where it keeps what survives; "" for nowhere.
	Folder string
	// TLS is what STARTTLS is made with; without, it serves in the open.
	TLS *tls.Config
	Log *slog.Logger
	// Allows, if set, tells whether a token lets its bearer act for somebody.
	Allows func(user, token string) bool
	// Without names what this server doesn't offer, so that clients can be tried
	// against lesser ones.
	Without []imap.Cap
	// Before, if set, is asked before each command of a client, by its name; an error is
	// what the client is told. Tests let it fail there.
	Before func(command string) error

	mu    sync.Mutex // guards all that follows
	users map[string]*user
	imap  *imapserver.Server
}

// user is somebody with letters here.
type user struct {
	name, password string
	folders        []*folder
	validity       uint32 // the last that a folder got
}

// folder is one of somebody's.
type folder struct {
	name     string
	use      imap.MailboxAttr
	validity uint32
	next     imap.UID
	letters  []*message
	tracker  *imapserver.MailboxTracker
}

// message is a letter in a folder.
type message struct {
	uid   imap.UID
	at    time.Time
	flags []imap.Flag
	sha   string
	raw   []byte
}

func (u *user) folder(name string) *folder {
	if strings.EqualFold(name, "INBOX") {
		name = "INBOX"
	}
	if i := slices.IndexFunc(u.folders, func(f *folder) bool { return f.name == name }); i >= 0 {
		return u.folders[i]
	}
	return nil
}

// add makes a folder.
func (u *user) add(name string) *folder {
	u.validity++
	f := &folder{name: name, validity: u.validity, next: 1, tracker: imapserver.NewMailboxTracker(0)}
	for _, k := range usual {
		if k.name == name {
			f.use = k.use
		}
	}
	u.folders = append(u.folders, f)
	return f
}

// put adds a letter at the end of a folder.
func (f *folder) put(raw []byte, flags []imap.Flag, at time.Time) *message {
	m := &message{uid: f.next, at: at.UTC().Truncate(time.Second), sha: sum(raw), raw: raw}
	for _, x := range flags {
		m.set(x)
	}
	f.next++
	f.letters = append(f.letters, m)
	f.tracker.QueueNumMessages(uint32(len(f.letters)))
	return m
}

// take takes letters out of a folder.
func (f *folder) take(gone func(*message) bool) {
	for i := len(f.letters) - 1; i >= 0; i-- {
		if gone(f.letters[i]) {
			f.letters = slices.Delete(f.letters, i, i+1)
			f.tracker.QueueExpunge(uint32(i) + 1)
		}
	}
}

func (m *message) has(flag imap.Flag) bool {
	return slices.ContainsFunc(m.flags, func(f imap.Flag) bool { return strings.EqualFold(string(f), string(flag)) })
}

func (m *message) set(flag imap.Flag) {
	if !m.has(flag) {
		m.flags = append(slices.Clip(m.flags), flag)
	}
}

func (m *message) unset(flag imap.Flag) {
	m.flags = slices.DeleteFunc(slices.Clone(m.flags), func(f imap.Flag) bool { return strings.EqualFold(string(f), string(flag)) })
}

// AddUser adds somebody, with what is kept of theirs; fresh tells that nothing is.
func (s *Server) AddUser(name, password string) (fresh bool, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	u := &user{name: name, password: password}
	if fresh, err = s.load(u); err != nil {
		return false, err
	}
	if fresh {
		for _, k := range usual {
			u.add(k.name)
		}
	}
	if s.users == nil {
		s.users = map[string]*user{}
	}
	s.users[strings.ToLower(name)] = u
	return fresh, nil
}

// ErrPretend lets a command say yes and do nothing; see Before.
var ErrPretend = errors.New("do nothing")

// errNobody is returned for a name that nobody has here.
var errNobody = errors.New("there is nobody of that name")

// Has tells whether somebody has letters here.
func (s *Server) Has(name string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.users[strings.ToLower(name)] != nil
}

// Letter is a letter as it lies in a folder.
type Letter struct {
	UID   uint32
	At    time.Time
	Flags []string
	Raw   []byte
}

// Put puts letters into a folder of somebody, which is made if it is missing.
func (s *Server) Put(name, to string, letters ...Letter) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	u := s.users[strings.ToLower(name)]
	if u == nil {
		return errNobody
	}
	f := u.folder(to)
	if f == nil {
		f = u.add(to)
	}
	for _, l := range letters {
		m := f.put(l.Raw, nil, l.At)
		for _, flag := range l.Flags {
			m.set(imap.Flag(flag))
		}
	}
	return s.save(u)
}

// Letters are those of a folder of somebody.
func (s *Server) Letters(name, in string) (out []Letter) {
	s.mu.Lock()
	defer s.mu.Unlock()
	u := s.users[strings.ToLower(name)]
	if u == nil || u.folder(in) == nil {
		return nil
	}
	for _, m := range u.folder(in).letters {
		l := Letter{UID: uint32(m.uid), At: m.at, Raw: m.raw}
		for _, f := range m.flags {
			l.Flags = append(l.Flags, string(f))
		}
		out = append(out, l)
	}
	return out
}

// FolderNames are the folders of somebody.
func (s *Server) FolderNames(name string) (out []string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if u := s.users[strings.ToLower(name)]; u != nil {
		for _, f := range u.folders {
			out = append(out, f.name)
		}
	}
	return out
}

// Renumber gives a folder another UIDVALIDITY and its letters other UIDs, as a server
// does that was restored.
func (s *Server) Renumber(name, in string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	u := s.users[strings.ToLower(name)]
	f := u.folder(in)
	u.validity += 100
	f.validity = u.validity
	f.next += 1000
	for _, m := range f.letters {
		m.uid = f.next
		f.next++
	}
}

// caps are what the server offers.
func (s *Server) caps() imap.CapSet {
	caps := imap.CapSet{}
	for _, c := range []imap.Cap{imap.CapIMAP4rev1, imap.CapIdle, imap.CapMove, imap.CapUIDPlus, imap.CapSpecialUse, imap.CapNamespace, imap.CapUnselect} {
		if !slices.Contains(s.Without, c) {
			caps[c] = struct{}{}
		}
	}
	return caps
}

// Serve serves until the listener is closed.
func (s *Server) Serve(l net.Listener) error {
	server := imapserver.New(&imapserver.Options{
		NewSession: func(*imapserver.Conn) (imapserver.Session, *imapserver.GreetingData, error) {
			return &session{server: s}, nil, nil
		},
		Caps: s.caps(), TLSConfig: s.TLS, InsecureAuth: s.TLS == nil, Logger: quiet{s.Log},
	})
	s.mu.Lock()
	s.imap = server
	s.mu.Unlock()
	err := server.Serve(l)
	if errors.Is(err, net.ErrClosed) {
		return nil
	}
	return err
}

// quiet writes down what clients do wrong, for whoever looks closely.
type quiet struct{ log *slog.Logger }

func (q quiet) Printf(format string, args ...any) {
	if q.log != nil {
		q.log.Debug("the stand-in mail server", "what", format, "of", len(args))
	}
}

// Close ends it.
func (s *Server) Close() error {
	s.mu.Lock()
	server := s.imap
	s.mu.Unlock()
	if server == nil {
		return nil
	}
	return server.Close()
}

// Fail asks fn before each command of a client from now on, as Before.
func (s *Server) Fail(fn func(command string) error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.Before = fn
}

// Rename gives a folder of somebody another name.
func (s *Server) Rename(name, from, to string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if f := s.users[strings.ToLower(name)].folder(from); f != nil {
		f.name = to
	}
}

// Remove removes a folder of somebody, and what is in it.
func (s *Server) Remove(name, folderName string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	u := s.users[strings.ToLower(name)]
	u.folders = slices.DeleteFunc(u.folders, func(f *folder) bool { return f.name == folderName })
}
