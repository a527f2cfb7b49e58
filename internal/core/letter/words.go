package letter

import (
	"encoding/base64"
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"
)

// encodedWord is the form of RFC 2047, section 2, and what is commonly made of
// it: blanks inside, no padding, a language (RFC 2231, section 5).
var encodedWord = regexp.MustCompile(`=\?([^?\s*]{1,40})(?:\*[^?\s]{0,20})?\?([bBqQ])\?([^?\r\n]*)\?=`)

// decodeWords decodes encoded words. Neighbours of one charset are joined
// before they are decoded, since some programs cut between the bytes of one
// character. What can't be decoded stays as it is written. Bytes that are no
// UTF-8 are read as the old western charset.
func decodeWords(s string) string {
	if !utf8.ValidString(s) {
		s = western([]byte(s))
	}
	found := encodedWord.FindAllStringSubmatchIndex(s, -1)
	if found == nil {
		return clean(s)
	}
	var out strings.Builder
	var pending []byte // decoded bytes of one charset, not yet text
	charset, from, end := "", 0, 0
	flush := func() {
		if pending == nil {
			return
		}
		if text, err := toUTF8(charset, pending); err == nil {
			out.WriteString(text)
		} else {
			out.WriteString(s[from:end]) // an unknown charset: as it is written
		}
		pending = nil
	}
	for _, f := range found {
		gap, name := s[end:f[0]], strings.ToLower(s[f[2]:f[3]])
		decoded, ok := decodeWord(s[f[4]:f[5]], s[f[6]:f[7]])
		if !ok {
			continue // stays in the gap before the next one
		}
		if blank := strings.TrimSpace(gap) == ""; !blank || pending == nil || name != charset {
			joined := blank && pending != nil
			flush()
			if !joined { // white space between two encoded words is none (RFC 2047, 6.2)
				out.WriteString(gap)
			}
			charset, from = name, f[0]
		}
		pending, end = append(pending, decoded...), f[1]
	}
	flush()
	out.WriteString(s[end:])
	return clean(out.String())
}

func decodeWord(encoding, text string) ([]byte, bool) {
	if strings.EqualFold(encoding, "b") {
		text = strings.TrimRight(strings.Join(strings.Fields(text), ""), "=")
		decoded, err := base64.RawStdEncoding.DecodeString(text)
		return decoded, err == nil
	}
	out := make([]byte, 0, len(text))
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '_':
			out = append(out, ' ')
		case c == '=' && i+2 < len(text) && unhex(text[i+1]) >= 0 && unhex(text[i+2]) >= 0:
			out = append(out, byte(unhex(text[i+1])<<4|unhex(text[i+2])))
			i += 2
		default:
			out = append(out, c)
		}
	}
	return out, true
}

func toUTF8(charset string, b []byte) (string, error) {
	if charsetByName(charset) == nil && charset != "utf8" {
		return "", fmt.Errorf("unknown charset %q", charset)
	}
	return decodeText(b, charset, false), nil
}
