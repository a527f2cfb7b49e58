// Package listserver stands in for the servers of mailing lists: each signs its letters, takes
// whoever wants to leave by one click or by a letter, and obeys as it is wont to.
package listserver

import (
	"bytes"
	"context"
	"crypto/ed25519"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-msgauth/dkim"

	"ebbe.example/ebbe/internal/postoffice/mailstore"
)

// List is a mailing list.
type List struct {
	Name, Address string
	// OneClick tells that it can be left by one click, and not by a letter alone.
	OneClick bool
	// After is how long it goes on for whoever has left it; Never that it never stops.
	After time.Duration
	Never bool
	// Issues are what it sends, one after the other.
	Issues []Issue
}

// Issue is what a list sends once.
type Issue struct{ Subject, Text string }

// Domain is the list's.
func (l List) Domain() string { return l.Address[strings.LastIndexByte(l.Address, '@')+1:] }

// Leave is the address to which one writes who wants to leave it.
func (l List) Leave() string { return "leave@" + l.Domain() }

// Server serves some lists.
type Server struct {
	Lists []List
	// File keeps who has left; "" keeps it while the server runs.
	File string
	Now  func() time.Time

	key    ed25519.PrivateKey
	roots  *x509.CertPool
	secure *tls.Config
	at     net.Listener
	server *http.Server

	mu   sync.Mutex
	left map[string]time.Time // by list
}

const selector = "lists"

// Start serves them on this machine until Stop.
func (s *Server) Start() error {
	names := make([]string, len(s.Lists))
	for i, l := range s.Lists {
		names[i] = l.Domain()
	}
	var err error
	if s.secure, s.roots, err = mailstore.Certify(names...); err != nil {
		return err
	}
	seed := sha256.Sum256([]byte("the lists of the demo world")) // nothing is secret here, and letters of before stay signed
	s.key = ed25519.NewKeyFromSeed(seed[:])
	s.left = map[string]time.Time{}
	if raw, err := os.ReadFile(s.File); err == nil {
		if err := json.Unmarshal(raw, &s.left); err != nil {
			return fmt.Errorf("%s: %w", s.File, err)
		}
	} else if s.File != "" && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if s.at, err = tls.Listen("tcp", "127.0.0.1:0", s.secure); err != nil {
		return err
	}
	s.server = &http.Server{Handler: s, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = s.server.Serve(s.at) }()
	return nil
}

// Stop closes it.
func (s *Server) Stop() error { return s.server.Close() }

// Roots are whose certificates are to be believed.
func (s *Server) Roots() *x509.CertPool { return s.roots }

// Dial leads to the lists by their names, and nowhere else.
func (s *Server) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(s.Lists, func(l List) bool { return l.Domain() == host }) {
		return nil, fmt.Errorf("there is no %s in this world", host)
	}
	return (&net.Dialer{}).DialContext(ctx, network, s.at.Addr().String())
}

// LookupTXT gives the keys by which the lists sign (RFC 6376, 3.6; RFC 8463).
func (s *Server) LookupTXT(domain string) ([]string, error) {
	for _, l := range s.Lists {
		if domain == selector+"._domainkey."+l.Domain() {
			public, _ := s.key.Public().(ed25519.PublicKey)
			return []string{"v=DKIM1; k=ed25519; p=" + base64.StdEncoding.EncodeToString(public)}, nil
		}
	}
	return nil, &net.DNSError{Err: "no such name", Name: domain, IsNotFound: true}
}

// ServeHTTP takes the one click of RFC 8058.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	host, _, err := net.SplitHostPort(r.Host)
	if err != nil {
		host = r.Host
	}
	body, _ := io.ReadAll(io.LimitReader(r.Body, 1000))
	i := slices.IndexFunc(s.Lists, func(l List) bool { return l.Domain() == host && l.OneClick })
	switch {
	case i < 0:
		http.Error(w, "no such list", http.StatusNotFound)
	case r.Method != http.MethodPost || string(body) != "List-Unsubscribe=One-Click":
		http.Error(w, "leave it by one click", http.StatusBadRequest)
	default:
		if err := s.leave(s.Lists[i]); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
		}
	}
}

// Take takes a letter to an address, if that is where a list is left.
func (s *Server) Take(address string) (bool, error) {
	for _, l := range s.Lists {
		if strings.EqualFold(l.Leave(), address) {
			return true, s.leave(l)
		}
	}
	return false, nil
}

func (s *Server) leave(l List) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if _, before := s.left[l.Address]; before { // whoever asks again has left already
		return nil
	}
	s.left[l.Address] = s.Now()
	if s.File == "" {
		return nil
	}
	raw, err := json.Marshal(s.left)
	if err != nil {
		return err
	}
	return os.WriteFile(s.File, raw, 0o600)
}

// Sends tells whether a list still sends to its reader.
func (s *Server) Sends(l List) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	left, ok := s.left[l.Address]
	return !ok || l.Never || s.Now().Before(left.Add(l.After))
}

// Letter is an issue of a list to somebody, signed; n counts the issues.
func (s *Server) Letter(l List, to string, n int) ([]byte, error) {
	issue := l.Issues[n%len(l.Issues)]
	leave := "<mailto:" + l.Leave() + "?subject=leave>"
	post := ""
	if l.OneClick {
		leave = fmt.Sprintf("<https://%s/leave/%x>, %s", l.Domain(), sha256.Sum256([]byte(to)), leave)
		post = "List-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n"
	}
	raw := fmt.Appendf(nil, "From: %s <%s>\r\nTo: <%s>\r\nSubject: %s\r\nDate: %s\r\nMessage-ID: <%d.%d@%s>\r\nList-Id: %s <all.%s>\r\nList-Unsubscribe: %s\r\n%sPrecedence: bulk\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n%s\r\n",
		l.Name, l.Address, to, issue.Subject, s.Now().Format(time.RFC1123Z), s.Now().Unix(), n, l.Domain(), l.Name, l.Domain(), leave, post, strings.ReplaceAll(issue.Text, "\n", "\r\n"))
	var signed bytes.Buffer
	err := dkim.Sign(&signed, bytes.NewReader(raw), &dkim.SignOptions{
		Domain: l.Domain(), Selector: selector, Signer: s.key, HeaderCanonicalization: dkim.CanonicalizationRelaxed, BodyCanonicalization: dkim.CanonicalizationRelaxed,
		HeaderKeys: []string{"From", "To", "Subject", "Date", "Message-ID", "List-Id", "List-Unsubscribe", "List-Unsubscribe-Post"},
	})
	return signed.Bytes(), err
}
