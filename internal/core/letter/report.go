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
	Kind ReportKind `json:"kind" enum:"failed,delayed,delivered,relayed,expanded,read,not-read"`
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
	Failed    ReportKind = "failed"  // for good
	Delayed   ReportKind = "delayed" // it is still being tried
	Delivered ReportKind = "delivered"
	Relayed   ReportKind = "relayed"  // to a service that tells no more
	Expanded  ReportKind = "expanded" // to the members of a list
	WasRead   ReportKind = "read"     // "displayed"
	NotRead   ReportKind = "not-read" // deleted or dispatched without being shown
)

// readReport reads a multipart/report: what it says as a whole, where what is relayed or
// expanded counts as delivered, and what of each recipient; nil for any other letter, and for a
// report that says nothing.
func readReport(f textproto.MIMEHeader, root *enmime.Part) (r *Reported, all []Reported) {
	if root == nil || !strings.HasPrefix(strings.ToLower(f.Get("Content-Type")), "multipart/report") {
		return nil, nil
	}
	original := ""
	root.DepthMatchAll(func(p *enmime.Part) bool {
		switch strings.ToLower(p.ContentType) {
		case "message/delivery-status", "message/global-delivery-status":
			if r == nil {
				r, all = deliveryReport(p.Content)
			}
		case "message/disposition-notification", "message/global-disposition-notification":
			if r == nil {
				if r = readingReport(p.Content); r != nil {
					all = []Reported{*r}
				}
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
	for i := range all {
		all[i].Original = r.Original
	}
	return r, all
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

func deliveryReport(content []byte) (out *Reported, all []Reported) {
	for _, b := range blocks(content) {
		kind, ok := map[string]ReportKind{
			"failed": Failed, "delayed": Delayed, "delivered": Delivered, "relayed": Relayed, "expanded": Expanded,
		}[strings.ToLower(field(b, "Action"))]
		if !ok {
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
		one := Reported{Kind: kind, Recipient: clean(recipient), Reason: clean(strings.Join(strings.Fields(reason), " "))}
		all = append(all, one)
		if kind == Relayed || kind == Expanded {
			one.Kind = Delivered
		}
		if out == nil || worth[one.Kind] > worth[out.Kind] {
			out = &one
		}
	}
	return out, all
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
