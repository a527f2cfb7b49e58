package letter_test

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	netmail "net/mail"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/jhillyerd/enmime/v2"
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
	if plainText(o.Text) != "" && rapid.Bool().Draw(t, "as a page") {
		o.HTML = "<p>" + strings.Join(rapid.SliceOfN(lineOf, 1, 6).Draw(t, "page"), "<br>\r\n") + "</p>"
		for i := range rapid.IntRange(0, 2).Draw(t, "pictures") {
			o.HTML += fmt.Sprintf(`<img src="cid:p%d@x.example">`, i)
			o.Inline = append(o.Inline, letter.Part{
				Name: "plan å.png", ContentType: "image/png", ContentID: fmt.Sprintf("p%d@x.example", i), Content: rapid.SliceOfN(rapid.Byte(), 1, 300).Draw(t, "picture"),
			})
		}
	}
	return o
}

// plainText is a text as it is compared: line ends at the end of all of it, blanks at the
// end of a line and the blank below a mark of quoting are none of what was written.
func plainText(text string) string {
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	for i, line := range lines {
		if line == "-- " {
			continue
		}
		rest := strings.TrimLeft(line, ">")
		if quoted := line[:len(line)-len(rest)]; quoted != "" {
			line = quoted + " " + strings.TrimPrefix(rest, " ")
		}
		lines[i] = strings.TrimRight(line, " ")
	}
	return strings.TrimRight(strings.Join(lines, "\n"), "\n")
}

// reflowed reads format=flowed as RFC 3676, 4.1, tells a reader to, line by line.
func reflowed(text string) string {
	var paragraphs []string
	was, open := 0, false
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		depth := 0
		for strings.HasPrefix(line, ">") {
			line, depth = line[1:], depth+1
		}
		line = strings.TrimPrefix(line, " ")
		if open && depth == was && line != "-- " {
			paragraphs[len(paragraphs)-1] += line
		} else {
			mark := strings.Repeat(">", depth)
			if depth > 0 && line != "" {
				mark += " "
			}
			paragraphs = append(paragraphs, mark+line)
		}
		was, open = depth, strings.HasSuffix(line, " ") && line != "-- "
	}
	return strings.Join(paragraphs, "\n")
}

// leaf is a part of a letter that has none inside it.
type leaf struct {
	within, kind, flowed, id, disposition, name string
	content                                     []byte
}

// leaves reads a letter with Go's own MIME reader.
func leaves(t require.TestingT, within string, field func(string) string, body io.Reader) (out []leaf) {
	kind, params, err := mime.ParseMediaType(field("Content-Type"))
	require.NoError(t, err)
	if strings.HasPrefix(kind, "multipart/") {
		parts := multipart.NewReader(body, params["boundary"])
		for {
			p, err := parts.NextRawPart()
			if errors.Is(err, io.EOF) {
				return out
			}
			require.NoError(t, err)
			out = append(out, leaves(t, within+strings.TrimPrefix(kind, "multipart/")+"/", p.Header.Get, p)...)
		}
	}
	disposition, about, _ := mime.ParseMediaType(field("Content-Disposition"))
	var word mime.WordDecoder
	name, err := word.DecodeHeader(about["filename"])
	require.NoError(t, err)
	return []leaf{{within, kind, params["format"], field("Content-Id"), disposition, name, decoded(t, field("Content-Transfer-Encoding"), body)}}
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
		read := leaves(rt, "", m.Header.Get, m.Body)
		require.Len(rt, read, 1+len(o.Inline)+len(o.Parts)+map[bool]int{true: 1}[o.HTML != ""])
		require.Equal(rt, []string{"text/plain", "flowed"}, []string{read[0].kind, read[0].flowed})
		require.Equal(rt, plainText(o.Text), plainText(reflowed(string(read[0].content))))
		for line := range strings.SplitSeq(string(read[0].content), "\r\n") {
			words := strings.Fields(line)
			require.True(rt, utf8.RuneCountInString(line) <= 80 || len(words) == 1 || utf8.RuneCountInString(line) <= 80+utf8.RuneCountInString(words[0]), "%q is too long", line)
		}
		files := read[1:]
		if o.HTML != "" {
			require.Equal(rt, "text/html", read[1].kind)
			require.Equal(rt, strings.TrimRight(o.HTML, "\r\n"), strings.TrimRight(string(read[1].content), "\r\n"))
			files = read[2:]
			for i, p := range o.Inline {
				require.True(rt, strings.HasSuffix(files[i].within, "alternative/related/"), files[i].within)
				require.Equal(rt, []string{"<" + p.ContentID + ">", "inline", p.Name}, []string{files[i].id, files[i].disposition, files[i].name})
				require.Equal(rt, p.Content, files[i].content)
			}
			files = files[len(o.Inline):]
		}
		for i, p := range o.Parts {
			require.Equal(rt, []string{"mixed/", "attachment", p.Name}, []string{files[i].within, files[i].disposition, files[i].name})
			require.Equal(rt, p.Content, files[i].content, "byte for byte")
		}

		e, err := enmime.ReadEnvelope(bytes.NewReader(raw)) // and a second reader
		require.NoError(rt, err)
		if plainText(o.Text) != "" { // else it makes a text of the page
			require.Equal(rt, plainText(o.Text), plainText(reflowed(e.Text)))
		}
		require.Equal(rt, []int{len(o.Inline), len(o.Parts)}, []int{len(e.Inlines), len(e.Attachments)})
		for i, p := range o.Parts {
			require.Equal(rt, p.Name, e.Attachments[i].FileName)
			require.True(rt, bytes.Equal(p.Content, e.Attachments[i].Content))
		}
	})
}

// A letter that goes along is not encoded, unless it can't go as it is: then it goes as a
// file.
func TestALetterThatGoesAlong(t *testing.T) {
	for name, c := range map[string]struct{ raw, kind, encoding string }{
		"plain":           {"From: a@x.example\r\n\r\nHello.\r\n", "message/rfc822", "7bit"},
		"eight bits":      {"From: a@x.example\r\n\r\nÅse.\r\n", "message/rfc822", "8bit"},
		"an endless line": {"From: a@x.example\r\n\r\n" + strings.Repeat("x", 2000) + "\r\n", "application/octet-stream", "base64"},
		"zeros":           {"From: a@x.example\r\n\r\n\x00\r\n", "application/octet-stream", "base64"},
	} {
		raw, err := letter.Outgoing{
			MessageID: "one@x.example", From: letter.Address{Email: "ines@x.example"}, To: []letter.Address{{Email: "bram@x.example"}}, Text: "See below.",
			Parts: []letter.Part{{Name: "theirs.eml", ContentType: "message/rfc822", Content: []byte(c.raw)}},
		}.Bytes()
		require.NoError(t, err)
		m, err := netmail.ReadMessage(bytes.NewReader(raw))
		require.NoError(t, err)
		along := leaves(t, "", m.Header.Get, m.Body)[1]
		require.Equal(t, c.kind, along.kind, name)
		require.Contains(t, string(raw), "Content-Transfer-Encoding: "+c.encoding, name)
		require.Equal(t, c.raw, string(along.content), name)
	}
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
		require.Equal(rt, len(o.Inline)+len(o.Parts), len(l.Parts))
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
