package letter

import (
	"bytes"
	"io"
	"mime"
	"net/mail"
	"net/textproto"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jhillyerd/enmime/v2"
)

func newParser(more ...enmime.Option) *enmime.Parser {
	return enmime.NewParser(append([]enmime.Option{
		enmime.SkipMalformedParts(true),
		enmime.MultipartWOBoundaryAsSinglePart(true),
		enmime.SetReadPartErrorPolicy(enmime.AllowCorruptTextPartErrorPolicy),
		enmime.MaxStoredPartErrors(20),
	}, more...)...)
}

// Guessing charsets takes as long as all the rest of reading a letter, and is
// only needed where the declared one does not fit.
var (
	believing = newParser(enmime.DisableCharacterDetection(true))
	guessing  = newParser()
)

func readParts(raw []byte) (*enmime.Envelope, error) {
	// A NUL is never part of a letter; some parsers stop at one.
	raw = bytes.ReplaceAll(raw, []byte{0}, nil)
	env, err := believing.ReadEnvelope(bytes.NewReader(raw))
	if err == nil && fits(env.Text) && fits(env.HTML) {
		return env, nil
	}
	env, err = guessing.ReadEnvelope(bytes.NewReader(raw))
	if err != nil || fits(env.Text) && fits(env.HTML) || utf8.Valid(raw) {
		return env, err
	}
	// Declared as UTF-8 but written in the old western charset: the text is
	// read as that. Its parts stay as they were.
	if western, err := charsetByName("windows-1252").NewDecoder().Bytes(raw); err == nil {
		if again, err := believing.ReadEnvelope(bytes.NewReader(western)); err == nil && fits(again.Text) && fits(again.HTML) {
			env.Text, env.HTML = again.Text, again.HTML
		}
	}
	return env, nil
}

func fits(text string) bool {
	return utf8.ValidString(text) && !strings.ContainsRune(text, utf8.RuneError)
}

// Parse reads a letter. It always returns one: of bytes that are no letter it
// keeps what text there is, and says in Damage what was wrong.
func Parse(raw []byte) Letter {
	header, body := splitHeader(raw)
	fields := readFields(header)
	l := fromFields(fields)
	if err := prescan(raw); err != nil {
		l.Text, l.Damage = printable(body), err.Error()
		return l
	}
	if len(fields) == 0 || l.From.Email == "" && l.Date.IsZero() && l.Subject == "" {
		l.Damage = "no letter header was found"
	}
	env, err := readParts(raw)
	if err != nil {
		l.Text = printable(body)
		if l.Damage == "" {
			l.Damage = "its parts could not be read"
		}
		return l
	}
	l.Text, l.HTML = clean(env.Text), clean(env.HTML)
	l.Parts = partsOf(env)
	for _, e := range env.Errors {
		if e.Severe && l.Damage == "" {
			l.Damage = "a part could not be read: " + strings.ToLower(e.Name)
		}
	}
	l.Automatic = classify(fields, env)
	return l
}

func fromFields(f textproto.MIMEHeader) Letter {
	l := Letter{
		MessageID:  firstID(f.Get("Message-Id")),
		InReplyTo:  ids(f.Values("In-Reply-To")),
		References: ids(f.Values("References")),
		To:         addresses(f.Values("To")),
		Cc:         addresses(f.Values("Cc")),
		Bcc:        addresses(f.Values("Bcc")),
		ReplyTo:    addresses(f.Values("Reply-To")),
		Subject:    strings.Join(strings.Fields(decodeWords(f.Get("Subject"))), " "),
	}
	if from := addresses(f.Values("From")); len(from) > 0 {
		l.From = from[0]
	} else if sender := addresses(f.Values("Sender")); len(sender) > 0 {
		l.From = sender[0]
	}
	l.Date = parseDate(f.Get("Date"))
	if received := f.Get("Received"); received != "" {
		if i := strings.LastIndexByte(received, ';'); i >= 0 {
			l.Received = parseDate(received[i+1:])
		}
	}
	return l
}

func parseDate(text string) time.Time {
	t, err := mail.ParseDate(strings.TrimSpace(text))
	if err != nil || t.Year() < 1970 || t.Year() > 9000 {
		return time.Time{}
	}
	return t.UTC()
}

// splitHeader cuts raw at its first empty line.
func splitHeader(raw []byte) (header, body []byte) {
	for _, gap := range []string{"\r\n\r\n", "\n\n"} {
		if i := bytes.Index(raw, []byte(gap)); i >= 0 {
			j := bytes.Index(raw, []byte("\n\n"))
			if gap == "\r\n\r\n" && j >= 0 && j < i {
				continue
			}
			return raw[:i], raw[i+len(gap):]
		}
	}
	return raw, nil
}

// readFields reads header fields one by one, so that one bad line costs only
// itself.
func readFields(header []byte) textproto.MIMEHeader {
	fields := textproto.MIMEHeader{}
	var name, value string
	flush := func() {
		if name != "" {
			fields.Add(name, strings.TrimSpace(value))
		}
		name, value = "", ""
	}
	for line := range strings.SplitSeq(strings.ReplaceAll(string(header), "\r\n", "\n"), "\n") {
		if line != "" && (line[0] == ' ' || line[0] == '\t') {
			value += " " + strings.TrimSpace(line)
			continue
		}
		flush()
		if n, v, ok := strings.Cut(line, ":"); ok && n != "" && !strings.ContainsAny(strings.TrimRight(n, " \t"), " \t") {
			name, value = strings.TrimRight(n, " \t"), v
		}
	}
	flush()
	return fields
}

func ids(values []string) []string {
	var out []string
	for _, v := range values {
		for {
			_, rest, ok := strings.Cut(v, "<")
			if !ok {
				break
			}
			id, after, closed := strings.Cut(rest, ">")
			if id = strings.TrimSpace(id); closed && id != "" && len(id) < 1000 {
				out = append(out, id)
			}
			v = after
		}
	}
	return out
}

func firstID(value string) string {
	if list := ids([]string{value}); len(list) > 0 {
		return list[0]
	}
	return strings.TrimSpace(value)
}

var wordDecoder = mime.WordDecoder{CharsetReader: charsetReader}

func decodeWords(s string) string {
	decoded, err := wordDecoder.DecodeHeader(s)
	if err != nil {
		decoded = s
	}
	return clean(decoded)
}

func addresses(values []string) []Address {
	parser := mail.AddressParser{WordDecoder: &wordDecoder}
	var out []Address
	for _, v := range values {
		list, err := parser.ParseList(v)
		if err != nil {
			out = append(out, looseAddresses(v)...)
			continue
		}
		for _, a := range list {
			out = append(out, Address{Name: strings.TrimSpace(clean(a.Name)), Email: clean(a.Address)})
		}
	}
	return out
}

// looseAddresses takes what it can of a list that breaks the grammar.
func looseAddresses(v string) []Address {
	var out []Address
	for _, item := range strings.Split(v, ",") {
		name, rest, ok := strings.Cut(item, "<")
		email := strings.TrimSpace(item)
		if ok {
			email, _, _ = strings.Cut(rest, ">")
		} else {
			name = ""
		}
		if strings.Contains(email, "@") && !strings.ContainsAny(email, " \t\r\n") {
			out = append(out, Address{Name: strings.Trim(decodeWords(strings.TrimSpace(name)), `" `), Email: clean(email)})
		}
	}
	return out
}

// clean keeps text that a database and a page can hold: valid UTF-8 without
// control characters other than line ends and tabs.
func clean(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	return strings.Map(func(r rune) rune {
		if r < 0x20 && r != '\n' && r != '\t' && r != '\r' || r == 0x7f {
			return -1
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
	if !utf8.Valid(body) {
		r := charsetByName("windows-1252").NewDecoder().Reader(bytes.NewReader(body))
		body, _ = io.ReadAll(r)
	}
	return clean(string(body))
}

func partsOf(env *enmime.Envelope) []Part {
	var out []Part
	add := func(parts []*enmime.Part, inline bool) {
		for _, p := range parts {
			if inline && p.FileName == "" && (p.ContentType == "text/plain" || p.ContentType == "text/html") {
				continue // the letter's own text, marked as inline
			}
			part := Part{
				Name: clean(p.FileName), ContentType: strings.ToLower(p.ContentType),
				ContentID: strings.Trim(p.ContentID, "<> "), Content: p.Content,
			}
			// An inline part that nothing refers to is an attachment to a reader.
			part.Inline = (inline || part.ContentID != "") && part.ContentID != "" &&
				strings.Contains(env.HTML, "cid:"+part.ContentID)
			if part.Name == "" {
				part.Name = nameFor(part.ContentType)
			}
			out = append(out, part)
		}
	}
	add(env.Attachments, false)
	add(env.Inlines, true)
	add(env.OtherParts, true)
	return out
}

func nameFor(contentType string) string {
	switch {
	case contentType == "message/rfc822":
		return "letter.eml"
	case contentType == "text/calendar":
		return "invitation.ics"
	case strings.HasPrefix(contentType, "image/"):
		return "picture." + strings.TrimPrefix(contentType, "image/")
	}
	return "attachment"
}
