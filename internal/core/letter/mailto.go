package letter

import (
	"errors"
	"net/url"
	"strings"
)

// Link is a letter as a link proposes it (RFC 6068). Its addresses are as they stand there;
// Addresses tells which can be none.
type Link struct {
	To      []string `json:"to"`
	Cc      []string `json:"cc"`
	Bcc     []string `json:"bcc"`
	Subject string   `json:"subject"`
	Body    string   `json:"body"`
}

// ErrNoLink is returned for what is no mailto: URL.
var ErrNoLink = errors.New("this is no link to an address")

// Mailto reads a mailto: URL (RFC 6068). Fields that could say more than who gets it, its
// subject and its text are left out, as are line breaks in a subject: whoever made the link is
// not who sends the letter.
func Mailto(link string) (Link, error) {
	out := Link{To: []string{}, Cc: []string{}, Bcc: []string{}}
	scheme, rest, ok := strings.Cut(strings.TrimSpace(link), ":")
	if !ok || !strings.EqualFold(scheme, "mailto") {
		return out, ErrNoLink
	}
	rest, _, _ = strings.Cut(rest, "#")
	to, fields, _ := strings.Cut(rest, "?")
	add := func(list *[]string, encoded string) {
		for one := range strings.SplitSeq(encoded, ",") { // a comma within an address is encoded
			if text := strings.TrimSpace(decodedLink(one)); text != "" {
				*list = append(*list, oneLine(text))
			}
		}
	}
	add(&out.To, to)
	for field := range strings.SplitSeq(fields, "&") {
		name, value, _ := strings.Cut(field, "=")
		switch strings.ToLower(decodedLink(name)) {
		case "to":
			add(&out.To, value)
		case "cc":
			add(&out.Cc, value)
		case "bcc":
			add(&out.Bcc, value)
		case "subject":
			out.Subject = oneLine(decodedLink(value))
		case "body":
			out.Body = strings.ReplaceAll(decodedLink(value), "\r\n", "\n")
		}
	}
	return out, nil
}

// decodedLink is text out of its percent encoding; a plus sign is one (RFC 6068, 5). What is
// encoded wrongly stays as it is.
func decodedLink(s string) string {
	if text, err := url.PathUnescape(s); err == nil {
		return strings.ToValidUTF8(text, "�")
	}
	return s
}
