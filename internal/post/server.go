package post

import (
	"cmp"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"net"
	"strconv"
	"time"

	"github.com/emersion/go-sasl"
)

// How what is said to a mail server is kept from others. Plain goes to this machine
// only.
const (
	TLS      = "tls"      // from the first byte (RFC 8314)
	StartTLS = "starttls" // after a first exchange; never without
	Plain    = "plain"
)

// Server is where a mail server is reached.
type Server struct {
	Host     string `json:"host"`
	Port     int    `json:"port"`
	Security string `json:"security"`
}

// String is its address.
func (s Server) String() string { return net.JoinHostPort(s.Host, strconv.Itoa(s.Port)) }

// Login is by what name a person is known at a mail server, with the password, or with a
// token that stands for one (RFC 7628).
type Login struct{ User, Password, Bearer string }

// Bearer is how somebody signs in with a token.
func (s Server) Bearer(l Login) sasl.Client {
	return sasl.NewOAuthBearerClient(&sasl.OAuthBearerOptions{Username: l.User, Token: l.Bearer, Host: s.Host, Port: s.Port})
}

// NoBearer is the fault of a token that a server refused, for an answer that says so
// (RFC 7628, 3.2.2); nil for another.
func (s Server) NoBearer(err error) error {
	var answer *sasl.OAuthBearerError
	if !errors.As(err, &answer) {
		return nil
	}
	return &Fault{AtPassword, fmt.Sprintf("%s refused the sign-in: %s.", s.Host, cmp.Or(answer.Status, "no reason given")), err}
}

// Step is where on the way to a mail server something failed.
type Step string

// The steps.
const (
	AtName     Step = "name"     // the name leads nowhere
	AtPort     Step = "port"     // nobody answers
	AtTLS      Step = "tls"      // who answers can't show who they are
	AtPassword Step = "password" // the name or the password was refused
	AtFolder   Step = "folder"   // the inbox can't be opened
)

// Fault is why a mail server can't be used, in words for the person.
type Fault struct {
	Step   Step
	Reason string
	Err    error // what it was, for whoever looks closer
}

func (f *Fault) Error() string { return f.Reason }
func (f *Fault) Unwrap() error { return f.Err }

// errNotPlain is given where a password would go over a network in the open.
var errNotPlain = errors.New("letters and the password would go in the open")

// Patience bounds how long a server may take to answer at all, and then to let somebody in.
const Patience = 20 * time.Second

// Silent is the fault of a server that doesn't answer.
func (s Server) Silent(err error) error {
	return &Fault{AtPort, fmt.Sprintf("%s does not answer at port %d.", s.Host, s.Port), err}
}

// Dial reaches a mail server, over TLS where that comes first. roots are whom to
// trust beside those whom the machine trusts; nil for these alone. Certificates
// are always verified. Errors are a *Fault.
func Dial(ctx context.Context, s Server, roots *x509.CertPool) (net.Conn, error) {
	if s.Security == Plain && !loopback(s.Host) {
		return nil, &Fault{AtTLS, fmt.Sprintf("%s is not on this machine, and without TLS %v.", s.Host, errNotPlain), errNotPlain}
	}
	ctx, cancel := context.WithTimeout(ctx, Patience)
	defer cancel()
	var d net.Dialer
	conn, err := d.DialContext(ctx, "tcp", s.String())
	if err != nil {
		return nil, s.Fault(err)
	}
	if s.Security != TLS {
		return conn, nil
	}
	secure := tls.Client(conn, s.Config(roots))
	if err := secure.HandshakeContext(ctx); err != nil {
		return nil, errors.Join(s.Fault(err), conn.Close())
	}
	return secure, nil
}

// Config is what TLS with the server is made with.
func (s Server) Config(roots *x509.CertPool) *tls.Config {
	return &tls.Config{ServerName: s.Host, RootCAs: roots, MinVersion: tls.VersionTLS12}
}

func loopback(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// Fault says in words why a server can't be reached or trusted.
func (s Server) Fault(err error) error {
	var f *Fault
	if err == nil || errors.As(err, &f) {
		return err
	}
	var name *net.DNSError
	var expired x509.CertificateInvalidError
	var other x509.HostnameError
	var unknown x509.UnknownAuthorityError
	var record tls.RecordHeaderError
	var timeout net.Error
	switch {
	case errors.As(err, &name):
		return &Fault{AtName, fmt.Sprintf("There is no server called %s.", s.Host), err}
	case errors.As(err, &expired) && expired.Reason == x509.Expired:
		return &Fault{AtTLS, fmt.Sprintf("The certificate of %s has expired, or the clock of this machine is wrong.", s.Host), err}
	case errors.As(err, &other):
		return &Fault{AtTLS, fmt.Sprintf("Whoever answers at %s has a certificate for another name.", s.Host), err}
	case errors.As(err, &unknown), errors.As(err, &expired):
		return &Fault{AtTLS, fmt.Sprintf("The certificate of %s was not made by anybody whom this machine trusts.", s.Host), err}
	case errors.As(err, &record):
		return &Fault{AtTLS, fmt.Sprintf("%s does not speak TLS at port %d.", s.Host, s.Port), err}
	case errors.As(err, &timeout) && timeout.Timeout():
		return s.Silent(err)
	}
	return &Fault{AtPort, fmt.Sprintf("%s can’t be reached at port %d: %v.", s.Host, s.Port, plainly(err)), err}
}

// plainly is the innermost reason of a failed connection.
func plainly(err error) error {
	var op *net.OpError
	for errors.As(err, &op) && op.Err != nil {
		err = op.Err
	}
	if inner := errors.Unwrap(err); inner != nil {
		return inner
	}
	return err
}
