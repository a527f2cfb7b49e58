package letter_test

import (
	"bytes"
	"encoding/base64"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	netmail "net/mail"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
)

// words are what people write of themselves and of what they write about.
var words = rapid.SampledFrom([]string{
	"Ines", "Åse", "O'Brien", `"Bram"`, "Lee, Ann", "(crates)", "北庭", "Ελένη", "😀", "x=y", "=?", "semi;colon", "<x@y.example>", "re:", strings.Repeat("long", 30),
})

func phraseOf(t *rapid.T, name string, least int) string {
	return strings.Join(rapid.SliceOfN(words, least, 8).Draw(t, name), " ")
}

func addressOf(t *rapid.T, name string) letter.Address {
	return letter.Address{Name: phraseOf(t, name+"'s name", 0), Email: rapid.StringMatching(`[a-z0-9][a-z0-9.+_-]{0,10}[a-z0-9]`).Filter(func(s string) bool { return !strings.Contains(s, "..") }).Draw(t, name) + "@x.example"}
}

func addressesOf(t *rapid.T, name string, least int) (out []letter.Address) {
	for range rapid.IntRange(least, 4).Draw(t, name) {
		out = append(out, addressOf(t, name))
	}
	return out
}

// lineOf are lines that have broken letters on their way.
var lineOf = rapid.SampledFrom([]string{
	"", "Hello,", ".", "..", "From here on", ">From here", "--", "-- ", "--x", "ends with a blank ", "\ttab", "=3D", "ø, ß, 北庭, 😀", strings.Repeat("no end ", 200), strings.Repeat("ø", 600), "Subject: not a header",
})

func outgoingOf(t *rapid.T) letter.Outgoing {
	o := letter.Outgoing{
		MessageID: "one@x.example", From: addressOf(t, "from"), To: addressesOf(t, "to", 1), Cc: addressesOf(t, "cc", 0), Bcc: []letter.Address{{Email: "secret@x.example"}},
		Subject: phraseOf(t, "subject", 0), Date: time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC), Text: strings.Join(rapid.SliceOfN(lineOf, 1, 12).Draw(t, "text"), "\n"),
	}
	if rapid.Bool().Draw(t, "answers") {
		o.InReplyTo, o.References = "two@x.example", []string{"three@x.example", "two@x.example"}
	}
	for range rapid.IntRange(0, 2).Draw(t, "parts") {
		o.Parts = append(o.Parts, letter.Part{
			Name:        rapid.SampledFrom([]string{"plan.pdf", "plan å.pdf", "two words.txt", `quo"te.txt`, "semi;colon.txt", "北庭.png", strings.Repeat("long", 40) + ".pdf"}).Draw(t, "file"),
			ContentType: "application/octet-stream", Content: rapid.SliceOfN(rapid.Byte(), 0, 300).Draw(t, "content"),
		})
	}
	return o
}

// plainText is a text as it is compared: line ends and blanks at the end of all of
// it are none of what was written.
func plainText(text string) string {
	return strings.TrimRight(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
}

// decoded is a body out of its transfer encoding (RFC 2045, 6).
func decoded(t require.TestingT, encoding string, r io.Reader) []byte {
	switch strings.ToLower(encoding) {
	case "quoted-printable":
		r = quotedprintable.NewReader(r)
	case "base64":
		r = base64.NewDecoder(base64.StdEncoding, r)
	}
	out, err := io.ReadAll(r)
	require.NoError(t, err)
	return out
}

// Whatever is written, another program reads it as it was meant: here the mail and
// MIME readers of Go's own library.
func TestOthersReadWhatWeWrite(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		o := outgoingOf(rt)
		raw, err := o.Bytes()
		require.NoError(rt, err)
		require.NotContains(rt, string(raw), "secret@x.example")
		for line := range bytes.Lines(raw) {
			require.True(rt, !bytes.HasSuffix(line, []byte("\n")) || bytes.HasSuffix(line, []byte("\r\n")), "%q ends otherwise", line)
			require.LessOrEqual(rt, len(line), 1000, "RFC 5322, 2.1.1")
			for _, b := range line {
				require.Less(rt, b, byte(0x80), "%q needs eight bits", line)
			}
		}
		m, err := netmail.ReadMessage(bytes.NewReader(raw))
		require.NoError(rt, err)
		var word mime.WordDecoder
		subject, err := word.DecodeHeader(m.Header.Get("Subject"))
		require.NoError(rt, err)
		require.Equal(rt, o.Subject, subject)
		for field, want := range map[string][]letter.Address{"From": {o.From}, "To": o.To, "Cc": o.Cc} {
			if len(want) == 0 {
				require.Empty(rt, m.Header.Get(field))
				continue
			}
			list, err := m.Header.AddressList(field)
			require.NoError(rt, err, m.Header.Get(field))
			require.Len(rt, list, len(want))
			for i, a := range list {
				require.Equal(rt, want[i], letter.Address{Name: a.Name, Email: a.Address})
			}
		}
		kind, params, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
		require.NoError(rt, err)
		if kind == "text/plain" {
			require.Equal(rt, plainText(o.Text), plainText(string(decoded(rt, m.Header.Get("Content-Transfer-Encoding"), m.Body))))
			require.Empty(rt, o.Parts)
			return
		}
		parts := multipart.NewReader(m.Body, params["boundary"])
		for i := -1; i < len(o.Parts); i++ {
			p, err := parts.NextRawPart()
			require.NoError(rt, err)
			body := decoded(rt, p.Header.Get("Content-Transfer-Encoding"), p)
			if i < 0 {
				require.Equal(rt, plainText(o.Text), plainText(string(body)))
				continue
			}
			require.Equal(rt, o.Parts[i].Content, body, "byte for byte")
			_, disposition, err := mime.ParseMediaType(p.Header.Get("Content-Disposition"))
			require.NoError(rt, err)
			name, err := word.DecodeHeader(disposition["filename"])
			require.NoError(rt, err)
			require.Equal(rt, o.Parts[i].Name, name)
		}
		_, err = parts.NextPart()
		require.ErrorIs(rt, err, io.EOF)
	})
}

// And what we read of it ourselves is the same.
func TestWeReadWhatWeWrite(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		o := outgoingOf(rt)
		raw, err := o.Bytes()
		require.NoError(rt, err)
		l := letter.Parse(raw)
		require.Equal(rt, []any{o.MessageID, o.From, o.Subject, o.References}, []any{l.MessageID, l.From, l.Subject, l.References})
		require.Equal(rt, o.To, l.To)
		require.Equal(rt, len(o.Cc), len(l.Cc))
		require.Equal(rt, plainText(o.Text), plainText(l.Text))
		require.Len(rt, l.Attachments(), len(o.Parts))
		for i, p := range l.Attachments() {
			require.Equal(rt, o.Parts[i].Name, p.Name)
			require.True(rt, bytes.Equal(o.Parts[i].Content, p.Content))
		}
	})
}

// One name that would break the grammar costs no other of the list, whoever reads
// it; and one that is quoted is read without its quotes.
func TestOneNameBreaksNoList(t *testing.T) {
	raw, err := letter.Outgoing{
		MessageID: "one@x.example", From: letter.Address{Email: "ines@x.example"}, Text: "Hello.",
		To: []letter.Address{{Name: `Åse a\b`, Email: "ase@x.example"}, {Name: `"Bram"`, Email: "bram@x.example"}},
	}.Bytes()
	require.NoError(t, err)
	m, err := netmail.ReadMessage(bytes.NewReader(raw))
	require.NoError(t, err)
	list, err := m.Header.AddressList("To")
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.Equal(t, []string{"Åse ab", `"Bram"`}, []string{list[0].Name, list[1].Name})

	loose := letter.Parse([]byte("To: nobody, \"\\\"Bram\\\" (the elder)\" <bram@x.example>, 'Ann' <ann@x.example>, c@x.example (Cato)\r\n\r\n"))
	require.Equal(t, []letter.Address{
		{Name: "nobody"}, {Name: `"Bram" (the elder)`, Email: "bram@x.example"}, {Name: "Ann", Email: "ann@x.example"}, {Name: "Cato", Email: "c@x.example"},
	}, loose.To)
}
