package letter

import (
	"bytes"
	"encoding/base64"
	"strings"
)

// transferred takes off a transfer encoding (RFC 2045, 6). It never fails: what
// breaks the rules is read as a person would take it. whole is false where a
// text was declared base64 and plainly is none: it is then as it came.
func transferred(raw []byte, encoding string) (content []byte, whole bool) {
	encoding, _, _ = strings.Cut(encoding, "(") // a comment
	switch strings.ToLower(strings.Trim(encoding, " \t\"';")) {
	case "base64", "base-64", "b64":
		return fromBase64(raw)
	case "quoted-printable", "quotedprintable", "quoted_printable":
		return fromQuotedPrintable(raw), true
	case "x-uuencode", "x-uue", "uuencode", "uue", "x-uu":
		return fromUU(raw)
	}
	return raw, true
}

// fromBase64 reads base64 (RFC 2045, 6.8): everything outside the alphabet is
// passed over, padding may be missing, and several pieces may follow each
// other. A text in clear is told by its blanks and marks.
func fromBase64(raw []byte) (content []byte, whole bool) {
	if !looksBase64(raw) {
		return raw, false
	}
	out := make([]byte, 0, len(raw)*3/4+3)
	piece := make([]byte, 0, len(raw))
	flush := func() {
		if len(piece)%4 == 1 { // six bits make no byte
			piece = piece[:len(piece)-1]
		}
		decoded := make([]byte, base64.RawStdEncoding.DecodedLen(len(piece)))
		n, _ := base64.RawStdEncoding.Decode(decoded, piece) // the alphabet was sifted
		out = append(out, decoded[:n]...)
		piece = piece[:0]
	}
	for _, c := range raw {
		switch {
		case c >= 'A' && c <= 'Z', c >= 'a' && c <= 'z', c >= '0' && c <= '9', c == '+', c == '/':
			piece = append(piece, c)
		case c == '=':
			flush()
		}
	}
	flush()
	return out, true
}

// looksBase64 looks at the first lines of what was declared base64.
func looksBase64(raw []byte) bool {
	seen := 0
	for line := range bytes.Lines(raw) {
		if line = bytes.TrimSpace(line); len(line) == 0 {
			continue
		}
		if bytes.ContainsAny(line, " .,;:!?'\"()<>&\xc3\xe5\xf8") {
			return false
		}
		if seen++; seen == 4 {
			break
		}
	}
	return true
}

// fromQuotedPrintable reads quoted-printable (RFC 2045, 6.7). A "=" that begins
// no code stands for itself.
func fromQuotedPrintable(raw []byte) []byte {
	out := make([]byte, 0, len(raw))
	for line := range bytes.Lines(raw) {
		body := bytes.TrimRight(line, "\r\n")
		end := line[len(body):]
		body = bytes.TrimRight(body, " \t") // added on the way
		for i := 0; i < len(body); i++ {
			switch c := body[i]; {
			case c != '=':
				out = append(out, c)
			case i+2 < len(body) && unhex(body[i+1]) >= 0 && unhex(body[i+2]) >= 0:
				out = append(out, byte(unhex(body[i+1])<<4|unhex(body[i+2])))
				i += 2
			case i == len(body)-1: // a soft line end
				end = nil
			default:
				out = append(out, c)
			}
		}
		out = append(out, end...)
	}
	return out
}

// fromUU reads uuencode, as POSIX describes it: the lines between "begin" and
// "end".
func fromUU(raw []byte) (content []byte, whole bool) {
	var out []byte
	begun := false
	for line := range bytes.Lines(raw) {
		line = bytes.TrimRight(line, "\r\n")
		switch {
		case !begun:
			begun = bytes.HasPrefix(line, []byte("begin "))
		case bytes.Equal(bytes.TrimSpace(line), []byte("end")):
			return out, true
		case len(line) > 0:
			n := int(line[0]-' ') & 0x3f
			var three []byte
			for i := 1; i < len(line) && len(three) < n; i += 4 {
				var v uint32
				for j := range 4 {
					v <<= 6
					if i+j < len(line) {
						v |= uint32(line[i+j]-' ') & 0x3f
					}
				}
				three = append(three, byte(v>>16), byte(v>>8), byte(v))
			}
			out = append(out, three[:min(n, len(three))]...)
		}
	}
	return raw, false
}

func unhex(c byte) int { return strings.IndexByte("0123456789abcdef", c|0x20) }
