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

// Outcome is what a mail service said of one recipient of a letter.
type Outcome struct {
	Recipient string
	// Accepted tells that it took the letter for them.
	Accepted bool
	// Refused tells that it never will (a 5xx answer); if neither is set, it may
	// be tried again.
	Refused bool
	Reason  string
}

// perTransaction is how many recipients every mail service has to take at once
// (RFC 5321, 4.5.3.1.8).
const perTransaction = 100

// Send hands over one letter and says what became of it for each recipient, in
// as many transactions as the mail service wants (RFC 5321, 4.5.3.1.10): those
// that it accepts get the letter, whatever it says of others. Recipients of
// whom nothing is said were not reached; the error says why.
func (r Relay) Send(ctx context.Context, e Envelope, raw []byte) ([]Outcome, error) {
	ctx, cancel := context.WithTimeout(ctx, r.Timeout)
	defer cancel()
	var d net.Dialer
	conn, err := d.DialContext(ctx, "tcp", r.Addr)
	if err != nil {
		return nil, fmt.Errorf("reach the mail service: %w", err)
	}
	// Closed, since the client sets deadlines of its own with each command.
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	client := smtp.NewClient(conn)
	defer client.Close()
	return handOver(client, e, raw)
}

// handOver hands a letter over for all recipients, and says goodbye.
func handOver(client *smtp.Client, e Envelope, raw []byte) (out []Outcome, err error) {
	for len(e.To) > 0 {
		said, rest, err := transaction(client, e, raw)
		out = append(out, said...)
		if err != nil {
			return out, err
		}
		e.To = rest
	}
	_ = client.Quit() // the letter has gone, whatever becomes of the goodbye
	return out, nil
}

// transaction hands the letter over for as many recipients as go at once. rest
// are those for whom it takes another transaction.
func transaction(client *smtp.Client, e Envelope, raw []byte) (said []Outcome, rest []string, err error) {
	to := e.To
	if err := client.Mail(e.From, e.mail()); err != nil {
		said, err := answered(err, to)
		return said, nil, err
	}
	var accepted []string
	for i, rcpt := range to {
		err := client.Rcpt(rcpt, e.rcpt(rcpt))
		if err == nil {
			accepted = append(accepted, rcpt)
		}
		if len(accepted) == perTransaction || tooMany(err) && len(accepted) > 0 {
			rest = to[i:]
			if err == nil {
				rest = to[i+1:]
			}
			break
		}
		if err != nil {
			one, err := answered(err, []string{rcpt})
			if said = append(said, one...); err != nil {
				return said, nil, err
			}
		}
	}
	if len(accepted) == 0 {
		return said, rest, client.Reset()
	}
	if err := hand(client, raw); err != nil {
		one, err := answered(err, accepted)
		return append(said, one...), rest, err
	}
	for _, rcpt := range accepted {
		said = append(said, Outcome{Recipient: rcpt, Accepted: true})
	}
	return said, rest, nil
}

func hand(client *smtp.Client, raw []byte) error {
	w, err := client.Data()
	if err != nil {
		return err
	}
	if _, err := bytes.NewReader(raw).WriteTo(w); err != nil {
		return err
	}
	return w.Close()
}

// tooMany tells that a service takes no more recipients in this transaction:
// 452, or 552 by older ones (RFC 5321, 4.5.3.1.10).
func tooMany(err error) bool {
	var answer *smtp.SMTPError
	return errors.As(err, &answer) && (answer.Code == 452 || answer.Code == 552)
}

// answered is what an answer means for recipients; an error that is no answer
// is given back.
func answered(err error, to []string) ([]Outcome, error) {
	var answer *smtp.SMTPError
	if !errors.As(err, &answer) {
		return nil, err
	}
	refused := answer.Code >= 500
	out := make([]Outcome, len(to))
	for i, rcpt := range to {
		out[i] = Outcome{Recipient: rcpt, Refused: refused, Reason: inWords(answer)}
	}
	return out, nil
}

// inWords is an answer with its codes, as the service gave it.
func inWords(answer *smtp.SMTPError) string {
	out := fmt.Sprintf("%d ", answer.Code)
	if e := answer.EnhancedCode; e[0] > 0 {
		out += fmt.Sprintf("%d.%d.%d ", e[0], e[1], e[2])
	}
	return out + strings.TrimSuffix(answer.Message, ".")
}
