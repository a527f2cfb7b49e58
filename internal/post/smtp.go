package post

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
)

// Relay hands letters to a mail service over SMTP (RFC 5321).
type Relay struct {
	Addr string // host:port
	// Timeout bounds the whole conversation.
	Timeout time.Duration
}

// Refused is a permanent refusal of a letter by the mail service.
type Refused struct{ Reason string }

func (r *Refused) Error() string { return r.Reason }

// Send hands over one letter. A refusal for good (a 5xx answer) of it or of
// any recipient is an *Refused, and then nobody has got it; everything
// else may be tried again.
func (r Relay) Send(ctx context.Context, from string, to []string, raw []byte) error {
	ctx, cancel := context.WithTimeout(ctx, r.Timeout)
	defer cancel()
	var d net.Dialer
	conn, err := d.DialContext(ctx, "tcp", r.Addr)
	if err != nil {
		return fmt.Errorf("reach the mail service: %w", err)
	}
	if deadline, ok := ctx.Deadline(); ok {
		if err := conn.SetDeadline(deadline); err != nil {
			return err
		}
	}
	client := smtp.NewClient(conn)
	defer client.Close()
	if err := client.Mail(from, nil); err != nil {
		return refusal(err)
	}
	for _, rcpt := range to {
		if err := client.Rcpt(rcpt, nil); err != nil {
			return refusal(fmt.Errorf("%s: %w", rcpt, err))
		}
	}
	w, err := client.Data()
	if err != nil {
		return refusal(err)
	}
	if _, err := bytes.NewReader(raw).WriteTo(w); err != nil {
		return refusal(err)
	}
	if err := w.Close(); err != nil {
		return refusal(err)
	}
	return client.Quit()
}

func refusal(err error) error {
	var answer *smtp.SMTPError
	if errors.As(err, &answer) && answer.Code >= 500 {
		return &Refused{Reason: strings.TrimSuffix(err.Error(), ".")}
	}
	return err
}
