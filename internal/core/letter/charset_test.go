package letter

import (
	"encoding/base64"
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"
)

// quoted writes quoted-printable, every byte above ASCII as a code.
func quoted(b string) string {
	var out strings.Builder
	for i := range len(b) {
		if c := b[i]; c >= 0x80 || c == '=' || c == 0x1b {
			fmt.Fprintf(&out, "=%02X", c)
		} else {
			out.WriteByte(c)
		}
	}
	return out.String()
}

// A text is read right whatever is declared, in all transfer encodings alike.
func TestTextsAreReadWhateverIsDeclared(t *testing.T) {
	const german, japan, china = "Grüße aus Übersee – „gut“, 5 €", "これは日本語の手紙です。", "你好，温室的门坏了。"
	encoded := func(enc interface{ String(string) (string, error) }, s string) string {
		out, err := enc.String(s)
		require.NoError(t, err)
		return out
	}
	latin, err := charmap.ISO8859_1.NewEncoder().String("Grüße aus Übersee, gut")
	require.NoError(t, err)
	win := encoded(charmap.Windows1252.NewEncoder(), german)
	cases := []struct{ name, charset, bytes, want string }{
		{"declared UTF-8", "utf-8", german, german},
		{"undeclared UTF-8", "", german, german},
		{"UTF-8 declared as ASCII", "us-ascii", german, german},
		{"UTF-8 declared as Latin-1", "iso-8859-1", german, german},
		{"UTF-8 declared as windows-1252", "windows-1252", german, german},
		{"UTF-8 declared as nothing known", "x-unknown", german, german},
		{"Latin-1", "iso-8859-1", latin, "Grüße aus Übersee, gut"},
		{"undeclared Latin-1", "", latin, "Grüße aus Übersee, gut"},
		{"Latin-1 declared as UTF-8", "utf-8", latin, "Grüße aus Übersee, gut"},
		{"Latin-1 declared as ASCII", "us-ascii", latin, "Grüße aus Übersee, gut"},
		{"windows-1252 declared as Latin-1", "iso-8859-1", win, german},
		{"windows-1252 declared as UTF-8", "utf-8", win, german},
		{"Latin-2 keeps its own letters", "iso-8859-2", encoded(charmap.ISO8859_2.NewEncoder(), "Žluťoučký kůň"), "Žluťoučký kůň"},
		{"Cyrillic", "koi8-r", encoded(charmap.KOI8R.NewEncoder(), "Привет из теплицы"), "Привет из теплицы"},
		{"an old code page", "cp850", encoded(charmap.CodePage850.NewEncoder(), "Grüße"), "Grüße"},
		{"ISO-2022-JP", "iso-2022-jp", encoded(japanese.ISO2022JP.NewEncoder(), japan), japan},
		{"Shift_JIS", "shift_jis", encoded(japanese.ShiftJIS.NewEncoder(), japan), japan},
		{"EUC-JP", "euc-jp", encoded(japanese.EUCJP.NewEncoder(), japan), japan},
		{"UTF-8 declared as Shift_JIS", "shift_jis", german + " ÿþ", german + " ÿþ"},
		{"GB18030", "gb18030", encoded(simplifiedchinese.GB18030.NewEncoder(), china), china},
		{"HZ", "hz-gb-2312", encoded(simplifiedchinese.HZGB2312.NewEncoder(), china) + "~}", china},
		{"UTF-7", "utf-7", "Gr+APwA3w-e +- 1", "Grüße + 1"},
		{"UTF-16 with a mark", "utf-16", encoded(unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder(), german), german},
		{"a charset in quotes", `"'utf-8'"`, german, german},
	}
	for _, c := range cases {
		for _, transfer := range []string{"8bit", "quoted-printable", "base64"} {
			body := c.bytes
			switch transfer {
			case "quoted-printable":
				body = quoted(body)
			case "base64":
				body = base64.StdEncoding.EncodeToString([]byte(body))
			}
			if transfer != "base64" && strings.Contains(c.name, "UTF-16") {
				continue // its line ends are none of a letter's
			}
			kind := "Content-Type: text/plain"
			if c.charset != "" {
				kind += "; charset=" + c.charset
			}
			l := Parse([]byte("From: a@b.example\n" + kind + "\nContent-Transfer-Encoding: " + transfer + "\n\n" + body + "\n"))
			assert.Equal(t, c.want, strings.TrimSpace(l.Text), "%s, %s", c.name, transfer)
		}
	}
}

func TestAPageMayNameItsCharset(t *testing.T) {
	for _, head := range []string{`<meta charset="koi8-r">`, `<meta http-equiv="Content-Type" content="text/html; charset=koi8-r">`} {
		page, err := charmap.KOI8R.NewEncoder().String("<html><head>" + head + "</head><body><p>Привет</p></body></html>")
		require.NoError(t, err)
		l := Parse([]byte("From: a@b.example\nContent-Type: text/html\nContent-Transfer-Encoding: 8bit\n\n" + page))
		assert.Contains(t, l.HTML, "Привет")
		assert.Equal(t, "Привет", strings.TrimSpace(l.Text))
	}
}

// One bad byte costs itself, not the text around it.
func TestNoRunOfBytesIsLost(t *testing.T) {
	assert.Equal(t, "Grüße ÿ und weiter: äöü", decodeText([]byte("Grüße \xff und weiter: äöü"), "utf-8", false))
	rapid.Check(t, func(t *rapid.T) {
		raw := rapid.SliceOf(rapid.Byte()).Draw(t, "bytes")
		declared := rapid.SampledFrom([]string{"", "utf-8", "us-ascii", "iso-8859-1", "windows-1252", "x-none"}).Draw(t, "charset")
		text := decodeText(raw, declared, false)
		assert.True(t, utf8.ValidString(text))
		if !utf8.Valid(raw) {
			high := 0
			for _, b := range raw {
				if b >= 0x80 {
					high++
				}
			}
			assert.LessOrEqual(t, high, 4*strings.Count(text, "\ufffd")+4*(utf8.RuneCountInString(text)), "every byte is somewhere")
		}
	})
}

// A text is read although it has a name, is marked inline, or is of a type
// that only is text; an invalid type is text/plain.
func TestTextIsText(t *testing.T) {
	for name, header := range map[string]string{
		"a name":          "Content-Type: text/plain; name=letter.txt",
		"inline":          "Content-Type: text/plain\nContent-Disposition: inline",
		"inline and name": "Content-Type: text/plain\nContent-Disposition: inline; filename=a.txt",
		"markdown":        "Content-Type: text/markdown",
		"a patch":         "Content-Type: text/x-patch; name=a.patch\nContent-Disposition: inline",
		"no subtype":      "Content-Type: text",
		"nonsense":        "Content-Type: what ever",
		"none":            "X-Nothing: here",
		"empty":           "Content-Type:",
	} {
		assert.Equal(t, "the text", strings.TrimSpace(Parse([]byte("From: a@b.example\n"+header+"\n\nthe text\n")).Text), name)
		l := Parse([]byte(multipart("mixed", header+"\n\nthe text")))
		assert.Equal(t, "the text", strings.TrimSpace(l.Text), "%s, within another", name)
	}
	l := Parse([]byte(multipart("mixed", "Content-Type: text/plain\n\nread this", "Content-Type: text/markdown; name=notes.md\n\n# Notes")))
	assert.Equal(t, "read this", strings.TrimSpace(l.Text), "beside another text it is attached")
	assert.Equal(t, []string{"notes.md"}, names(l))
}

// What is attached is saved byte for byte, whatever it quotes or holds.
func TestAttachmentsAreByteForByte(t *testing.T) {
	for name, content := range map[string]string{
		"words of a header":    "Read on:\nContent-Transfer-Encoding: base64\n\nplain, it is not.\n",
		"another charset":      "Gr\xfc\xdfe\r\nzwei\r\n",
		"a letter that quotes": "From: a@b.example\nSubject: x\n\nContent-Transfer-Encoding: base64\n\nno, it isn't\n",
	} {
		for _, kind := range []string{"text/plain; charset=iso-8859-1; name=a.txt", "message/rfc822", "application/octet-stream; name=a.bin"} {
			l := Parse([]byte(multipart("mixed", "Content-Type: text/plain\n\nsee below", "Content-Type: "+kind+"\nContent-Disposition: attachment\n\n"+content)))
			require.Len(t, l.Parts, 1, "%s %s", name, kind)
			assert.Equal(t, strings.TrimSuffix(content, "\n"), strings.TrimSuffix(string(l.Parts[0].Content), "\n"), "%s %s", name, kind)
		}
	}
	all := make([]byte, 256*3)
	for i := range all {
		all[i] = byte(i)
	}
	l := Parse([]byte(multipart("mixed", "Content-Type: application/octet-stream; name=a.bin\nContent-Transfer-Encoding: base64\n\n"+base64.StdEncoding.EncodeToString(all))))
	require.Len(t, l.Parts, 1)
	assert.Equal(t, all, l.Parts[0].Content)
	binary := strings.ReplaceAll(string(all), "\n", "")
	l = Parse([]byte(multipart("mixed", "Content-Type: application/octet-stream; name=a.bin\nContent-Transfer-Encoding: binary\n\n"+binary)))
	require.Len(t, l.Parts, 1)
	assert.Equal(t, binary, string(l.Parts[0].Content), "a NUL is a byte like others")
}

func TestABodyThatQuotesAHeaderIsNotAltered(t *testing.T) {
	const said = "You wrote:\nContent-Transfer-Encoding: base64\n\nand then, nothing."
	assert.Equal(t, said, strings.TrimSpace(Parse([]byte("From: a@b.example\nSubject: x\n\n"+said+"\n")).Text))
}

func TestUuencodedParts(t *testing.T) {
	const packed = "begin 644 cat.txt\n#0V%T\n`\nend"
	l := Parse([]byte(multipart("mixed", "Content-Type: application/octet-stream; name=cat.txt\nContent-Transfer-Encoding: x-uuencode\n\n"+packed)))
	require.Len(t, l.Parts, 1)
	assert.Equal(t, "Cat", string(l.Parts[0].Content))
}

func TestQuotedPrintableOfTheWorld(t *testing.T) {
	for in, want := range map[string]string{
		"a=3D1": "a=1", "a=3d1": "a=1", "100% = sure": "100% = sure", "soft=\nline": "softline", "soft=  \r\nline": "softline", "=ZZ": "=ZZ", "end=": "end", "caf=C3=A9": "café",
	} {
		assert.Equal(t, want, string(fromQuotedPrintable([]byte(in))), in)
	}
}

func TestDatesMeanTheSameEverywhere(t *testing.T) {
	local := time.Local
	t.Cleanup(func() { time.Local = local })
	cases := map[string]string{
		"Tue, 3 Feb 2026 08:00:00 EDT":             "2026-02-03T12:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 EST":             "2026-02-03T13:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 PDT":             "2026-02-03T15:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 CST":             "2026-02-03T14:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 GMT":             "2026-02-03T08:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 Z":               "2026-02-03T08:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 A":               "2026-02-03T08:00:00Z", // military zones were defined wrongly
		"Tue, 3 Feb 2026 08:00:00 XYZ":             "2026-02-03T08:00:00Z",
		"Tue,3 Feb 2026 08:00:00 +0100":            "2026-02-03T07:00:00Z",
		"3 Feb 2026 08:00 +0100":                   "2026-02-03T07:00:00Z",
		"Tue, 3 Feb 2026 08:00:60 +0000":           "2026-02-03T08:01:00Z",
		"Tue, 3 Feb 2026 08:00:00 (winter) +0100":  "2026-02-03T07:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 +0100 (CET (x))": "2026-02-03T07:00:00Z",
		"Tuesday, 3 February 2026 08:00:00 +0100":  "2026-02-03T07:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 +01:00":          "2026-02-03T07:00:00Z",
		"Tue, 03 Feb 26 08:00:00 -0000":            "2026-02-03T08:00:00Z",
		"3 Feb 99 08:00:00 GMT":                    "1999-02-03T08:00:00Z",
		"Tue Feb  3 08:00:00 2026":                 "2026-02-03T08:00:00Z",
		"Tue Feb  3 08:00:00 EST 2026":             "2026-02-03T13:00:00Z",
		"Tue Feb 3 08:00:00 2026 +0200":            "2026-02-03T06:00:00Z",
		"2026-02-03T08:00:00+01:00":                "2026-02-03T07:00:00Z",
		"2026-02-03 08:00:00.123 -0500":            "2026-02-03T13:00:00Z",
		"Tue, 3 Feb 2026 08:00:00 GMT+2":           "2026-02-03T06:00:00Z",
		"Feb 3, 2026 8:00:00 PM":                   "2026-02-03T20:00:00Z",
		"Tue, 31 Feb 2026 08:00:00 +0100":          "",
		"yesterday":                                "",
		"":                                         "",
	}
	for _, zone := range []string{"UTC", "America/New_York", "Asia/Kolkata"} {
		var err error
		time.Local, err = time.LoadLocation(zone)
		require.NoError(t, err)
		for in, want := range cases {
			got := parseDate(in)
			if want == "" {
				assert.True(t, got.IsZero(), "%s in %s: %s", in, zone, got)
				continue
			}
			assert.Equal(t, want, got.Format(time.RFC3339), "%s in %s", in, zone)
		}
	}
}

func TestSendersThatAreNoAddresses(t *testing.T) {
	for field, want := range map[string]Address{
		"MAILER-DAEMON":   {Name: "MAILER-DAEMON"},
		"<MAILER-DAEMON>": {Name: "MAILER-DAEMON"},
		"Mail Delivery Subsystem <MAILER-DAEMON>":     {Name: "Mail Delivery Subsystem <MAILER-DAEMON"},
		"bram at freight.example (Bram Oosterhuis)":   {Name: "bram at freight.example (Bram Oosterhuis)"},
		"bram@freight.example (Bram Oosterhuis)":      {Name: "Bram Oosterhuis", Email: "bram@freight.example"},
		"a@x.example; b@x.example":                    {Email: "a@x.example"},
		`"Oosterhuis; Bram" <bram@freight.example>`:   {Name: "Oosterhuis; Bram", Email: "bram@freight.example"},
		"Bram, of the freight <bram@freight.example>": {Name: "Bram"},
	} {
		l := Parse([]byte("From: " + field + "\nSubject: s\n\ntext\n"))
		assert.Equal(t, want, l.From, field)
		assert.NotEmpty(t, l.From.Display(), field)
	}
	l := Parse([]byte("\ufeffFrom: a@x.example\nTo: b@x.example; c@x.example;d@x.example\nSubject: s\n\ntext\n"))
	assert.Equal(t, "a@x.example", l.From.Email)
	assert.Len(t, l.To, 3)
	l = Parse([]byte("From: a@x.example\nTo: undisclosed-recipients:;\nSubject: s\n\ntext\n"))
	assert.Empty(t, l.To)
}

// What is long costs as much as its length: none of these takes a blink.
func TestLongHeadersAreReadInOnePass(t *testing.T) {
	people := strings.Repeat("\"Somebody, Or Other\" <somebody@x.example>,\r\n ", 50_000)
	for name, field := range map[string]string{
		"folds":      "Subject: s" + strings.Repeat("\r\n x", 1_000_000),
		"people":     "Cc: " + people + "last@x.example",
		"blanks":     "Subject: s" + strings.Repeat(" ", 5<<20),
		"references": "References: " + strings.Repeat("<0123456789@x.example>\r\n ", 40_000),
		"words":      "Subject: " + strings.Repeat("=?utf-8?q?x?=\r\n ", 100_000),
		"comments":   "Date: " + strings.Repeat("(", 1<<20),
		"quotes":     "From: " + strings.Repeat(`"`, 1<<20) + " <a@x.example>",
		"commas":     "To: " + strings.Repeat(",", 1<<20),
		"colons":     strings.Repeat("X:\r\n", 500_000) + "X:",
	} {
		began := time.Now()
		l := Parse([]byte("From: a@x.example\r\n" + field + "\r\nMessage-ID: <x@x.example>\r\n\r\ntext\r\n"))
		t.Logf("%s: %s", name, time.Since(began))
		assert.Equal(t, "x@x.example", l.MessageID, name)
		assert.LessOrEqual(t, len(l.References), maxIDs)
	}
}
