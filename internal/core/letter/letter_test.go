package letter

import (
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func crlf(s string) []byte { return []byte(strings.ReplaceAll(s, "\n", "\r\n")) }

const plain = `Received: from a.example by b.example; Tue, 24 Nov 2026 08:12:00 +0100
From: "Oosterhuis, Bram" <Bram@freight.example>
To: Ines <ines@norrholm.example>, walks@norrholm.example
Cc: lise@norrholm.example
Subject: =?utf-8?q?Crate_sizes_=C3=A5?=
Date: Tue, 24 Nov 2026 08:11:00 +0100
Message-ID: <one@freight.example>
In-Reply-To: <zero@norrholm.example>
References: <minus@x.example>
 <zero@norrholm.example>

Dear Ines,

Can you confirm?
`

func TestParseReadsFields(t *testing.T) {
	l := Parse(crlf(plain))
	assert.Equal(t, "one@freight.example", l.MessageID)
	assert.Equal(t, []string{"zero@norrholm.example"}, l.InReplyTo)
	assert.Equal(t, []string{"minus@x.example", "zero@norrholm.example"}, l.References)
	assert.Equal(t, Address{"Oosterhuis, Bram", "Bram@freight.example"}, l.From)
	assert.Equal(t, "Crate sizes å", l.Subject)
	assert.Len(t, l.Recipients(), 3)
	assert.Equal(t, "2026-11-24T07:11:00Z", l.Date.Format(time.RFC3339))
	assert.Equal(t, "2026-11-24T07:12:00Z", l.Received.Format(time.RFC3339))
	assert.Contains(t, l.Text, "Can you confirm?")
	assert.Empty(t, l.Damage)
	assert.False(t, l.Automatic.Is())
}

func TestParseKeepsWhatItCanOfBadLetters(t *testing.T) {
	cases := map[string]struct {
		raw     string
		damaged bool
		text    string
	}{
		"nothing at all":       {"", true, ""},
		"no header":            {"just some text\nand more", true, ""},
		"a NUL in the body":    {"From: a@b.example\n\nbefore\x00after\n", false, "beforeafter"},
		"an unknown charset":   {"From: a@b.example\nContent-Type: text/plain; charset=klingon\n\nhello\n", false, "hello"},
		"a cut-off multipart":  {"From: a@b.example\nContent-Type: multipart/mixed; boundary=x\n\n--x\nContent-Type: text/plain\n\nfirst\n", false, "first"},
		"an impossible date":   {"From: a@b.example\nDate: Tue, 99 Foo 2026\n\nx\n", false, "x"},
		"a bad encoded word":   {"From: a@b.example\nSubject: =?nope?x?zz?=\n\nx\n", false, "x"},
		"a line without colon": {"From: a@b.example\nthis is no field\nSubject: s\n\nx\n", false, "x"},
		"8-bit in the header":  {"From: a@b.example\nSubject: caf\xe9\n\nx\n", false, "x"},
		"broken base64":        {"From: a@b.example\nContent-Transfer-Encoding: base64\n\n!!!!\n", false, ""},
	}
	for name, c := range cases {
		for _, raw := range [][]byte{[]byte(c.raw), crlf(c.raw)} {
			l := Parse(raw)
			assert.Equal(t, c.damaged, strings.Contains(l.Damage, "no letter header"), "%s: %q", name, l.Damage)
			assert.Contains(t, l.Text, c.text, name)
			assert.NotEmpty(t, l.Identity(), name)
		}
	}
}

func TestParseRefusesToBeExhausted(t *testing.T) {
	nested := "From: a@b.example\nContent-Type: multipart/mixed; boundary=b0\n\n"
	for i := range 10_000 {
		nested += "--b" + itoa(i) + "\nContent-Type: multipart/mixed; boundary=b" + itoa(i+1) + "\n\n"
	}
	assert.Contains(t, Parse([]byte(nested)).Damage, "nested too deeply")

	many := "From: a@b.example\nContent-Type: multipart/mixed; boundary=b\n\n" + strings.Repeat("--b\n\nx\n", 2000)
	assert.Contains(t, Parse([]byte(many)).Damage, "too many parts")

	long := "From: a@b.example\nX: " + strings.Repeat("y", 300<<10) + "\n\nbody"
	l := Parse([]byte(long))
	assert.Contains(t, l.Damage, "header is too long")
	assert.Equal(t, "body", l.Text)
}

func itoa(i int) string {
	return string(rune('a'+i%26)) + strings.Repeat("z", i/26%30) + string(rune('A'+i/780))
}

func TestIdentityIgnoresTransport(t *testing.T) {
	first := Parse(crlf(plain)).Identity()
	assert.Equal(t, first, Parse([]byte(plain)).Identity(), "line ends")
	assert.Equal(t, first, Parse([]byte("X-Spam: no\nReceived: elsewhere\n"+plain)).Identity(), "transport fields")
	assert.Equal(t, first, Parse([]byte(plain+"\n\n")).Identity(), "trailing lines")
	assert.NotEqual(t, first, Parse([]byte(strings.Replace(plain, "confirm", "deny", 1))).Identity(), "another body")
	without := strings.Replace(plain, "Message-ID: <one@freight.example>\n", "", 1)
	assert.Equal(t, Parse([]byte(without)).Identity(), Parse(crlf(without)).Identity())
	assert.NotEqual(t, Parse([]byte(without)).Identity(), Parse([]byte(strings.Replace(without, "Crate", "Box", 1))).Identity(), "without a Message-ID the subject counts")
	assert.NotEqual(t, Parse([]byte("X: 1\n\n")).Identity(), Parse([]byte("X: 2\n\n")).Identity(), "without a letter's header all bytes count")
}

func TestReceivedAt(t *testing.T) {
	now := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	file := now.Add(-time.Hour)
	assert.Equal(t, file, Letter{}.ReceivedAt(file, now))
	assert.Equal(t, now, Letter{}.ReceivedAt(time.Time{}, now))
	assert.Equal(t, now, Letter{Date: now.Add(time.Hour)}.ReceivedAt(file, now), "never later than now")
	assert.Equal(t, file, Letter{Date: now, Received: file}.ReceivedAt(now, now))
}

func TestClassify(t *testing.T) {
	cases := map[string]Automatic{
		"Subject: hi":        Personal,
		"Auto-Submitted: no": Personal,
		"Auto-Submitted: auto-replied; owner-email=\"a@b.example\"": AutoReply,
		"Auto-Submitted: auto-generated":                            Generated,
		"Return-Path: <>":                                           Report,
		"Return-Path: <a@b.example>":                                Personal,
		"Content-Type: multipart/report; boundary=x":                Report,
		"List-Id: <l.b.example>":                                    List,
		"List-Unsubscribe: <mailto:x@b.example>":                    List,
		"Precedence: bulk":                                          Bulk,
		"Precedence: first-class":                                   Personal,
		"Content-Type: text/calendar; method=REPLY":                 MeetingReply,
		"Content-Type: text/calendar; method=REQUEST":               Personal,
	}
	for field, want := range cases {
		l := Parse([]byte("From: a@b.example\n" + field + "\n\nBEGIN:VCALENDAR\n"))
		assert.Equal(t, want, l.Automatic, field)
	}
}

func TestSubjects(t *testing.T) {
	for subject, bare := range map[string]string{
		"Re: Crates": "crates", "RE: re: AW: Crates": "crates", "Fwd: [loans] Re: Crates  ": "crates", "SV: Kasser": "kasser",
		"Re[2]: x": "x", "Regarding crates": "regarding crates", "": "", "Re:": "re:", "I: think so": "think so",
	} {
		assert.Equal(t, bare, BareSubject(subject), subject)
	}
	assert.Equal(t, "Re: Crates", WithPrefix("Re: ", "Sv: Crates"))
	assert.Equal(t, "Re: Crates", WithPrefix("Re: ", "Re: Crates"))
	assert.Equal(t, "Fwd: Re: Crates", WithPrefix("Fwd: ", "Re: Crates"))
	assert.Equal(t, "Fwd:", WithPrefix("Fwd: ", ""))
}

func TestFoldsJoinToTheText(t *testing.T) {
	text := "Yes.\n\nOn Tue 24 Nov 2026, 08:11 Bram wrote:\n> Can you?\n>> Earlier\n\nRegards\n\n-- \nInes"
	folds := Folds(text)
	var parts []string
	for _, f := range folds {
		parts = append(parts, f.Text)
	}
	assert.Equal(t, text, strings.Join(parts, "\n"))
	require.Len(t, folds, 3)
	assert.True(t, folds[1].Quoted)
	assert.Equal(t, "Yes.\n\nRegards", Unquoted(text))
	marked := "Thanks\n\n-----Original Message-----\nFrom: Bram\nSent: Tuesday\n\nOld text"
	assert.Equal(t, "Thanks", Unquoted(marked))
}

func TestAnswerGoesToTheRightPeople(t *testing.T) {
	own := []string{"ines@norrholm.example", "walks@norrholm.example"}
	l := Parse([]byte(plain))
	one := Answer(l, own, false)
	assert.Equal(t, "ines@norrholm.example", one.From)
	assert.Equal(t, []Address{l.From}, one.To)
	assert.Empty(t, one.Cc)
	all := Answer(l, own, true)
	assert.Equal(t, []Address{{"", "lise@norrholm.example"}}, all.Cc, "own addresses are left out")

	l.ReplyTo = []Address{{"", "desk@freight.example"}}
	assert.Equal(t, l.ReplyTo, Answer(l, own, true).To)

	viaCc := Letter{From: Address{"", "a@b.example"}, To: []Address{{"", "c@d.example"}}, Cc: []Address{{"", "Walks@norrholm.example"}}}
	assert.Equal(t, "walks@norrholm.example", Answer(viaCc, own, false).From, "from the address that received it")

	mine := Letter{From: Address{"", "walks@norrholm.example"}, To: []Address{{"", "vera@c.example"}}}
	again := Answer(mine, own, false)
	assert.Equal(t, "walks@norrholm.example", again.From)
	assert.Equal(t, mine.To, again.To, "an answer to my own letter goes to whom it went")

	nobody := Letter{From: Address{"", "a@b.example"}, ReplyTo: []Address{{"A list", ""}}, Cc: []Address{{"Somebody", ""}, {"", "c@d.example"}}}
	assert.Equal(t, []Address{{"", "a@b.example"}}, Answer(nobody, own, true).To, "a Reply-To without an address says nothing")
	assert.Equal(t, nobody.Cc[1:], Answer(nobody, own, true).Cc)
	assert.Empty(t, Answer(Letter{From: Address{"Somebody", ""}}, own, true).To, "whoever has no address gets no answer")
}

func TestComposeIsSafeAgainstInjection(t *testing.T) {
	o := Outgoing{
		MessageID: "x@y.example", From: Address{"Ines\r\nBcc: evil@x.example", "ines@norrholm.example"}, To: []Address{{"A\nB", "a@b.example"}},
		Subject: "Hello\r\nBcc: evil@x.example\r\n\r\nbody", Date: time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC), Text: "Grüße\n.\nend",
		Bcc: []Address{{"", "secret@x.example"}},
	}
	raw, err := o.Bytes()
	require.NoError(t, err)
	head, _, _ := strings.Cut(string(raw), "\r\n\r\n")
	assert.NotContains(t, head, "\nBcc")
	assert.NotContains(t, string(raw), "secret@x.example")
	l := Parse(raw)
	assert.Equal(t, "Grüße\n.\nend", strings.TrimSpace(l.Text))
	assert.Equal(t, "x@y.example", l.MessageID)
	assert.Equal(t, "a@b.example", l.To[0].Email)

	_, err = Outgoing{}.Bytes()
	assert.ErrorIs(t, err, ErrNoRecipient)
	for _, bad := range []string{"", "nobody", "a@b.example\r\nx: y", "a b@c.example", "@b.example"} {
		_, err := CheckAddress(bad)
		assert.Error(t, err, bad)
	}
}

func TestComposeCarriesAttachments(t *testing.T) {
	raw, err := Outgoing{
		MessageID: "x@y.example", From: Address{"", "a@b.example"}, To: []Address{{"", "c@d.example"}}, Subject: "s", Text: "see",
		Parts: []Part{{Name: "plan å.pdf", ContentType: "application/pdf", Content: []byte("%PDF")}},
	}.Bytes()
	require.NoError(t, err)
	parts := Parse(raw).Attachments()
	require.Len(t, parts, 1)
	assert.Equal(t, "plan å.pdf", parts[0].Name)
	assert.Equal(t, []byte("%PDF"), parts[0].Content)
}

func TestCleanPlacesImages(t *testing.T) {
	source := `<p>a<img src="cid:leaf@x"><img src="https://t.example/p.gif"><img src="data:image/png;base64,iVBORw0KGgo="></p>`
	part := func(id string) string { return "/part/" + id }
	shown := Clean(source, false, part)
	assert.Equal(t, 1, shown.Blocked)
	assert.Contains(t, shown.HTML, `/part/leaf@x`)
	assert.NotContains(t, shown.HTML, "t.example")
	shown = Clean(source, true, part)
	assert.Zero(t, shown.Blocked)
	assert.Contains(t, shown.HTML, "https://t.example/p.gif")
}

func TestCleanFoldsLongQuotations(t *testing.T) {
	long := "<p>" + strings.Repeat("old words ", 40) + "</p>"
	shown := Clean("<p>new</p><div><blockquote>"+long+"<blockquote>"+long+"</blockquote></blockquote></div><blockquote>brief</blockquote>", false, nil).HTML
	assert.Equal(t, 1, strings.Count(shown, "<details>"), "only the outermost, only the long")
	assert.Equal(t, 3, strings.Count(shown, "<blockquote>"))
}

func FuzzParse(f *testing.F) {
	f.Add(crlf(plain))
	f.Fuzz(func(_ *testing.T, raw []byte) {
		l := Parse(raw)
		_ = l.Identity()
		_ = Folds(l.Text)
		_ = Clean(l.HTML, false, func(string) string { return "" })
	})
}

// Letters that nobody here wrote: the test folders of our dependencies, read
// in place. None may fail, and nearly all must be sound.
func TestLettersOfOthers(t *testing.T) {
	files := foreignLetters(t)
	damaged := 0
	for _, path := range files {
		raw, err := os.ReadFile(path)
		require.NoError(t, err)
		if l := Parse(raw); l.Damage != "" {
			damaged++
			t.Logf("%s: %s", filepath.Base(path), l.Damage)
		}
	}
	t.Logf("%d letters, %d damaged", len(files), damaged)
	if len(files) > 0 {
		assert.Less(t, damaged*2, len(files))
	}
}

// foreignLetters finds raw letters in the module cache.
func foreignLetters(t *testing.T) []string {
	t.Helper()
	home, err := os.UserHomeDir()
	require.NoError(t, err)
	if runtime.GOOS == "windows" {
		t.Skip("the module cache lies elsewhere")
	}
	var files []string
	for _, pattern := range []string{"mail/*.raw", "low-quality/*.raw", "parts/*.raw"} {
		found, err := filepath.Glob(filepath.Join(home, "go/pkg/mod/github.com/jhillyerd/enmime/v2@*/testdata", pattern))
		require.NoError(t, err)
		files = append(files, found...)
	}
	return files
}

func TestCharsets(t *testing.T) {
	for name, c := range map[string]struct{ charset, body string }{
		"declared latin":       {"iso-8859-1", "Gr\xfc\xdfe aus K\xf8benhavn"},
		"declared utf-8":       {"utf-8", "Grüße aus København"},
		"wrongly declared":     {"utf-8", "Gr\xfc\xdfe aus K\xf8benhavn, das ist ein deutscher Satz mit Umlauten wie \xe4 und \xf6"},
		"wrongly declared too": {"us-ascii", "Gr\xfc\xdfe aus K\xf8benhavn, das ist ein deutscher Satz mit Umlauten wie \xe4 und \xf6"},
	} {
		l := Parse([]byte("From: a@b.example\nContent-Type: text/plain; charset=" + c.charset + "\nContent-Transfer-Encoding: 8bit\n\n" + c.body + "\n"))
		assert.Contains(t, l.Text, "Grüße aus København", name)
	}
}
