package remote

import "strings"

// Service is a service that DNS may know for a domain (RFC 6186, RFC 8314).
type Service struct {
	// Name is that of the SRV record, without the underscore.
	Name     string
	Security string
	// Port is the usual one.
	Port int
}

// Incoming and Outgoing are the services by which letters are read and sent, the
// safest first.
var (
	Incoming = []Service{{"imaps", "tls", 993}, {"imap", "starttls", 143}}
	Outgoing = []Service{{"submissions", "tls", 465}, {"submission", "starttls", 587}}
)

// Target is where a record of DNS leads.
type Target struct {
	Host string
	Port int
}

// Found is a server that DNS names; ok is false where the record says that there is
// none (RFC 2782: a single dot).
func (s Service) Found(t Target) (found Server, ok bool) {
	host := strings.ToLower(strings.TrimSuffix(t.Host, "."))
	return Server{Host: host, Port: t.Port, Security: s.Security}, host != "" && t.Port != 0
}

// Foreign tells whether a server is outside the domain of an address. Whoever answers
// DNS could name their own, so the person is asked first (RFC 6186, 6).
func Foreign(s Server, domain string) bool {
	domain = strings.ToLower(strings.TrimSuffix(domain, "."))
	return s.Host != domain && !strings.HasSuffix(s.Host, "."+domain)
}

// Guess is where a domain without records most likely has its services.
func Guess(domain string) (incoming, outgoing Server) {
	return Server{"imap." + domain, 993, "tls"}, Server{"smtp." + domain, 465, "tls"}
}
