package letter

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime"
	netmail "net/mail"
	"strings"
	"time"
	"unicode"

	"github.com/emersion/go-message"
	"github.com/emersion/go-message/mail"
)

// Outgoing is a letter to be written.
type Outgoing struct {
	MessageID  string // without angle brackets; fixed before the first try
	From       Address
	To, Cc     []Address
	Bcc        []Address // who else gets it; never written into the letter
	Subject    string
	InReplyTo  string
	References []string
	Date       time.Time
	Text       string
	Parts      []Part
	// AutoSubmitted is the field of RFC 3834; "" for what a person wrote.
	AutoSubmitted string
	// WantsReadReceipt asks to be told when it is read (RFC 8098).
	WantsReadReceipt bool
}

// ErrNoRecipient is returned for a letter that goes to nobody.
var ErrNoRecipient = errors.New("the letter has no recipient")

// CheckAddress tells whether a typed address can be sent to (RFC 5321). The
// error is meant for the person.
func CheckAddress(typed string) (Address, error) {
	typed = strings.TrimSpace(typed)
	if strings.ContainsAny(typed, "\r\n\x00") {
		return Address{}, fmt.Errorf("“%s” has a line break in it", strings.Join(strings.Fields(typed), " "))
	}
	a, err := netmail.ParseAddress(typed)
	if err != nil || len(a.Address) > 254 || !strings.Contains(a.Address, "@") {
		return Address{}, fmt.Errorf("“%s” is not an address", typed)
	}
	return Address{Name: a.Name, Email: a.Address}, nil
}

// Bytes writes the letter (RFC 5322) with CRLF line ends. Line breaks in any
// field are folded to spaces first, so that no field can start another.
func (o Outgoing) Bytes() ([]byte, error) {
	if len(o.To)+len(o.Cc)+len(o.Bcc) == 0 {
		return nil, ErrNoRecipient
	}
	var buf bytes.Buffer
	if err := o.write(&buf, o.header()); err != nil {
		return nil, fmt.Errorf("write letter: %w", err)
	}
	return buf.Bytes(), nil
}

// Draft is the letter as it is written so far; it may go to nobody yet.
func (o Outgoing) Draft() ([]byte, error) {
	var buf bytes.Buffer
	if err := o.write(&buf, o.header()); err != nil {
		return nil, fmt.Errorf("write draft: %w", err)
	}
	return buf.Bytes(), nil
}

func (o Outgoing) header() mail.Header {
	var h mail.Header
	h.SetDate(o.Date)
	h.SetAddressList("From", convert([]Address{o.From}))
	h.SetAddressList("To", convert(o.To))
	if len(o.Cc) > 0 {
		h.SetAddressList("Cc", convert(o.Cc))
	}
	h.SetSubject(oneLine(o.Subject))
	h.SetMessageID(oneLine(o.MessageID))
	if o.InReplyTo != "" {
		h.SetMsgIDList("In-Reply-To", []string{oneLine(o.InReplyTo)})
	}
	if len(o.References) > 0 {
		refs := make([]string, len(o.References))
		for i, r := range o.References {
			refs[i] = oneLine(r)
		}
		h.SetMsgIDList("References", refs)
	}
	if o.AutoSubmitted != "" {
		h.Set("Auto-Submitted", oneLine(o.AutoSubmitted))
	}
	if o.WantsReadReceipt {
		h.SetAddressList("Disposition-Notification-To", convert([]Address{o.From}))
	}
	h.Set("Mime-Version", "1.0")
	return h
}

func (o Outgoing) write(buf *bytes.Buffer, h mail.Header) error {
	if len(o.Parts) == 0 {
		h.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
		h.Set("Content-Transfer-Encoding", "quoted-printable")
		w, err := message.CreateWriter(buf, h.Header)
		if err != nil {
			return err
		}
		if _, err := io.WriteString(w, o.Text); err != nil {
			return err
		}
		return w.Close()
	}
	w, err := mail.CreateWriter(buf, h)
	if err != nil {
		return err
	}
	var text mail.InlineHeader
	text.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
	text.Set("Content-Transfer-Encoding", "quoted-printable")
	body, err := w.CreateSingleInline(text)
	if err != nil {
		return err
	}
	if _, err := io.WriteString(body, o.Text); err != nil {
		return err
	}
	if err := body.Close(); err != nil {
		return err
	}
	for _, p := range o.Parts {
		var ah mail.AttachmentHeader
		kind, params, err := mime.ParseMediaType(p.ContentType)
		if err != nil {
			kind, params = p.ContentType, nil
		}
		ah.SetContentType(kind, params)
		ah.SetFilename(oneLine(p.Name))
		if !strings.HasPrefix(p.ContentType, "message/") { // RFC 2046: never encoded
			ah.Set("Content-Transfer-Encoding", "base64")
		}
		part, err := w.CreateAttachment(ah)
		if err != nil {
			return err
		}
		if _, err := part.Write(p.Content); err != nil {
			return err
		}
		if err := part.Close(); err != nil {
			return err
		}
	}
	return w.Close()
}

func convert(list []Address) []*mail.Address {
	out := make([]*mail.Address, len(list))
	for i, a := range list {
		name := oneLine(a.Name)
		if strings.ContainsFunc(name, func(r rune) bool { return r > unicode.MaxASCII }) {
			// It is written as an encoded word, in which a backslash breaks the whole
			// list (RFC 2047, 5, rule 3).
			name = strings.ReplaceAll(name, `\`, "")
		}
		out[i] = &mail.Address{Name: name, Address: oneLine(a.Email)}
	}
	return out
}

func oneLine(s string) string {
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == '\r' || r == '\n' || r == 0 }), " ")
}
