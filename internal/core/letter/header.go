package letter

import (
	"bytes"
	"net/textproto"
	"regexp"
	"slices"
	"strings"
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
	l.From = sender(f)
	l.Date = parseDate(f.Get("Date"))
	l.ReadReceiptTo = addresses(f.Values("Disposition-Notification-To"))
	l.ReturnPath = firstID(f.Get("Return-Path"))
	if received := f.Get("Received"); received != "" {
		if i := strings.LastIndexByte(received, ';'); i >= 0 {
			l.Received = parseDate(received[i+1:])
		}
	}
	return l
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

// readFields reads header fields one by one, in one pass, so that one bad line
// costs only itself.
func readFields(header []byte) textproto.MIMEHeader {
	fields := textproto.MIMEHeader{}
	var name string
	var value strings.Builder
	flush := func() {
		if name != "" {
			fields.Add(name, strings.TrimSpace(value.String()))
		}
		name = ""
		value.Reset()
	}
	for line := range bytes.Lines(header) {
		line = bytes.TrimRight(line, "\r\n")
		if len(line) > 0 && (line[0] == ' ' || line[0] == '\t') {
			value.WriteByte(' ')
			value.Write(bytes.TrimSpace(line))
			continue
		}
		flush()
		if n, v, ok := bytes.Cut(line, []byte(":")); ok && len(n) > 0 && !bytes.ContainsAny(bytes.TrimRight(n, " \t"), " \t") {
			name = string(bytes.TrimRight(n, " \t"))
			value.Write(v)
		}
	}
	flush()
	return fields
}

func lineEnd(raw []byte, at int) int {
	if i := bytes.IndexByte(raw[at:], '\n'); i >= 0 {
		return at + i + 1
	}
	return len(raw)
}

// maxIDs bounds how many letters one refers to: the first, from which all
// began, and the latest.
const maxIDs = 200

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
	if len(out) > maxIDs {
		out = append(out[:1:1], out[len(out)-maxIDs+1:]...)
	}
	return out
}

func firstID(value string) string {
	if list := ids([]string{value}); len(list) > 0 {
		return list[0]
	}
	// Without brackets it is taken as it stands; empty ones name nothing.
	return strings.TrimSpace(strings.Trim(strings.TrimSpace(value), "<>"))
}
