package letter

import (
	"bytes"
	"regexp"
)

var base64Field = regexp.MustCompile(`(?i)^content-transfer-encoding[ \t]*:[ \t]*"?base64"?[ \t]*\r?$`)

// truthful takes back a declared base64 where the lines below are plainly
// none, so that such a text is shown as it was written. The letter keeps its
// length; its stored bytes are never touched.
func truthful(raw []byte) []byte {
	for at := 0; at < len(raw); {
		end := lineEnd(raw, at)
		line := raw[at:end]
		if len(line) < 80 && line[0]|0x20 == 'c' && base64Field.Match(bytes.TrimRight(line, "\r\n")) && !looksBase64(raw[end:]) {
			copied := bytes.Clone(raw[at:end])
			i := bytes.Index(bytes.ToLower(copied), []byte("base64"))
			copy(copied[i:], "8bit  ")
			raw = append(append(bytes.Clone(raw[:at]), copied...), raw[end:]...)
		}
		at = end
	}
	return raw
}

func lineEnd(raw []byte, at int) int {
	if i := bytes.IndexByte(raw[at:], '\n'); i >= 0 {
		return at + i + 1
	}
	return len(raw)
}

// looksBase64 looks at the first lines of the body that follows the rest of a
// header.
func looksBase64(rest []byte) bool {
	inBody, seen := false, 0
	for at := 0; at < len(rest) && seen < 4; {
		end := lineEnd(rest, at)
		line := bytes.TrimSpace(rest[at:end])
		at = end
		switch {
		case len(line) == 0:
			inBody = true
		case !inBody:
		case bytes.HasPrefix(line, []byte("--")):
			return true // the part ends
		default:
			seen++
			if bytes.ContainsAny(line, " .,;:!?'\"()<>&\xc3\xe5\xf8") {
				return false
			}
		}
	}
	return true
}
