// Package imap reaches letters on a mail server over IMAP (RFC 3501, RFC 9051). It
// uses what the server offers of MOVE, IDLE, UIDPLUS, CONDSTORE and SPECIAL-USE, and
// does without where it must. It never sends a plain EXPUNGE, nor CLOSE.
package imap

import (
	"context"
	"crypto/x509"
	"errors"
	"fmt"
	"mime"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"
	"github.com/emersion/go-message/charset"

	"ebbe.example/ebbe/internal/post"
)

// Session is a connection to a mail server, signed in. Its methods are called one
// at a time.
type Session struct {
	server post.Server
	client *imapclient.Client
	stop   func() bool
	// news tells that something happened in the open folder.
	news chan struct{}
}

// Dial reaches a server and signs in. The connection ends when ctx does. Errors on the
// way are a *post.Fault.
func Dial(ctx context.Context, server post.Server, login post.Login, roots *x509.CertPool) (_ *Session, err error) {
	conn, err := post.Dial(ctx, server, roots)
	if err != nil {
		return nil, err
	}
	late := time.AfterFunc(post.Patience, func() { _ = conn.Close() })
	defer func() {
		if !late.Stop() && err != nil {
			err = server.Silent(err)
		}
	}()
	s := &Session{server: server, news: make(chan struct{}, 1)}
	// Closed when it is to end, since the client sets deadlines of its own.
	s.stop = context.AfterFunc(ctx, func() { _ = conn.Close() })
	tell := func() {
		select {
		case s.news <- struct{}{}:
		default: // it is known already
		}
	}
	options := &imapclient.Options{
		TLSConfig:   server.Config(roots),
		DebugWriter: &lineGuard{end: func() { _ = conn.Close() }},
		WordDecoder: &mime.WordDecoder{CharsetReader: charset.Reader},
		UnilateralDataHandler: &imapclient.UnilateralDataHandler{
			Expunge: func(uint32) { tell() },
			Mailbox: func(*imapclient.UnilateralDataMailbox) { tell() },
			Fetch: func(m *imapclient.FetchMessageData) {
				_, _ = m.Collect() // what has changed is asked for
				tell()
			},
		},
	}
	if server.Security == post.StartTLS {
		if s.client, err = imapclient.NewStartTLS(conn, options); err != nil {
			return nil, errors.Join(startFault(server, err), conn.Close())
		}
	} else {
		s.client = imapclient.New(conn, options)
	}
	if err := s.client.WaitGreeting(); err != nil {
		return nil, errors.Join(server.Fault(err), s.Close())
	}
	if err := s.signIn(login); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// startFault is a refused STARTTLS: nothing is said without.
func startFault(server post.Server, err error) error {
	var answer *imap.Error
	if errors.As(err, &answer) {
		return &post.Fault{Step: post.AtTLS, Reason: fmt.Sprintf("%s offers no TLS at port %d, and without it the password would go in the open.", server.Host, server.Port), Err: err}
	}
	return server.Fault(err)
}

func (s *Session) signIn(login post.Login) error {
	var answer *imap.Error
	if login.Bearer != "" {
		err := s.client.Authenticate(s.server.Bearer(login))
		if refused := s.server.NoBearer(err); refused != nil {
			return refused
		}
		if errors.As(err, &answer) {
			return &post.Fault{Step: post.AtPassword, Reason: fmt.Sprintf("%s refused the sign-in: %s", s.server.Host, said(answer)), Err: err}
		}
		return s.server.Fault(err)
	}
	err := s.client.Login(login.User, login.Password).Wait()
	if errors.As(err, &answer) {
		return &post.Fault{Step: post.AtPassword, Reason: fmt.Sprintf("%s refused the name or the password: %s", s.server.Host, said(answer)), Err: err}
	}
	return s.server.Fault(err)
}

// said is what a server says, as one line of text.
func said(answer *imap.Error) string {
	text := strings.Join(strings.Fields(answer.Text), " ")
	if text == "" {
		text = string(answer.Code)
	}
	return strings.TrimSuffix(text, ".") + "."
}

// Refused tells whether the server answered that it won't do something, with its
// words; what is no answer may be tried again over another connection.
func (*Session) Refused(err error) (string, bool) {
	var answer *imap.Error
	if !errors.As(err, &answer) || answer.Type == imap.StatusResponseTypeBye {
		return "", false
	}
	return said(answer), true
}

// Close ends the connection.
func (s *Session) Close() error {
	s.stop()
	return s.client.Close()
}

// Folders lists the folders of the person.
func (s *Session) Folders() ([]post.Listed, error) {
	options := &imap.ListOptions{ReturnSpecialUse: s.client.Caps().Has(imap.CapSpecialUse)}
	list, err := s.client.List("", "*", options).Collect()
	if err != nil {
		return nil, fmt.Errorf("list the folders: %w", err)
	}
	out := make([]post.Listed, len(list))
	for i, l := range list {
		out[i] = post.Listed{Name: l.Mailbox, Delimiter: l.Delim}
		for _, a := range l.Attrs {
			switch a {
			case imap.MailboxAttrNoSelect, imap.MailboxAttrNonExistent:
				out[i].NoLetters = true
			default:
				out[i].Uses = append(out[i].Uses, string(a))
			}
		}
	}
	return out, nil
}

// Create makes a folder.
func (s *Session) Create(name string) error {
	err := s.client.Create(name, nil).Wait()
	var answer *imap.Error
	if errors.As(err, &answer) && answer.Code == imap.ResponseCodeAlreadyExists {
		return nil
	}
	return err
}
