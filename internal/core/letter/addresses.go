package letter

import (
	"mime"
	"net/mail"
	"net/textproto"
	"regexp"
	"strings"
)

// wordDecoder decodes the names in address lists that keep to the grammar.
var wordDecoder = mime.WordDecoder{CharsetReader: charsetReader}

// strictly bounds, in bytes, the address lists that are tried by the grammar
// first: a longer one is taken apart in one pass.
const strictly = 64 << 10

// sender is whom a letter is from. Where the field names no address it is what
// stands there.
func sender(f textproto.MIMEHeader) Address {
	for _, name := range []string{"From", "\ufeffFrom", "Sender"} {
		if list := addresses(f.Values(textproto.CanonicalMIMEHeaderKey(name))); len(list) > 0 {
			return list[0]
		}
	}
	for _, name := range []string{"From", "Sender"} {
		if text := strings.Join(strings.Fields(decodeWords(f.Get(name))), " "); text != "" {
			return Address{Name: strings.Trim(text, `"<> `)}
		}
	}
	return Address{}
}

func addresses(values []string) []Address {
	parser := mail.AddressParser{WordDecoder: &wordDecoder}
	var out []Address
	for _, v := range values {
		if len(v) > strictly {
			out = append(out, looseAddresses(v)...)
			continue
		}
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
	for _, item := range splitList(v) {
		if a, ok := looseAddress(item); ok {
			out = append(out, a)
		}
	}
	return out
}

// splitList cuts a list at commas, and at the semicolons that some programs
// write between addresses; not within quotes, comments and angle brackets.
func splitList(v string) []string {
	var out []string
	quoted, escaped, depth, angle, from := false, false, 0, false, 0
	for i := 0; i < len(v); i++ {
		c := v[i]
		switch {
		case escaped:
			escaped = false
		case c == '\\':
			escaped = true
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '(':
			depth++
		case c == ')':
			depth = max(0, depth-1)
		case c == '<':
			angle = true
		case c == '>':
			angle = false
		case (c == ',' || c == ';') && depth == 0 && !angle:
			out, from = append(out, v[from:i]), i+1
		}
	}
	if quoted || depth > 0 || angle { // never closed: that was no quotation
		return strings.FieldsFunc(v, func(r rune) bool { return r == ',' || r == ';' })
	}
	return append(out, v[from:])
}

func looseAddress(item string) (Address, bool) {
	if group, rest, ok := strings.Cut(item, ":"); ok && !strings.ContainsAny(group, "<@\"") {
		item = rest // the name of a group (RFC 5322, 3.4)
	}
	name, comment := "", ""
	email := strings.TrimSpace(item)
	if before, rest, ok := strings.Cut(item, "<"); ok {
		name = before
		email, _, _ = strings.Cut(rest, ">")
	} else if before, rest, ok := strings.Cut(item, "("); ok { // the old way: address (Name)
		email, comment = before, strings.TrimSuffix(strings.TrimSpace(rest), ")")
	}
	email = strings.Trim(strings.TrimSpace(email), `"'<>`)
	name = decodeWords(unquoted(strings.TrimSpace(name + " " + comment)))
	switch {
	case strings.Contains(email, "@") && !strings.ContainsAny(email, " \t\r\n"):
		return Address{Name: name, Email: clean(email)}, true
	case strings.TrimSpace(item) != "":
		// No address at all: what stands there is shown.
		return Address{Name: strings.Trim(strings.Join(strings.Fields(decodeWords(item)), " "), `"<> `)}, true
	}
	return Address{}, false
}

var quotedPair = regexp.MustCompile(`\\(.)`)

// unquoted is a quoted string as it was meant (RFC 5322, 3.2.4), and of anything
// else what stands between quotes of any kind.
func unquoted(s string) string {
	if len(s) < 2 || s[0] != '"' || s[len(s)-1] != '"' {
		return strings.Trim(s, `"' `)
	}
	return strings.TrimSpace(quotedPair.ReplaceAllString(s[1:len(s)-1], "$1"))
}
