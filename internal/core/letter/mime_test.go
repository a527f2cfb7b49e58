package letter

import (
	"encoding/base64"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// multipart writes a letter of parts; each part is its header, an empty line,
// and its body.
func multipart(kind string, parts ...string) string {
	return "From: a@b.example\nSubject: s\nContent-Type: multipart/" + kind + "; boundary=xx\n\n--xx\n" + strings.Join(parts, "\n--xx\n") + "\n--xx--\n"
}

func names(l Letter) []string {
	out := []string{}
	for _, p := range l.Parts {
		out = append(out, p.Name)
	}
	return out
}

func TestPartsAreSortedIntoWhatIsReadAndWhatIsAttached(t *testing.T) {
	const text, page = "Content-Type: text/plain\n\nplain", "Content-Type: text/html\n\n<p>page</p>"
	inner := "From: c@d.example\nSubject: inner\n\ninner text\n"
	for _, c := range []struct {
		name, raw  string
		text, html string
		parts      []string
		seal       Seal
	}{
		{"alternative", multipart("alternative", text, page), "plain", "<p>page</p>", nil, Seal{}},
		{"alternative with a calendar", multipart("alternative", text, page, "Content-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR"), "plain", "<p>page</p>", []string{"invitation.ics"}, Seal{}},
		{"mixed texts", multipart("mixed", text, "Content-Type: text/plain\n\nfooter"), "plain\n\nfooter", "", nil, Seal{}},
		{"a page and a footer", multipart("mixed", page, "Content-Type: text/plain\n\nfoot<er"), "page\n\nfoot<er", "<p>page</p><pre>foot&lt;er</pre>", nil, Seal{}},
		{"text as a file", multipart("mixed", text, "Content-Type: text/plain; name=notes.txt\n\nnotes"), "plain\n\nnotes", "", []string{"notes.txt"}, Seal{}},
		{"attached text", multipart("mixed", text, "Content-Type: text/plain\nContent-Disposition: attachment\n\nnotes"), "plain", "", []string{"attachment"}, Seal{}},
		{"a letter inside", multipart("mixed", text, "Content-Type: message/rfc822\n\n"+inner), "plain", "", []string{"letter.eml"}, Seal{}},
		{"a digest", multipart("digest", "\n"+inner, "\n"+inner), "", "", []string{"letter.eml", "letter.eml"}, Seal{}},
		{"signed", multipart(`signed; protocol="application/pgp-signature"`, text, "Content-Type: application/pgp-signature\n\nxyz"), "plain", "", []string{"signature.asc"}, Seal{"signed", "OpenPGP"}},
		{"signed by a certificate", multipart(`signed; protocol="application/pkcs7-signature"`, text, "Content-Type: application/pkcs7-signature; name=smime.p7s\n\nxyz"), "plain", "", []string{"smime.p7s"}, Seal{"signed", "S/MIME"}},
		{"encrypted", multipart(`encrypted; protocol="application/pgp-encrypted"`, "Content-Type: application/pgp-encrypted\n\nVersion: 1", "Content-Type: application/octet-stream\n\nxyz"), "", "", []string{"attachment", "attachment"}, Seal{"encrypted", "OpenPGP"}},
		{"sealed", "From: a@b.example\nContent-Type: application/pkcs7-mime; smime-type=enveloped-data; name=smime.p7m\n\nxyz\n", "", "", []string{"smime.p7m"}, Seal{"encrypted", "S/MIME"}},
		{"armour in the text", "From: a@b.example\n\n-----BEGIN PGP MESSAGE-----\nxyz\n", "-----BEGIN PGP MESSAGE-----\nxyz", "", nil, Seal{"encrypted", "OpenPGP"}},
		{"related", multipart("related", "Content-Type: text/html\n\n<img src=\"cid:leaf@x\">", "Content-Type: image/png\nContent-ID: <leaf@x>\n\nPNG"), "", "<img src=\"cid:leaf@x\">", []string{"picture.png"}, Seal{}},
		{"no boundary", "From: a@b.example\nContent-Type: multipart/mixed\n\nstill text\n", "still text", "", nil, Seal{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			for _, raw := range [][]byte{[]byte(c.raw), crlf(c.raw)} {
				l := Parse(raw)
				assert.Equal(t, c.text, strings.TrimRight(l.Text, "\n"))
				assert.Equal(t, c.html, strings.TrimSpace(l.HTML))
				assert.ElementsMatch(t, c.parts, names(l))
				assert.Equal(t, c.seal, l.Seal)
				assert.Empty(t, l.Damage)
			}
		})
	}
}

func TestHTMLBesidePlainTextIsReadAsText(t *testing.T) {
	html := "Content-Type: text/html\n\n<p>Come at <b>nine</b>.</p>"
	l := Parse([]byte(multipart("mixed", html, "Content-Type: text/plain\n\nSent to the list.")))
	assert.Equal(t, "Come at *nine*.\n\nSent to the list.", l.Text)
	l = Parse([]byte(multipart("mixed", html, html)))
	assert.Equal(t, "Come at *nine*.\n\nCome at *nine*.", l.Text)
}

func TestOnlyReferredPartsAreInline(t *testing.T) {
	l := Parse([]byte(multipart("related", "Content-Type: text/html\n\n<img src=\"cid:leaf@x\">",
		"Content-Type: image/png\nContent-ID: <leaf@x>\n\nPNG", "Content-Type: image/png\nContent-ID: <other@x>\nContent-Disposition: inline\n\nPNG")))
	require.Len(t, l.Parts, 2)
	assert.True(t, l.Parts[0].Inline)
	assert.Len(t, l.Attachments(), 1, "a picture that nothing shows is attached")
}

func TestALetterInsideALetterIsReadAgain(t *testing.T) {
	inner := "From: Inner <c@d.example>\nSubject: inner\n\ninner text\n"
	for i := range 3 {
		around := multipart("mixed", "Content-Type: text/plain\n\naround", "Content-Type: message/rfc822\n\n"+inner)
		inner = strings.ReplaceAll(around, "xx", fmt.Sprint("xx", i))
	}
	l := Parse([]byte(inner))
	text, _ := l.Searched()
	assert.Subset(t, strings.Fields(text), []string{"around", "Inner", "inner", "text"}, "it is found by what is inside")
	for range 3 {
		require.Len(t, l.Parts, 1)
		require.True(t, IsLetterType(l.Parts[0].ContentType))
		l = Parse(l.Parts[0].Content)
	}
	assert.Equal(t, "Inner", l.From.Name)
	assert.Equal(t, "inner text", strings.TrimSpace(l.Text))
}

func TestEncodedWords(t *testing.T) {
	for typed, want := range map[string]string{
		"plain":                                   "plain",
		"=?utf-8?q?caf=C3=A9?=":                   "café",
		"=?UTF-8?B?Y2Fmw6k=?=":                    "café",
		"=?utf-8?B?Y2Fmw6k?=":                     "café", // without padding
		"=?iso-8859-1?Q?caf=E9_au?= x":            "café au x",
		"=?utf-8?q?a?= =?utf-8?q?b?=":             "ab",
		"=?utf-8?q?a?= b =?utf-8?q?c?=":           "a b c",
		"=?utf-8?q?caf=C3?= =?utf-8?q?=A9?=":      "café", // cut between the bytes of one character
		"=?utf-8?q?with blanks inside?=":          "with blanks inside",
		"=?utf-8*en?q?language?=":                 "language",
		"=?klingon?q?abc?=":                       "=?klingon?q?abc?=",
		"=?nope?x?zz?=":                           "=?nope?x?zz?=",
		"=?utf-8?q?=ZZ?=":                         "=ZZ",
		"=?utf-8?q?unfinished":                    "=?utf-8?q?unfinished",
		"caf\xe9":                                 "café", // bytes of the western charset
		"=?us-ascii?q?a?= =?iso-8859-1?q?=E9?= =": "aé =",
	} {
		assert.Equal(t, want, decodeWords(typed), "%q", typed)
	}
}

func TestNamesOfParts(t *testing.T) {
	for params, want := range map[string]string{
		`filename=plain.pdf`:                                              "plain.pdf",
		`filename="with blank.pdf"`:                                       "with blank.pdf",
		`filename*=UTF-8''%e2%82%ac%20rates.pdf`:                          "€ rates.pdf",   // RFC 2231, section 4
		"filename*0=\"long-\";\n filename*1=\"name.pdf\"":                 "long-name.pdf", // section 3
		"filename*0*=UTF-8''%e2%82%ac-;\n filename*1=\"of-the-year.pdf\"": "€-of-the-year.pdf",
		`filename="=?utf-8?q?caf=C3=A9.pdf?="`:                            "café.pdf", // against RFC 2047, and common
		`filename="../../etc/passwd"`:                                     "../../etc/passwd",
	} {
		l := Parse([]byte(multipart("mixed", "Content-Type: application/pdf\nContent-Disposition: attachment; "+params+"\n\nx")))
		assert.Equal(t, []string{want}, names(l), params)
	}
}

func TestFormatFlowed(t *testing.T) {
	for _, c := range []struct {
		text, want string
		delsp      bool
	}{
		{"one \ntwo\nthree", "one two\nthree", false},
		{"one \ntwo", "onetwo", true},
		{" stuffed\n From here", "stuffed\nFrom here", false},
		{"> one \n> two\n>> deep \n> out", "> one two\n>> deep \n> out", false},
		{"text \n-- \nname", "text \n-- \nname", false},
		{"", "", false},
		{"ends \n", "ends ", false},
	} {
		assert.Equal(t, c.want, unflow(c.text, c.delsp), "%q", c.text)
	}
	l := Parse([]byte("From: a@b.example\nContent-Type: text/plain; format=flowed\n\nlong \nline\n"))
	assert.Equal(t, "long line", l.Text)
}

func TestFalseBase64IsShownAsItIs(t *testing.T) {
	plainly := "Dear Ines, this was never encoded."
	for _, head := range []string{"Content-Transfer-Encoding: base64\n\n", "content-transfer-encoding:BASE64\nX: y\n\n"} {
		l := Parse([]byte("From: a@b.example\nContent-Type: text/plain\n" + head + plainly + "\n"))
		assert.Equal(t, plainly, strings.TrimSpace(l.Text))
		l = Parse([]byte(multipart("mixed", "Content-Type: text/plain\n"+head+plainly, "Content-Type: text/plain\nContent-Transfer-Encoding: base64\n\n"+base64.StdEncoding.EncodeToString([]byte("truly encoded")))))
		assert.Equal(t, plainly+"\n\ntruly encoded", strings.TrimSpace(l.Text))
	}
}

func TestDatesThatBreakTheRules(t *testing.T) {
	for text, want := range map[string]string{
		"Tue, 24 Nov 2026 08:11:00 +0100":          "2026-11-24 07:11",
		"24 Nov 2026 08:11 +0100":                  "2026-11-24 07:11",
		"Tue, 24 Nov 26 08:11:00 GMT":              "2026-11-24 08:11",
		"Tue, 24 Nov 2026 08:11:00 +0100 (CET)":    "2026-11-24 07:11",
		"Tue Nov 24 08:11:00 2026":                 "2026-11-24 08:11",
		"2026-11-24T08:11:00+01:00":                "2026-11-24 07:11",
		"2026-11-24 08:11:00 +0100":                "2026-11-24 07:11",
		"Tuesday, 24 November 2026 08:11:00 +0100": "2026-11-24 07:11",
		"Tue, 31 Feb 2026 08:11:00 +0100":          "",
		"Tue, 99 Foo 2026":                         "",
		"24 Nov 12026 08:11 +0100":                 "",
		"Thu, 1 Jan 1801 00:00:00 +0000":           "",
		"":                                         "",
	} {
		at, shown := parseDate(text), ""
		if !at.IsZero() {
			shown = at.Format("2006-01-02 15:04")
		}
		assert.Equal(t, want, shown, "%q", text)
	}
}

func TestHeadersThatBreakTheRules(t *testing.T) {
	l := Parse([]byte(" From: a@b.example\nSubject: leading blank\n\nx\n"))
	assert.Equal(t, "a@b.example", l.From.Email)
	l = Parse([]byte("\n\nFrom: a@b.example\nSubject: leading lines\n\nx\n"))
	assert.Equal(t, "leading lines", l.Subject)
	l = Parse([]byte("From: a@b.example\nSubject: no empty line\nThis is the text already.\nMore.\n"))
	assert.Equal(t, "no empty line", l.Subject)
	assert.Equal(t, "This is the text already.\nMore.", l.Text)
	l = Parse([]byte("From: \"Frisvold, Oda\" <oda@s.example>, broken <<x>\nTo: undisclosed-recipients:;\nSubject: lists\n\nx\n"))
	assert.Equal(t, "oda@s.example", l.From.Email)
	assert.Empty(t, l.To)
}

func TestALetterOverALimitIsShownInPart(t *testing.T) {
	big := base64.StdEncoding.EncodeToString(make([]byte, 20<<20))
	raw := []byte(multipart("mixed", "Content-Type: text/plain\n\nread me", "Content-Type: application/pdf; name=big.pdf\nContent-Transfer-Encoding: base64\n\n"+big,
		"Content-Type: text/plain; name=small.txt\n\nsmall"))
	l := Parse(raw)
	assert.Contains(t, l.Damage, "shown in part")
	assert.Equal(t, "read me", strings.TrimSpace(l.Text))
	assert.Equal(t, []string{"attachment", "big.pdf", "small.txt"}, names(l))
	assert.Equal(t, 20<<20, l.Parts[1].Size)
	assert.Nil(t, l.Parts[1].Content, "its content is not kept in memory")
	p, ok := PartOf(raw, 1)
	assert.True(t, ok)
	assert.Len(t, p.Content, 20<<20)
	p, ok = PartOf(raw, 2)
	assert.True(t, ok)
	assert.Equal(t, "small", strings.TrimSpace(string(p.Content)))
	_, ok = PartOf(raw, 3)
	assert.False(t, ok)
}

func TestReports(t *testing.T) {
	original := "Content-Type: text/rfc822-headers\n\nMessage-ID: <mine@norrholm.example>\nSubject: Crates\n"
	failed := "Content-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ok@x.example\nAction: delivered\nStatus: 2.0.0\n\n" +
		"Final-Recipient: rfc822; gone@x.example\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 5.1.1 nobody\n of that name\n"
	const text = "Content-Type: text/plain\n\nSorry."
	for _, c := range []struct {
		name string
		raw  string
		want *Reported
	}{
		{"failed for one of two", multipart("report; report-type=delivery-status", text, failed, original), &Reported{Failed, "mine@norrholm.example", "gone@x.example", "550 5.1.1 nobody of that name"}},
		{"delayed, without a reason", multipart("report; report-type=delivery-status", text, "Content-Type: message/delivery-status\n\nReporting-MTA: dns; x\n\nOriginal-Recipient: rfc822;b@x.example\nAction: delayed\nStatus: 4.4.1\n", original),
			&Reported{Delayed, "mine@norrholm.example", "b@x.example", "4.4.1"}},
		{"read", multipart("report; report-type=disposition-notification", text, "Content-Type: message/disposition-notification\n\nFinal-Recipient: rfc822;bram@x.example\nOriginal-Message-ID: <mine@norrholm.example>\nDisposition: manual-action/MDN-sent-manually; displayed\n"),
			&Reported{WasRead, "mine@norrholm.example", "bram@x.example", ""}},
		{"deleted unread", multipart("report; report-type=disposition-notification", text, "Content-Type: message/disposition-notification\n\nFinal-Recipient: rfc822;bram@x.example\nDisposition: automatic-action/MDN-sent-automatically; deleted\n"),
			&Reported{NotRead, "", "bram@x.example", ""}},
		{"a report that says nothing", multipart("report", text, "Content-Type: message/delivery-status\n\n\n"), nil},
		{"no report", multipart("mixed", text, failed, original), nil},
	} {
		l := Parse(crlf(c.raw))
		assert.Equal(t, c.want, l.Report, c.name)
		if c.want != nil {
			assert.Equal(t, Report, l.Automatic, c.name)
		}
	}
}

func TestAReceiptIsReadAsOne(t *testing.T) {
	asked := Parse([]byte("From: Bram <bram@x.example>\nDisposition-Notification-To: Bram <bram@x.example>\nSubject: Crates å\nDate: Tue, 24 Nov 2026 08:11:00 +0100\nMessage-ID: <his@x.example>\n\nx\n"))
	require.Equal(t, []Address{{"Bram", "bram@x.example"}}, asked.ReadReceiptTo)
	assert.False(t, asked.ReadReceiptGoesElsewhere())
	raw, err := ReadReceipt{MessageID: "r@norrholm.example", From: Address{"Ines", "ines@norrholm.example"}, To: asked.ReadReceiptTo, At: asked.Date, Of: asked}.Bytes()
	require.NoError(t, err)
	l := Parse(raw)
	assert.Equal(t, &Reported{Kind: WasRead, Original: "his@x.example", Recipient: "ines@norrholm.example"}, l.Report)
	assert.Equal(t, "Read: Crates å", l.Subject)
	assert.Equal(t, []string{"his@x.example"}, l.InReplyTo)
	assert.True(t, l.Automatic.Is(), "it is never answered by another machine")
	_, err = ReadReceipt{}.Bytes()
	assert.ErrorIs(t, err, ErrNoRecipient)

	asked.ReadReceiptTo = append(asked.ReadReceiptTo, Address{Email: "counter@spy.example"})
	assert.True(t, asked.ReadReceiptGoesElsewhere())
	wants, err := Outgoing{MessageID: "m@x", From: Address{Email: "a@b.example"}, To: []Address{{Email: "c@d.example"}}, Text: "x", WantsReadReceipt: true}.Bytes()
	require.NoError(t, err)
	assert.Equal(t, []Address{{Email: "a@b.example"}}, Parse(wants).ReadReceiptTo)
}

func TestSpying(t *testing.T) {
	token := "a1b2c3d4e5f6a7b8c9d0e1f2a3b4"
	for _, c := range []struct {
		name, html string
		want       Spying
		contains   string
	}{
		{"an honest picture", `<img src="https://x.example/cover.jpg" width="480">`, Spying{}, "data-blocked"},
		{"a dot", `<img src="https://x.example/o.gif" width="1" height="1">`, Spying{Pictures: 1, Unseen: 1}, ""},
		{"a dot by style", `<img src="https://x.example/o.gif" style="width:1px;height:1px">`, Spying{Pictures: 1, Unseen: 1}, ""},
		{"a hidden one", `<img src="https://x.example/o.gif" style="display: none">`, Spying{Pictures: 1, Unseen: 1}, ""},
		{"one with the reader's mark", fmt.Sprintf(`<img src="https://x.example/p/%s.png" width="300">`, token), Spying{Pictures: 1}, ""},
		{"an honest link", `<a href="https://x.example/page?id=4">page</a>`, Spying{}, `href="https://x.example/page?id=4"`},
		{"a counting parameter", `<a href="https://x.example/page?id=4&amp;utm_source=letter">page</a>`, Spying{Links: 1}, `href="https://x.example/page?id=4"`},
		{"a detour", `<a href="https://click.x.example/r?u=https%3A%2F%2Fy.example%2Fpage%3Futm_medium%3Dm">page</a>`, Spying{Links: 1}, `href="https://y.example/page"`},
		{"a detour that can't be seen through", `<a href="https://click.x.example/` + token + `">page</a>`, Spying{Links: 1}, token},
		{"a disguise", `<a href="https://evil.example/x">www.bank.example</a>`, Spying{Disguised: 1}, "[leads to evil.example]"},
		{"a part of the same house", `<a href="https://www.bank.example/x">bank.example/login</a>`, Spying{}, ""},
	} {
		shown := Clean(c.html, false, nil)
		assert.Equal(t, c.want, shown.Spying, c.name)
		assert.Contains(t, shown.HTML, c.contains, c.name)
	}
	loaded := Clean(`<img src="https://x.example/cover.jpg" width="480"><img src="https://x.example/o.gif" width="1">`, true, nil)
	assert.Contains(t, loaded.HTML, "cover.jpg")
	assert.NotContains(t, loaded.HTML, "o.gif", "what only tells that it was read is never loaded")
	assert.Equal(t, 1, loaded.Blocked)
}

func TestHTMLNestedBeyondReasonKeepsItsText(t *testing.T) {
	deep := strings.Repeat("<div>", 10_000) + "the <b>text" + strings.Repeat("</div>", 10_000)
	assert.Contains(t, Clean(deep, false, nil).HTML, "text")
	l := Parse([]byte("From: a@b.example\nContent-Type: text/html\n\n" + deep + "\n"))
	assert.Contains(t, l.Text, "text")
}
