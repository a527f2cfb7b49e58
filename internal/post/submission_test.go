package post

import (
	"net"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a server says that it takes is known once it is tried.
func TestWhatAServerOffers(t *testing.T) {
	for _, want := range []Offers{{}, {Most: 10 << 20, Tells: true}} {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		server := smtp.NewServer(&service{})
		server.Domain, server.MaxMessageBytes, server.EnableDSN = "mail.example", want.Most, want.Tells
		go func() { _ = server.Serve(l) }()
		at := Server{Host: "localhost", Port: l.Addr().(*net.TCPAddr).Port, Security: Plain}
		got, err := Submission{Server: at, Timeout: time.Minute}.Try(t.Context())
		require.NoError(t, err)
		assert.Equal(t, want, got)
		require.NoError(t, server.Close())
	}
}
