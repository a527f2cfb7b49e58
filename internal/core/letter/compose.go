package letter

import (
	"bytes"
	"errors"
	"fmt"
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
	// Text is the letter as plain text, with LF line ends; it is sent as format=flowed
	// (RFC 3676).
	Text string
	// HTML is the same letter as a page (RFC 2046, 5.1.4); "" for plain text alone.
	HTML string
	// Inline are the pictures that the page refers to by their ContentID (RFC 2392);
	// Parts go along as files.
	Inline, Parts []Part
	// AutoSubmitted is the field of RFC 3834; "" for what a person wrote.
	AutoSubmitted string
	// SentOn marks that a rule forwards it, so that none does so again.
	SentOn bool
	// WantsReadReceipt asks to be told when it is read (RFC 8098).
	WantsReadReceipt bool
}

// loopField marks what was forwarded by a rule, as programs that forward by themselves have long done.
const loopField = "X-Loop"

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
	if o.SentOn {
		h.Set(loopField, "forwarded by a rule")
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

// entity is a part of a letter, with those inside it (RFC 2045).
type entity struct {
	header  message.Header
	content []byte
	inside  []entity
}

func (o Outgoing) write(buf *bytes.Buffer, h mail.Header) error {
	body := o.body()
	for fields := body.header.Fields(); fields.Next(); {
		h.Set(fields.Key(), fields.Value())
	}
	body.header = h.Header
	w, err := message.CreateWriter(buf, body.header)
	if err != nil {
		return err
	}
	return body.write(w)
}

func (e entity) write(w *message.Writer) error {
	for _, in := range e.inside {
		part, err := w.CreatePart(in.header)
		if err != nil {
			return err
		}
		if err := in.write(part); err != nil {
			return err
		}
	}
	if len(e.inside) == 0 {
		if _, err := w.Write(e.content); err != nil {
			return err
		}
	}
	return w.Close()
}

// body is all that the letter holds: its text, alone or beside a page, with the page's
// pictures, and then the files.
func (o Outgoing) body() entity {
	all := textEntity("text/plain", map[string]string{"charset": "utf-8", "format": "flowed"}, flow(o.Text))
	if o.HTML != "" {
		page := textEntity("text/html", map[string]string{"charset": "utf-8"}, o.HTML)
		if len(o.Inline) > 0 {
			page = several("related", page)
			for _, p := range o.Inline {
				page.inside = append(page.inside, p.entity("inline"))
			}
		}
		all = several("alternative", all, page)
	}
	if len(o.Parts) > 0 {
		all = several("mixed", all)
		for _, p := range o.Parts {
			all.inside = append(all.inside, p.entity("attachment"))
		}
	}
	return all
}

func several(kind string, inside ...entity) entity {
	e := entity{inside: inside}
	e.header.SetContentType("multipart/"+kind, nil)
	return e
}

func textEntity(kind string, params map[string]string, text string) entity {
	e := entity{content: []byte(text)}
	e.header.SetContentType(kind, params)
	e.header.Set("Content-Transfer-Encoding", "quoted-printable")
	return e
}

// entity is the part as it is sent, with its name by RFC 2231. A letter is never encoded
// (RFC 2046, 5.2.1): one that would have to be goes as a file.
func (p Part) entity(disposition string) entity {
	e := entity{content: p.Content}
	kind, params, err := mime.ParseMediaType(p.ContentType)
	if err != nil || strings.HasPrefix(kind, "multipart/") {
		kind, params = "application/octet-stream", nil
	}
	encoding := "base64"
	if strings.HasPrefix(kind, "message/") {
		if encoding = bareEncoding(p.Content); encoding == "base64" {
			kind, params = "application/octet-stream", nil
		}
	}
	e.header.SetContentType(kind, params)
	e.header.Set("Content-Transfer-Encoding", encoding)
	e.header.SetContentDisposition(disposition, map[string]string{"filename": oneLine(p.Name)})
	if p.ContentID != "" {
		e.header.Set("Content-Id", "<"+oneLine(p.ContentID)+">")
	}
	return e
}

// longestLine is how long a line of a letter may be, without its end (RFC 5322, 2.1.1).
const longestLine = 998

// bareEncoding is the transfer encoding under which bytes may go as they are (RFC 2045,
// 6.2); base64 where they may not.
func bareEncoding(content []byte) string {
	for line := range bytes.Lines(content) {
		if len(bytes.TrimRight(line, "\r\n")) > longestLine || bytes.IndexByte(line, 0) >= 0 {
			return "base64"
		}
	}
	if bytes.ContainsFunc(content, func(r rune) bool { return r > unicode.MaxASCII }) {
		return "8bit"
	}
	return "7bit"
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
