// Package postoffice stands in for the outside mail service. Over SMTP it
// takes letters for the addresses of Ebbe's people from any client, and takes
// what Ebbe sends. Simulated correspondents answer some of it, on Ebbe's
// clock.
package postoffice

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/emersion/go-smtp"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

// Correspondent is somebody outside who may answer a letter.
type Correspondent interface {
	// Answer gives the letters that come back for one sent to the address,
	// each after its delay; none for no answer.
	Answer(to string, l letter.Letter, sent time.Time) []Coming
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
	server        *smtp.Server
	listener      net.Listener
}

// Start takes letters at the listener until Stop.
func (o *Office) Start(l net.Listener) {
	o.listener = l
	o.server = smtp.NewServer(o)
	o.server.Domain = "post.example"
	o.server.MaxMessageBytes = post.MaxLetter
	o.server.MaxRecipients = 100
	o.server.ReadTimeout, o.server.WriteTimeout = time.Minute, time.Minute
	o.server.EnableSMTPUTF8 = true
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
	recipients []string
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

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if name, _, _ := strings.Cut(strings.ToLower(to), "@"); name == gone {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "There is nobody of that name here"}
	}
	s.recipients = append(s.recipients, to)
	return nil
}

// Data takes the letter. It is acknowledged only after it is safe.
func (s *session) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	if err := s.office.deliver(context.Background(), s.recipients, raw, s.office.App.Now()); err != nil {
		s.office.Log.Error("a letter could not be taken", "reason", err)
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Could not be stored; please try again"}
	}
	return nil
}

// deliver brings a letter to Ebbe's people among the recipients and to the
// simulated correspondents.
func (o *Office) deliver(ctx context.Context, recipients []string, raw []byte, at time.Time) error {
	for _, to := range recipients {
		owners, err := o.App.Store.OwnersOf(ctx, to)
		if err != nil {
			return err
		}
		for _, owner := range owners {
			if err := o.App.Receive(ctx, app.Incoming{Owner: owner, To: to, Source: "smtp", Raw: raw, At: at}); err != nil {
				return fmt.Errorf("deliver to %s: %w", to, err)
			}
		}
		if len(owners) > 0 || o.Correspondent == nil {
			continue
		}
		for _, c := range o.Correspondent.Answer(to, letter.Parse(raw), at) {
			if err := o.bag(ctx, c, at); err != nil {
				return err
			}
		}
	}
	return nil
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
	if err := o.deliver(ctx, to, b.Data, b.Due); err != nil {
		return err
	}
	return o.App.Store.TakeBagged(ctx, id)
}
