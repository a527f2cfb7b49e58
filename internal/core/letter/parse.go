package letter

import (
	"bytes"
	"net/textproto"
	"strings"

	"github.com/inbucket/html2text"
	"github.com/jhillyerd/enmime/v2"
	"github.com/jhillyerd/enmime/v2/mediatype"
	"golang.org/x/text/encoding/charmap"
)

// parser takes a letter apart and leaves the contents of its parts as they
// came: transfer encodings and charsets are taken off here (transferred,
// decodeText), with what the world sends in mind.
var parser = enmime.NewParser(
	enmime.RawContent(true),
	enmime.SkipMalformedParts(true),
	enmime.MultipartWOBoundaryAsSinglePart(true),
	enmime.MaxStoredPartErrors(20),
	enmime.SetCustomParseMediaType(mediaType),
)

// mediaType reads a type, or a disposition, with its parameters. One that can't
// be read keeps what can; an invalid type is text/plain (RFC 2045, 5.2).
func mediaType(field string) (kind string, params map[string]string, invalid []string, err error) {
	kind, params, invalid, err = mediatype.Parse(field)
	if err == nil || strings.TrimSpace(field) == "" {
		return kind, params, invalid, err
	}
	kind, _, _ = strings.Cut(field, ";")
	kind = strings.ToLower(strings.TrimSpace(kind))
	if main, sub, ok := strings.Cut(kind, "/"); kind != "attachment" && kind != "inline" && (!ok || main == "" || sub == "" || strings.ContainsAny(kind, " \t")) {
		kind = "text/plain"
	}
	return kind, map[string]string{}, nil, nil
}

// readBody reads the parts of a letter that has passed the prescan.
func readBody(raw []byte) (body, error) {
	root, err := parser.ReadParts(bytes.NewReader(raw))
	if err != nil {
		return body{}, err
	}
	return assemble(root), nil
}

// Parse reads a letter. It always returns one: of bytes that are no letter it
// keeps what text there is, and says in Damage what was wrong.
func Parse(raw []byte) (l Letter) {
	raw = endHeader(bytes.TrimLeft(bytes.TrimPrefix(raw, []byte("\ufeff")), " \t\r\n"))
	header, rest := splitHeader(raw)
	fields := readFields(header)
	l = fromFields(fields)
	l.classify(fields, nil)
	if len(fields) == 0 || l.From.Email == "" && l.Date.IsZero() && l.Subject == "" {
		l.Damage = "no letter header was found"
		// Nothing but its bytes tells it from others.
		defer func() { l.digest = digestOf(raw) }()
	}
	if err := prescan(raw); err != nil {
		l.Damage = err.Error()
		l.readPart(raw, rest)
		return l
	}
	b, err := readBody(raw)
	if err != nil {
		l.Text, l.digest = printable(rest), digestOf(rest)
		if l.Damage == "" {
			l.Damage = "its parts could not be read"
		}
		return l
	}
	l.Text, l.HTML, l.Parts, l.Seal, l.digest = b.text, b.html, b.parts, b.seal, b.digest()
	if l.Damage == "" {
		l.Damage = b.damage
	}
	if l.Text == "" && l.HTML == "" && len(l.Parts) == 0 && len(bytes.TrimSpace(rest)) > 0 {
		l.Text, l.Damage = printable(rest), "its text could not be told from the rest: shown as it came"
	}
	l.classify(fields, b.root)
	l.Report, l.Reports = readReport(fields, b.root)
	for i := range l.Parts {
		p := &l.Parts[i]
		p.Inline = p.Inline || l.Report != nil && forMachines[p.ContentType] || l.Seal.Kind == "signed" && signatures[p.ContentType]
	}
	return l
}

func (l *Letter) classify(fields textproto.MIMEHeader, root *enmime.Part) {
	l.byItself, l.underEmpty = classify(fields, root, false), classify(fields, root, true)
	l.Automatic = l.byItself
	if namesEmptyPath(fields) {
		l.Automatic = l.underEmpty
	}
	l.ListID, l.Unsubscribes = listOf(fields.Get("List-Id")), fields.Get("List-Unsubscribe") != ""
	if l.Unsubscribes {
		l.Leaving = leaving(fields)
	}
	l.SentOn = fields.Get(loopField) != ""
	precedence := precedenceOf(fields)
	l.Bulk, l.Spoofed = precedence == "bulk" || precedence == "junk", spoofed(fields)
}

// Parts that a person need not see: what a report says is said in words, and
// so is a signature.
var (
	forMachines = map[string]bool{
		"message/delivery-status": true, "message/global-delivery-status": true, "text/rfc822-headers": true, "message/global-headers": true,
		"message/disposition-notification": true, "message/global-disposition-notification": true,
	}
	signatures = map[string]bool{"application/pgp-signature": true, "application/pkcs7-signature": true, "application/x-pkcs7-signature": true}
)

// longHTML bounds, in bytes, the HTML of which a plain text is made.
const longHTML = 1 << 20

func textFromHTML(source string) string {
	if len(source) > longHTML {
		source = source[:longHTML]
	}
	text, err := html2text.FromString(source)
	if err != nil {
		text = bareText(source)
	}
	return clean(text)
}

// clean keeps text that a database and a page can hold: valid UTF-8 without
// control characters other than line ends and tabs.
func clean(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	return strings.Map(func(r rune) rune {
		switch {
		case r < 0x20 && r != '\n' && r != '\t' && r != '\r' || r == 0x7f:
			return -1
		case r >= 0x80 && r < 0xa0: // declared as Latin-1, meant as the western charset of windows
			return charmap.Windows1252.DecodeByte(byte(r))
		}
		return r
	}, strings.ReplaceAll(s, "\r\n", "\n"))
}

const keptText = 64 << 10

// printable is the first text of a body that could not be parsed.
func printable(body []byte) string {
	if len(body) > keptText {
		body = body[:keptText]
	}
	return clean(decodeText(body, "", false))
}

// field reads one header field of a part.
func field(h textproto.MIMEHeader, name string) string { return strings.TrimSpace(h.Get(name)) }
