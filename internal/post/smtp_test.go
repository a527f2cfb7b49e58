package post

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// service is a mail service with a mind of its own.
type service struct {
	most int // recipients in one transaction
	got  map[string]int
	to   []string
}

func (s *service) NewSession(*smtp.Conn) (smtp.Session, error) { return s, nil }
func (s *service) Mail(string, *smtp.MailOptions) error        { return nil }
func (s *service) Reset()                                      { s.to = nil }
func (s *service) Logout() error                               { return nil }

func (s *service) Rcpt(to string, _ *smtp.RcptOptions) error {
	switch {
	case strings.HasPrefix(to, "gone"):
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "nobody of that name"}
	case strings.HasPrefix(to, "later"):
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 2, 1}, Message: "not now"}
	case len(s.to) == s.most:
		return &smtp.SMTPError{Code: 452, EnhancedCode: smtp.EnhancedCode{4, 5, 3}, Message: "too many recipients"}
	}
	s.to = append(s.to, to)
	return nil
}

func (s *service) Data(r io.Reader) error {
	if _, err := io.Copy(io.Discard, r); err != nil {
		return err
	}
	for _, to := range s.to {
		s.got[to]++
	}
	return nil
}

// A service that falls silent, at whatever point, is given up.
func TestASilentServiceIsGivenUp(t *testing.T) {
	for name, says := range map[string][]string{
		"at once": nil, "after its greeting": {"220 mail.example"}, "after the sender": {"220 mail.example", "250 mail.example", "250 go on"},
		"after the letter": {"220 mail.example", "250 mail.example", "250 go on", "250 go on", "354 go on"},
	} {
		t.Run(name, func(t *testing.T) {
			l, err := net.Listen("tcp", "127.0.0.1:0")
			require.NoError(t, err)
			defer l.Close()
			ctx, giveUp := context.WithCancel(t.Context())
			go func() {
				conn, err := l.Accept()
				if err != nil {
					return
				}
				defer conn.Close()
				lines := bufio.NewScanner(conn)
				for i, line := range says {
					if _, err := fmt.Fprintf(conn, "%s\r\n", line); err != nil || i < len(says)-1 && !lines.Scan() {
						return
					}
				}
				if len(says) > 1 {
					lines.Scan() // it has begun to wait for the answer
				}
				giveUp()
				for lines.Scan() { // until it hangs up
				}
			}()
			_, err = Relay{Addr: l.Addr().String(), Timeout: time.Hour}.Send(ctx, Envelope{From: "ines@n.example", To: []string{"bram@a.example"}}, []byte("Subject: Rota\r\n\r\nHello.\r\n"))
			require.Error(t, err)
		})
	}
}

// Whoever a service accepts gets the letter, once, however many it takes at a
// time and whatever it says of others.
func TestEachRecipientHasAnOutcome(t *testing.T) {
	for _, most := range []int{1, 60, 100, 1000} {
		s := &service{most: most, got: map[string]int{}}
		server := smtp.NewServer(s)
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		go func() { _ = server.Serve(l) }()
		t.Cleanup(func() { _ = server.Close() })
		to := []string{"gone@a.example"}
		for i := range 230 {
			to = append(to, fmt.Sprintf("p%d@a.example", i))
		}
		to = append(to, "later@a.example", "gone2@a.example", "last@a.example")

		out, err := Relay{Addr: l.Addr().String(), Timeout: 20 * time.Second}.Send(t.Context(), Envelope{From: "ines@n.example", To: to}, []byte("Subject: Rota\r\n\r\nHello.\r\n"))
		require.NoError(t, err)
		assert.Len(t, out, len(to), "something is said of everybody")
		for _, o := range out {
			switch {
			case strings.HasPrefix(o.Recipient, "gone"):
				assert.True(t, o.Refused)
				assert.Contains(t, o.Reason, "nobody of that name")
			case strings.HasPrefix(o.Recipient, "later"):
				assert.False(t, o.Refused || o.Accepted, "it is tried again")
			default:
				assert.True(t, o.Accepted, o.Recipient)
				assert.Equal(t, 1, s.got[o.Recipient], o.Recipient)
			}
		}
		assert.Len(t, s.got, 231)
	}
}
