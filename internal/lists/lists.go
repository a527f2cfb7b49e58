// Package lists leaves mailing lists for a person, by the one click of RFC 8058, and looks
// whether a letter's signature covers what it says of that (RFC 6376).
package lists

import (
	"bytes"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/mail"
	"net/netip"
	"net/textproto"
	"net/url"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/emersion/go-msgauth/dkim"
)

// Outside is how lists are reached.
type Outside struct {
	// Dial opens a connection; nil dials whatever is outside.
	Dial func(ctx context.Context, network, address string) (net.Conn, error)
	// Roots are whose certificates are believed; nil for those of the machine.
	Roots *x509.CertPool
	// LookupTXT asks DNS for the keys of a domain; nil asks the machine's.
	LookupTXT func(domain string) ([]string, error)
	// Wait is the longest that is waited; zero for ten seconds.
	Wait time.Duration
}

const (
	usualWait = 10 * time.Second
	// keyWait is the longest that keys are waited for while a letter arrives.
	keyWait = 3 * time.Second
	// mostRead is how much of an answer is read, in bytes.
	mostRead = 64 << 10
	// mostSignatures is how many signatures of a letter are looked at.
	mostSignatures = 5
)

// oneClick is the body of the POST, exactly (RFC 8058, 3.2).
const oneClick = "List-Unsubscribe=One-Click"

// errInside is returned for addresses of this machine and its network.
var errInside = errors.New("its address is inside this network")

// Leave asks a list to be left, by one POST without cookies that follows no redirect. It fails
// where the list can't be reached or doesn't take it.
func (o Outside) Leave(ctx context.Context, address string) error {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "https" || u.Host == "" {
		return errors.New("its address is no https address")
	}
	wait := o.Wait
	if wait == 0 {
		wait = usualWait
	}
	dial := o.Dial
	if dial == nil {
		dial = (&net.Dialer{Timeout: wait, Control: outsideOnly}).DialContext
	}
	transport := &http.Transport{DialContext: dial, TLSClientConfig: certified(o.Roots), DisableKeepAlives: true, ResponseHeaderTimeout: wait, MaxResponseHeaderBytes: mostRead}
	client := http.Client{Transport: transport, Timeout: wait, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	ask, err := http.NewRequestWithContext(ctx, http.MethodPost, u.String(), strings.NewReader(oneClick))
	if err != nil {
		return err
	}
	ask.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	answer, err := client.Do(ask)
	if err != nil {
		var failed *url.Error
		if errors.As(err, &failed) {
			err = failed.Err // the address is long, and says nothing
		}
		return fmt.Errorf("%s could not be reached: %w", u.Hostname(), err)
	}
	defer answer.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(answer.Body, mostRead))
	if answer.StatusCode < 200 || answer.StatusCode > 299 {
		return fmt.Errorf("%s answered with %s", u.Hostname(), answer.Status)
	}
	return nil
}

// outsideOnly refuses addresses of this machine and its network. It is asked with the address
// that is dialled, so that no name can lead inside.
func outsideOnly(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	ip := at.Addr().Unmap()
	shared := netip.MustParsePrefix("100.64.0.0/10") // RFC 6598
	if !ip.IsGlobalUnicast() || ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() || shared.Contains(ip) {
		return errInside
	}
	return nil
}

// certified believes some roots; nil those of the machine.
func certified(roots *x509.CertPool) *tls.Config {
	return &tls.Config{RootCAs: roots, MinVersion: tls.VersionTLS12}
}

// covered are the fields of which the signature must speak (RFC 8058, 4).
var covered = []string{"list-unsubscribe", "list-unsubscribe-post"}

// Signed tells whether a letter carries a signature that holds and covers how it says that its
// list is left.
func (o Outside) Signed(raw []byte) bool {
	m, err := mail.ReadMessage(bytes.NewReader(raw))
	if err != nil || slices.ContainsFunc(covered, func(field string) bool { return len(m.Header[textproto.CanonicalMIMEHeaderKey(field)]) != 1 }) {
		return false // of several the signature may cover another than is read
	}
	options := &dkim.VerifyOptions{LookupTXT: o.LookupTXT, MaxVerifications: mostSignatures}
	if options.LookupTXT == nil {
		ctx, done := context.WithTimeout(context.Background(), keyWait) // for all of them: a letter is waiting
		defer done()
		options.LookupTXT = func(domain string) ([]string, error) {
			return net.DefaultResolver.LookupTXT(ctx, domain)
		}
	}
	found, _ := dkim.VerifyWithOptions(bytes.NewReader(raw), options) // beyond the most, those that were looked at count
	return slices.ContainsFunc(found, func(v *dkim.Verification) bool {
		return v.Err == nil && !slices.ContainsFunc(covered, func(field string) bool {
			return !slices.ContainsFunc(v.HeaderKeys, func(k string) bool { return strings.EqualFold(k, field) })
		})
	})
}
