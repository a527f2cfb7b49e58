// Package postoffice stands in for the outside mail service. Over SMTP it
// takes letters for the addresses of Ebbe's people from any client, and takes
// what Ebbe sends. Simulated correspondents answer some of it, on Ebbe's
// clock.
package postoffice

import (
	"bytes"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-smtp"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Correspondent is somebody outside who may answer a letter.
type Correspondent interface {
	// Answer gives the letters that come back for one sent to the address,
	// each after its delay; none for no answer.
	Answer(to string, l letter.Letter, sent time.Time) []Coming
	// Knows tells that the address is somebody's outside, though its domain is
	// one of Ebbe's people: a colleague without Ebbe.
	Knows(address string) bool
}

// Mailboxes are where letters of some addresses lie outside.
type Mailboxes interface {
	Has(address string) bool
	Deliver(address string, raw []byte, at time.Time) error
}

// Coming is a letter that comes after a delay.
type Coming struct {
	After    time.Duration
	From, To string
	Raw      []byte
}

// Office is the stand-in mail service.
type Office struct {
	App           *app.App
	Correspondent Correspondent // may be nil
	Log           *slog.Logger
	// Outside are the mail servers of addresses that get their letters there, also if
	// they are known here; nil for none. TLS is what STARTTLS is made with.
	Outside  Mailboxes
	TLS      *tls.Config
	server   *smtp.Server
	listener net.Listener
}

// Start takes letters at the listener until Stop.
func (o *Office) Start(l net.Listener) {
	o.listener = l
	o.server = smtp.NewServer(o)
	o.server.Domain = "post.example"
	o.server.TLSConfig = o.TLS
	o.server.MaxMessageBytes = post.MaxLetter
	o.server.MaxRecipients = 1000
	// RFC 5321 lets lines be 1,000 bytes; the world sends whole bodies in one.
	// A letter that is too large is refused for that, in words.
	o.server.MaxLineLength = post.MaxLetter + 1<<20
	o.server.ReadTimeout, o.server.WriteTimeout = time.Minute, time.Minute
	o.server.EnableSMTPUTF8 = true
	o.server.EnableDSN = true
	go func() {
		if err := o.server.Serve(l); err != nil && o.Log != nil {
			o.Log.Debug("the post office has closed", "reason", err)
		}
	}()
}

// Stop closes the post office, also before its server has begun to listen.
func (o *Office) Stop() error {
	err := o.server.Close()
	if closed := o.listener.Close(); closed != nil && !errors.Is(closed, net.ErrClosed) {
		err = errors.Join(err, closed)
	}
	return err
}

// NewSession begins a conversation with a client (it makes Office a backend of
// go-smtp).
func (o *Office) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{office: o}, nil }

type session struct {
	office     *Office
	from       string
	recipients []recipient
}

// recipient is an address that a letter goes to, with what it means here.
type recipient struct {
	address string
	// told tells that the sender wants to know when it is delivered (RFC 3461).
	told bool
	store.Mailbox
}

func (s *session) Reset()        { s.from, s.recipients = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

// gone is the name of everybody who has moved away: letters to it are refused,
// so that a failing delivery can be seen.
const gone = "gone"

func refusal(status smtp.EnhancedCode, message string) error {
	return &smtp.SMTPError{Code: 550, EnhancedCode: status, Message: message}
}

// Refusals of recipients, with the codes of RFC 3463.
var (
	errUnknown   = refusal(smtp.EnhancedCode{5, 1, 1}, "There is nobody of that name here")
	errLaidAside = refusal(smtp.EnhancedCode{5, 2, 1}, "That account takes no letters any more")
	errNoWayOut  = refusal(smtp.EnhancedCode{5, 7, 1}, "No mail service is connected: letters reach only people of this Ebbe")
)

// Rcpt takes a recipient if a letter to it has somewhere to go: nothing is
// taken and then dropped.
func (s *session) Rcpt(to string, opts *smtp.RcptOptions) error {
	if name, _, _ := strings.Cut(strings.ToLower(to), "@"); name == gone {
		return errUnknown
	}
	r, err := s.office.recipient(context.Background(), to)
	if err != nil {
		return s.office.answer(err)
	}
	r.told = opts != nil && slices.Contains(opts.Notify, smtp.DSNNotifySuccess)
	s.recipients = append(s.recipients, r)
	return nil
}

func (o *Office) recipient(ctx context.Context, to string) (recipient, error) {
	box, err := o.App.Store.MailboxOf(ctx, to)
	outside := o.Correspondent
	switch {
	case err != nil || len(box.Owners) > 0:
	case box.LaidAside:
		err = errLaidAside
	case outside != nil && (!box.Domain || outside.Knows(to)):
	case box.Domain:
		err = errUnknown
	default:
		err = errNoWayOut
	}
	return recipient{address: to, Mailbox: box}, err
}

// answer is what a client is told of an error. What is no refusal may be tried
// again.
func (o *Office) answer(err error) error {
	var refused *smtp.SMTPError
	if errors.As(err, &refused) {
		return refused
	}
	o.Log.Error("a letter could not be taken", "reason", err)
	message := "Could not be stored; please try again"
	if why := store.Unavailable(err); why != "" {
		message = strings.TrimSuffix(why, ".") + "; please try again"
	}
	return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: message}
}

// Data takes the letter. It is acknowledged only after it is safe.
func (s *session) Data(r io.Reader) error {
	raw, err := post.Gather(r)
	if err != nil {
		return err
	}
	if err := s.office.deliver(context.Background(), s.from, s.recipients, raw, s.office.App.Now()); err != nil {
		return s.office.answer(err)
	}
	return nil
}

// deliver brings a letter to Ebbe's people among the recipients and to the
// simulated correspondents. One to whom it can't be brought does not stop the
// others.
func (o *Office) deliver(ctx context.Context, from string, recipients []recipient, raw []byte, at time.Time) error {
	var errs []error
	for _, to := range recipients {
		if o.Outside != nil && o.Outside.Has(to.address) {
			errs = append(errs, o.Outside.Deliver(to.address, raw, at))
			continue
		}
		for _, inbox := range to.Owners {
			in := app.Incoming{Inbox: inbox, To: to.Address, Source: "smtp", Raw: raw, At: at, ReturnPath: &from}
			if err := o.App.Receive(ctx, in); err != nil {
				errs = append(errs, &work.Belonging{Owner: inbox, Err: fmt.Errorf("deliver to %s: %w", to.address, err)})
			}
		}
		if len(to.Owners) > 0 || o.Correspondent == nil {
			continue
		}
		if to.told {
			if err := o.bag(ctx, delivered(from, to.address, letter.Parse(raw), at), at); err != nil {
				errs = append(errs, err)
			}
		}
		for _, c := range o.Correspondent.Answer(to.address, letter.Parse(raw), at) {
			if err := o.bag(ctx, c, at); err != nil {
				errs = append(errs, err)
			}
		}
	}
	return errors.Join(errs...)
}

// bag puts a letter into the bag, to be brought on Ebbe's clock.
func (o *Office) bag(ctx context.Context, c Coming, at time.Time) error {
	to, err := json.Marshal([]string{c.To})
	if err != nil {
		return err
	}
	if err := o.App.Store.Bag(ctx, store.Bagged{Due: at.Add(c.After), Sender: c.From, Recipients: string(to), Data: bytes.Clone(c.Raw)}); err != nil {
		return err
	}
	o.App.Wake()
	return nil
}

// Bring brings a letter of the bag that has come due. If it dies in between,
// it brings it again, and Ebbe knows it.
func (o *Office) Bring(ctx context.Context, id int64) error {
	b, err := o.App.Store.Bagged(ctx, id)
	if err != nil {
		return err
	}
	var to []string
	if err := json.Unmarshal([]byte(b.Recipients), &to); err != nil {
		return err
	}
	var recipients []recipient
	for _, address := range to {
		r, err := o.recipient(ctx, address)
		var refused *smtp.SMTPError
		if errors.As(err, &refused) {
			o.Log.Warn("a letter of the bag has nowhere to go", "letter", id, "reason", err)
			continue
		}
		if err != nil {
			return err
		}
		recipients = append(recipients, r)
	}
	if err := o.deliver(ctx, b.Sender, recipients, b.Data, b.Due); err != nil {
		return err
	}
	return o.App.Store.TakeBagged(ctx, id)
}
