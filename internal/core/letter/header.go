package letter

import (
	"bytes"
	"mime"
	"net/mail"
	"net/textproto"
	"regexp"
	"slices"
	"strings"
	"time"
)

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
	l.ReceiptTo = addresses(f.Values("Disposition-Notification-To"))
	l.ReturnPath = firstID(f.Get("Return-Path"))
	if received := f.Get("Received"); received != "" {
		if i := strings.LastIndexByte(received, ';'); i >= 0 {
			l.Received = parseDate(received[i+1:])
		}
	}
	return l
}

// dateLayouts are forms of dates that break RFC 5322 and are yet common.
var dateLayouts = []string{
	time.RFC3339, "2006-01-02 15:04:05 -0700", time.ANSIC, time.UnixDate, "Mon, 2 Jan 2006 15:04:05", "2 Jan 2006 15:04:05", "Mon, 2 Jan 2006 15:04 MST",
	"Mon, 2 Jan 2006 15.04.05 -0700", "Mon, 2-Jan-2006 15:04:05 -0700", "Monday, 2 January 2006 15:04:05 -0700",
}

// parseDate reads a date (RFC 5322, 3.3 and its obsolete forms, 4.3); zero if
// it names no time between 1970 and 9000.
func parseDate(text string) time.Time {
	text = strings.Join(strings.Fields(text), " ")
	t, err := mail.ParseDate(text)
	for i := 0; err != nil && i < len(dateLayouts); i++ {
		t, err = time.Parse(dateLayouts[i], text)
	}
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

var fieldLike = regexp.MustCompile(`^([!-9;-~]+[ \t]*:|[ \t]|>?From )`)

// endHeader puts in the empty line that should end a header, where there is
// none at all and a line comes that can't belong to it.
func endHeader(raw []byte) []byte {
	if header, _ := splitHeader(raw); len(header) != len(raw) || len(raw) > maxHeader {
		return raw
	}
	for at := 0; at < len(raw); {
		if line := raw[at:lineEnd(raw, at)]; !fieldLike.Match(line) {
			return slices.Concat(raw[:at], []byte("\n"), raw[at:])
		}
		at = lineEnd(raw, at)
	}
	return raw
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

// wordDecoder decodes the names in address lists that keep to the grammar.
var wordDecoder = mime.WordDecoder{CharsetReader: charsetReader}

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
			out = append(out, Address{Name: strings.TrimSpace(decodeWords(a.Name)), Email: clean(a.Address)})
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
