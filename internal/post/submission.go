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

// Offers is what a mail server says it does.
type Offers struct {
	// Most is how large a letter may be, in bytes (RFC 1870); 0 where it doesn't say.
	Most int64
	// Tells tells that it reports what becomes of letters (RFC 3461).
	Tells bool
}

// Try reaches the server and signs in, and no more: it gives what the server offers then.
func (s Submission) Try(ctx context.Context) (Offers, error) {
	ctx, cancel := context.WithTimeout(ctx, s.Timeout)
	defer cancel()
	client, done, err := s.open(ctx)
	if err != nil {
		return Offers{}, err
	}
	defer done()
	var out Offers
	if size, ok := client.MaxMessageSize(); ok {
		out.Most = int64(max(size, 0))
	}
	out.Tells, _ = client.Extension("DSN")
	_ = client.Quit()
	return out, nil
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
