package mailstore

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"math/big"
	"net"
	"time"
)

// Certify makes a certificate for names of this machine, and whom to trust so that it is
// accepted. Both last as long as the process.
func Certify(names ...string) (*tls.Config, *x509.CertPool, error) {
	return CertifyFor(time.Now().Add(-time.Hour), time.Now().AddDate(1, 0, 0), names...)
}

// CertifyFor does the same for a certificate that is good from a time until another.
func CertifyFor(from, until time.Time, names ...string) (*tls.Config, *x509.CertPool, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	about := &x509.Certificate{
		SerialNumber: big.NewInt(from.UnixNano()), Subject: pkix.Name{CommonName: "The stand-in mail server of Ebbe"}, NotBefore: from, NotAfter: until,
		KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, IsCA: true, BasicConstraintsValid: true,
	}
	for _, n := range names {
		if ip := net.ParseIP(n); ip != nil {
			about.IPAddresses = append(about.IPAddresses, ip)
		} else {
			about.DNSNames = append(about.DNSNames, n)
		}
	}
	raw, err := x509.CreateCertificate(rand.Reader, about, about, &key.PublicKey, key)
	if err != nil {
		return nil, nil, err
	}
	made, err := x509.ParseCertificate(raw)
	if err != nil {
		return nil, nil, err
	}
	roots := x509.NewCertPool()
	roots.AddCert(made)
	return &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{raw}, PrivateKey: key}}, MinVersion: tls.VersionTLS12}, roots, nil
}
