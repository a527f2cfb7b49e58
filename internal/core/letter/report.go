package letter

import (
	"bufio"
	"bytes"
	"net/textproto"
	"strings"

	"github.com/jhillyerd/enmime/v2"
)

// Reported is what a machine tells about a letter of mine: that it could not be
// delivered (RFC 3464), or that it was shown to somebody (RFC 8098).
type Reported struct {
	Kind ReportKind `json:"kind" enum:"failed,delayed,delivered,read,not-read"`
	// Original is the Message-ID of the letter that is reported on.
	Original string `json:"original,omitempty"`
	// Recipient is whom it was for, Reason what the mail service says.
	Recipient string `json:"recipient,omitempty"`
	Reason    string `json:"reason,omitempty"`
}

// ReportKind is what a report says.
type ReportKind string

// The kinds of reports.
const (
	Failed    ReportKind = "failed"    // for good
	Delayed   ReportKind = "delayed"   // it is still being tried
	Delivered ReportKind = "delivered" // also relayed or expanded
	WasRead   ReportKind = "read"      // "displayed"
	NotRead   ReportKind = "not-read"  // deleted or dispatched without being shown
)

// readReport reads a multipart/report; nil for any other letter, and for a
// report that says nothing.
func readReport(f textproto.MIMEHeader, root *enmime.Part) *Reported {
	if root == nil || !strings.HasPrefix(strings.ToLower(f.Get("Content-Type")), "multipart/report") {
		return nil
	}
	var r *Reported
	original := ""
	root.DepthMatchAll(func(p *enmime.Part) bool {
		switch strings.ToLower(p.ContentType) {
		case "message/delivery-status", "message/global-delivery-status":
			if r == nil {
				r = deliveryReport(p.Content)
			}
		case "message/disposition-notification", "message/global-disposition-notification":
			if r == nil {
				r = readingReport(p.Content)
			}
		case "message/rfc822", "text/rfc822-headers", "message/global", "message/global-headers":
			header, _ := splitHeader(p.Content)
			if id := firstID(readFields(header).Get("Message-Id")); original == "" {
				original = id
			}
		}
		return false
	})
	if r != nil && r.Original == "" {
		r.Original = original
	}
	return r
}

// blocks reads the groups of fields that a report consists of.
func blocks(content []byte) []textproto.MIMEHeader {
	in := textproto.NewReader(bufio.NewReader(bytes.NewReader(append(bytes.TrimLeft(content, "\r\n"), "\r\n\r\n"...))))
	var out []textproto.MIMEHeader
	for range 200 { // recipients of one letter
		h, err := in.ReadMIMEHeader()
		if len(h) > 0 {
			out = append(out, h)
		}
		if err != nil {
			break
		}
	}
	return out
}

// worth orders what reports on several recipients say: the worst is told.
var worth = map[ReportKind]int{Failed: 3, Delayed: 2, Delivered: 1}

func deliveryReport(content []byte) *Reported {
	var out *Reported
	for _, b := range blocks(content) {
		kind, ok := map[string]ReportKind{
			"failed": Failed, "delayed": Delayed, "delivered": Delivered, "relayed": Delivered, "expanded": Delivered,
		}[strings.ToLower(field(b, "Action"))]
		if !ok || out != nil && worth[kind] <= worth[out.Kind] {
			continue
		}
		reason := afterType(field(b, "Diagnostic-Code"))
		if reason == "" {
			reason = field(b, "Status")
		}
		recipient := afterType(field(b, "Original-Recipient"))
		if recipient == "" {
			recipient = afterType(field(b, "Final-Recipient"))
		}
		out = &Reported{Kind: kind, Recipient: clean(recipient), Reason: clean(strings.Join(strings.Fields(reason), " "))}
	}
	return out
}

func readingReport(content []byte) *Reported {
	for _, b := range blocks(content) {
		_, disposition, ok := strings.Cut(field(b, "Disposition"), ";")
		if !ok {
			continue
		}
		kind := NotRead
		if strings.HasPrefix(strings.ToLower(strings.TrimSpace(disposition)), "displayed") {
			kind = WasRead
		}
		return &Reported{Kind: kind, Original: firstID(field(b, "Original-Message-Id")), Recipient: clean(afterType(field(b, "Final-Recipient")))}
	}
	return nil
}

// afterType takes off the type of an address or of a diagnostic ("rfc822; x").
func afterType(s string) string {
	if _, rest, ok := strings.Cut(s, ";"); ok {
		s = rest
	}
	return strings.TrimSpace(s)
}
