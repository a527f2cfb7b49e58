package post

import (
	"context"
	"crypto/x509"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
)

// Submission hands letters to the mail server of an account, as the person whose it
// is (RFC 6409).
type Submission struct {
	Server Server
	Login  Login
	// Roots are whom to trust beside those whom the machine trusts; nil for these
	// alone.
	Roots *x509.CertPool
	// Timeout bounds the whole conversation.
	Timeout time.Duration
}

// Send hands over one letter; see Relay.Send. That the server can't be reached or
// refuses the password is a *Fault.
func (s Submission) Send(ctx context.Context, e Envelope, raw []byte) ([]Outcome, error) {
	ctx, cancel := context.WithTimeout(ctx, s.Timeout)
	defer cancel()
	client, done, err := s.open(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	return handOver(client, e, raw)
}

// Try reaches the server and signs in, and no more.
func (s Submission) Try(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, s.Timeout)
	defer cancel()
	client, done, err := s.open(ctx)
	if err != nil {
		return err
	}
	defer done()
	_ = client.Quit()
	return nil
}

// open is a conversation with the server, signed in, and what ends it.
func (s Submission) open(ctx context.Context) (client *smtp.Client, done func(), err error) {
	defer func() {
		if err != nil && ctx.Err() != nil {
			err = s.Server.Silent(err)
		}
	}()
	conn, err := Dial(ctx, s.Server, s.Roots)
	if err != nil {
		return nil, nil, err
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	done = func() {
		stop()
		_ = conn.Close() // the conversation is over
	}
	if s.Server.Security == StartTLS {
		if client, err = smtp.NewClientStartTLS(conn, s.Server.Config(s.Roots)); err != nil {
			done()
			var answer *smtp.SMTPError
			if errors.As(err, &answer) || strings.Contains(err.Error(), "STARTTLS") {
				return nil, nil, &Fault{AtTLS, fmt.Sprintf("%s offers no TLS at port %d, and without it the password would go in the open.", s.Server.Host, s.Server.Port), err}
			}
			return nil, nil, s.Server.Fault(err)
		}
	} else {
		client = smtp.NewClient(conn)
	}
	if err := client.Hello("localhost"); err != nil {
		done()
		return nil, nil, s.Server.Fault(err)
	}
	if err := s.signIn(client); err != nil {
		done()
		return nil, nil, err
	}
	return client, done, nil
}

func (s Submission) signIn(client *smtp.Client) error {
	if asks, _ := client.Extension("AUTH"); !asks && s.Server.Host == "localhost" || s.Login.Password+s.Login.Bearer == "" {
		return nil // a server on this machine that trusts who is there
	}
	if s.Login.Bearer != "" {
		err := client.Auth(s.Server.Bearer(s.Login))
		if refused := s.Server.NoBearer(err); refused != nil {
			return refused
		}
		var answer *smtp.SMTPError
		if errors.As(err, &answer) {
			return &Fault{AtPassword, fmt.Sprintf("%s refused the sign-in for sending: %s.", s.Server.Host, inWords(answer)), err}
		}
		return s.Server.Fault(err)
	}
	way := sasl.NewPlainClient("", s.Login.User, s.Login.Password)
	if !client.SupportsAuth(sasl.Plain) && client.SupportsAuth(sasl.Login) {
		way = sasl.NewLoginClient(s.Login.User, s.Login.Password)
	}
	err := client.Auth(way)
	var answer *smtp.SMTPError
	if errors.As(err, &answer) {
		return &Fault{AtPassword, fmt.Sprintf("%s refused the name or the password for sending: %s.", s.Server.Host, inWords(answer)), err}
	}
	return s.Server.Fault(err)
}
