package letter

import (
	"bytes"
	"fmt"
	"strings"
	"time"

	"github.com/emersion/go-message/textproto"
)

// ReadReceipt is the answer to somebody who asked to be told that a letter was
// read (RFC 8098). It is only made when the person agrees.
type ReadReceipt struct {
	MessageID string // of the receipt, without angle brackets
	From      Address
	To        []Address
	At        time.Time
	// Of is the letter that was read.
	Of Letter
}

// ReadReceiptGoesElsewhere tells whether the receipt goes elsewhere than to the letter's
// sender, which the person is told before agreeing (RFC 8098, 2.1).
func (l Letter) ReadReceiptGoesElsewhere() bool {
	for _, a := range l.ReadReceiptTo {
		if a.Key() != l.From.Key() {
			return true
		}
	}
	return false
}

// Bytes writes the receipt: a multipart/report with a line for people and the
// fields for machines.
func (r ReadReceipt) Bytes() ([]byte, error) {
	if len(r.To) == 0 {
		return nil, ErrNoRecipient
	}
	boundary := "receipt-" + strings.Map(func(c rune) rune {
		if c >= 'a' && c <= 'z' || c >= '0' && c <= '9' {
			return c
		}
		return '-'
	}, r.MessageID)
	if len(boundary) > 70 {
		boundary = boundary[:70]
	}
	o := Outgoing{MessageID: r.MessageID, From: r.From, To: r.To, Subject: "Read: " + r.Of.Subject, Date: r.At, References: Chain(r.Of), InReplyTo: r.Of.MessageID, AutoSubmitted: "auto-replied"}
	h := o.header()
	h.Set("Content-Type", `multipart/report; report-type=disposition-notification; boundary="`+boundary+`"`)
	var b bytes.Buffer
	if err := textproto.WriteHeader(&b, h.Header.Header); err != nil {
		return nil, fmt.Errorf("write receipt: %w", err)
	}
	fmt.Fprintf(&b, "--%s\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: 8bit\r\n\r\n", boundary)
	fmt.Fprintf(&b, "Your letter of %s to %s was shown on %s. This does not say that it was understood.\r\n\r\n",
		r.Of.Date.Format("2 January 2006 15:04 MST"), oneLine(r.From.Email), r.At.Format("2 January 2006 15:04 MST"))
	fmt.Fprintf(&b, "--%s\r\nContent-Type: message/disposition-notification\r\n\r\nReporting-UA: Ebbe\r\nFinal-Recipient: rfc822;%s\r\n", boundary, oneLine(r.From.Email))
	if r.Of.MessageID != "" {
		fmt.Fprintf(&b, "Original-Message-ID: <%s>\r\n", oneLine(r.Of.MessageID))
	}
	fmt.Fprintf(&b, "Disposition: manual-action/MDN-sent-manually; displayed\r\n\r\n--%s--\r\n", boundary)
	return b.Bytes(), nil
}
