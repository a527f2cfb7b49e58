package letter

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/cention-sany/utf7"
	htmlcharset "golang.org/x/net/html/charset"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/ianaindex"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/unicode"
)

func charsetReader(name string, in io.Reader) (io.Reader, error) {
	enc := charsetByName(name)
	if enc == nil {
		return nil, fmt.Errorf("unknown charset %q", name)
	}
	return enc.NewDecoder().Reader(in), nil
}

// charsetByName finds a charset by the names of the web and of mail; nil for
// one that is unknown or that can't be read.
func charsetByName(name string) encoding.Encoding {
	name = strings.ToLower(strings.Trim(name, " \t\"'"))
	name = strings.TrimPrefix(name, "charset=")
	switch name {
	case "":
		return nil
	case "utf-7", "utf7", "unicode-1-1-utf-7", "csutf7":
		return utf7.UTF7
	case "hz-gb-2312", "hz":
		return simplifiedchinese.HZGB2312
	}
	if enc, err := htmlindex.Get(name); err == nil && enc != encoding.Replacement {
		return enc
	}
	if enc, err := ianaindex.MIME.Encoding(name); err == nil && enc != nil {
		return enc
	}
	if enc, err := ianaindex.IANA.Encoding(name); err == nil && enc != nil {
		return enc
	}
	return nil
}

// singleByte tells that every byte is a character in the charset, so that any
// bytes at all "fit" it. US-ASCII counts with them.
func singleByte(enc encoding.Encoding) bool {
	_, ok := enc.(*charmap.Charmap)
	return ok
}

var byteOrderMarks = []struct {
	mark string
	enc  encoding.Encoding
}{
	{"\xef\xbb\xbf", unicode.UTF8}, {"\xff\xfe", unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)}, {"\xfe\xff", unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)},
}

// decodeText reads the bytes of a text. Declared is the charset that its header
// names, "" for none; a page may name its own. In this order: a declared
// charset of several bytes a character that fits; UTF-8 with characters of
// several bytes, whatever was declared; the declared one, if it fits; else
// windows-1252. No run of bytes is lost in one replacement sign.
func decodeText(raw []byte, declared string, page bool) string {
	for _, b := range byteOrderMarks {
		if rest, ok := bytes.CutPrefix(raw, []byte(b.mark)); ok && (b.enc != unicode.UTF8 || utf8.Valid(rest)) {
			if text, ok := fitting(b.enc, rest); ok {
				return text
			}
		}
	}
	ascii := isASCII(raw)
	enc := charsetByName(declared)
	if enc == nil && page && !ascii {
		// Where the page names none these two are guessed; they are seen to below.
		if own, name, _ := htmlcharset.DetermineEncoding(raw, ""); name != "utf-8" && name != "windows-1252" {
			enc = own
		}
	}
	if enc != nil && !singleByte(enc) {
		if text, ok := fitting(enc, raw); ok {
			return text
		}
	}
	if ascii || utf8.Valid(raw) {
		return string(raw)
	}
	if enc != nil && !strings.EqualFold(declared, "us-ascii") {
		if text, ok := fitting(enc, raw); ok {
			return text
		}
	}
	return western(raw)
}

// DecodeText reads the bytes of a plain text, as those of a letter are read: declared is the charset that is said
// of it, "" for none.
func DecodeText(raw []byte, declared string) string { return decodeText(raw, declared, false) }

// fitting decodes bytes; false where some of them are none of the charset's.
func fitting(enc encoding.Encoding, raw []byte) (string, bool) {
	sign := []byte(string(utf8.RuneError))
	out, err := enc.NewDecoder().Bytes(raw)
	if err != nil || bytes.Count(out, sign) > bytes.Count(raw, sign) {
		return "", false
	}
	return string(out), true
}

// western reads bytes as windows-1252. Where most of them are UTF-8, as in a
// text that was cut within a character, only those that are not are read so.
func western(raw []byte) string {
	var mixed strings.Builder
	whole, broken := 0, 0
	for rest := raw; len(rest) > 0; {
		r, n := utf8.DecodeRune(rest)
		switch {
		case r == utf8.RuneError && n == 1:
			broken++
			mixed.WriteRune(charmap.Windows1252.DecodeByte(rest[0]))
		case n > 1:
			whole++
			fallthrough
		default:
			mixed.Write(rest[:n])
		}
		rest = rest[n:]
	}
	if whole > broken {
		return mixed.String()
	}
	out := make([]rune, len(raw))
	for i, b := range raw {
		out[i] = charmap.Windows1252.DecodeByte(b)
	}
	return string(out)
}

func isASCII(raw []byte) bool {
	for _, b := range raw {
		if b >= 0x80 || b == 0x1b { // an escape begins another charset (ISO-2022)
			return false
		}
	}
	return true
}
