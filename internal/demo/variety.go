package demo

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"mime"
	"mime/quotedprintable"
	"net/mail"
	"strings"
	"time"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
)

// written are letters as other programs write them: in other charsets, with
// parts of every kind, with fields that are missing or wrong. Each is made by
// hand, since the library that writes the others knows no bad manners.
var written = map[string]func(m message) []byte{
	"flowed":    flowed,
	"latin":     func(m message) []byte { return inCharset(m, "iso-8859-1", true) },
	"western":   func(m message) []byte { return inCharset(m, "windows-1252", false) },
	"cyrillic":  func(m message) []byte { return inCharset(m, "koi8-r", true) },
	"japanese":  func(m message) []byte { return inCharset(m, "iso-2022-jp", false) },
	"bare":      bare,
	"future":    future,
	"false":     falseBase64,
	"invite":    func(m message) []byte { return calendar5545(m, "REQUEST", "NEEDS-ACTION") },
	"accept":    func(m message) []byte { return calendar5545(m, "REPLY", "ACCEPTED") },
	"forward":   forward,
	"signed":    signed,
	"certified": certified,
	"failed":    failed,
	"tracked":   tracked,
	"receipt": func(m message) []byte {
		return head(m, "Disposition-Notification-To: "+address(m)+"\r\n", plainBody(m.text))
	},
	"odd-name": oddName,
}

func address(m message) string {
	return (&mail.Address{Name: m.from.Name, Address: m.from.Email}).String()
}

// head writes the usual fields, more, and the rest.
func head(m message, more, rest string) []byte {
	var refs strings.Builder
	for _, r := range m.refs {
		refs.WriteString(" <" + r + ">")
	}
	references := ""
	if refs.Len() > 0 {
		references = fmt.Sprintf("References:%s\r\nIn-Reply-To: <%s>\r\n", refs.String(), m.refs[len(m.refs)-1])
	}
	var to []string
	for _, c := range m.cc {
		to = append(to, c.Email)
	}
	copied := ""
	if len(to) > 0 {
		copied = "Cc: " + strings.Join(to, ", ") + "\r\n"
	}
	return fmt.Appendf(nil, "From: %s\r\nTo: %s\r\n%sSubject: %s\r\nDate: %s\r\nMessage-ID: <%s>\r\n%sMIME-Version: 1.0\r\n%s%s",
		address(m), m.to.Email, copied, mime.QEncoding.Encode("utf-8", m.subject), m.at.Format(time.RFC1123Z), messageID(m.id, m.from), references, more, rest)
}

func crlf(s string) string { return strings.ReplaceAll(s, "\n", "\r\n") }

func plainBody(text string) string {
	var b bytes.Buffer
	w := quotedprintable.NewWriter(&b)
	_, _ = w.Write([]byte(text)) // a buffer takes everything
	_ = w.Close()
	return "Content-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n" + b.String() + "\r\n"
}

// flowed breaks long lines softly (RFC 3676).
func flowed(m message) []byte {
	var out []string
	for line := range strings.SplitSeq(m.text, "\n") {
		for len(line) > 70 && strings.Contains(line[:70], " ") && !strings.HasPrefix(line, ">") {
			at := strings.LastIndexByte(line[:70], ' ')
			out, line = append(out, line[:at+1]), line[at+1:]
		}
		out = append(out, strings.TrimRight(line, " "))
	}
	return head(m, "Content-Type: text/plain; charset=utf-8; format=flowed\r\nContent-Transfer-Encoding: 8bit\r\n", "\r\n"+strings.Join(out, "\r\n")+"\r\n")
}

func encode(e encoding.Encoding, s string) string {
	out, err := encoding.ReplaceUnsupported(e.NewEncoder()).String(s)
	if err != nil {
		return s
	}
	return out
}

// inCharset writes a letter in an old charset, with encoded words.
func inCharset(m message, charset string, packed bool) []byte {
	e, err := htmlindex.Get(charset)
	if err != nil {
		return plainOf(m)
	}
	word := func(s string) string {
		return "=?" + charset + "?B?" + base64.StdEncoding.EncodeToString([]byte(encode(e, s))) + "?="
	}
	body, way := encode(e, crlf(m.text)), "8bit"
	if packed {
		body, way = base64.StdEncoding.EncodeToString([]byte(body)), "base64"
	}
	return fmt.Appendf(nil, "From: %s <%s>\r\nTo: %s\r\nSubject: %s\r\nDate: %s\r\nMessage-ID: <%s>\r\nMIME-Version: 1.0\r\n"+
		"Content-Type: text/plain; charset=%s\r\nContent-Transfer-Encoding: %s\r\n\r\n%s\r\n",
		word(m.from.Name), m.from.Email, m.to.Email, word(m.subject), m.at.Format(time.RFC1123Z), messageID(m.id, m.from), charset, way, body)
}

func plainOf(m message) []byte { return head(m, "", plainBody(m.text)) }

// bare has neither date, id nor subject, as some machines write.
func bare(m message) []byte {
	return fmt.Appendf(nil, "From: %s\nTo: %s\n\n%s\n", m.from.Email, m.to.Email, m.text)
}

// future was written on a machine whose clock is wrong.
func future(m message) []byte {
	m.at = m.at.AddDate(11, 0, 0)
	return plainOf(m)
}

// falseBase64 says that it is encoded, and is not.
func falseBase64(m message) []byte {
	return head(m, "Content-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: base64\r\n", "\r\n"+crlf(m.text)+"\r\n")
}

// calendar5545 carries a meeting, or the answer to one (RFC 5545, RFC 6047).
func calendar5545(m message, method, status string) []byte {
	start := m.at.UTC().AddDate(0, 0, 5).Truncate(time.Hour)
	event := crlf(fmt.Sprintf("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//norrholm.example//demo//EN\nMETHOD:%s\nBEGIN:VEVENT\nUID:%s@norrholm.example\nDTSTAMP:%s\nDTSTART:%s\nDTEND:%s\n"+
		"SUMMARY:%s\nORGANIZER:mailto:%s\nATTENDEE;PARTSTAT=%s:mailto:%s\nEND:VEVENT\nEND:VCALENDAR\n", method, m.id, m.at.UTC().Format("20060102T150405Z"),
		start.Format("20060102T150405Z"), start.Add(time.Hour).Format("20060102T150405Z"), m.subject, m.from.Email, status, m.to.Email))
	return head(m, "Content-Type: multipart/alternative; boundary=\"meeting\"\r\n", "\r\n--meeting\r\n"+plainBody(m.text)+
		"--meeting\r\nContent-Type: text/calendar; charset=utf-8; method="+method+"\r\n\r\n"+event+"--meeting--\r\n")
}

// forward carries another letter whole.
func forward(m message) []byte {
	inner := message{id: m.id + "-inner", from: kestrel, to: lise, subject: "Estimate for 200 labels", text: "Dear Lise,\n\n200 labels in two languages come to 1,840. The price holds until the end of the month.\n\nKestrel Print", at: m.at.AddDate(0, 0, -1)}
	return head(m, "Content-Type: multipart/mixed; boundary=\"around\"\r\n", "\r\n--around\r\n"+plainBody(m.text)+
		"--around\r\nContent-Type: message/rfc822\r\nContent-Disposition: attachment\r\n\r\n"+string(plainOf(inner))+"--around--\r\n")
}

func signed(m message) []byte {
	return head(m, "Content-Type: multipart/signed; micalg=pgp-sha256; protocol=\"application/pgp-signature\"; boundary=\"seal\"\r\n", "\r\n--seal\r\n"+plainBody(m.text)+
		"--seal\r\nContent-Type: application/pgp-signature; name=signature.asc\r\n\r\n-----BEGIN PGP SIGNATURE-----\r\n\r\nbWFkZSB1cCBmb3IgdGhlIGRlbW8=\r\n-----END PGP SIGNATURE-----\r\n--seal--\r\n")
}

func certified(m message) []byte {
	return head(m, "Content-Type: multipart/signed; micalg=sha-256; protocol=\"application/pkcs7-signature\"; boundary=\"seal\"\r\n", "\r\n--seal\r\n"+plainBody(m.text)+
		"--seal\r\nContent-Type: application/pkcs7-signature; name=smime.p7s\r\nContent-Transfer-Encoding: base64\r\n\r\nbWFkZSB1cA==\r\n--seal--\r\n")
}

// failed reports that a letter of Ines's could not be delivered (RFC 3464).
func failed(m message) []byte {
	original := ""
	if len(m.refs) > 0 {
		original = m.refs[0]
	}
	m.refs = nil
	return head(m, "Auto-Submitted: auto-replied\r\nReturn-Path: <>\r\nContent-Type: multipart/report; report-type=delivery-status; boundary=\"report\"\r\n",
		"\r\n--report\r\n"+plainBody(m.text)+"--report\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; post.example\r\n\r\nFinal-Recipient: rfc822; "+
			m.bounced+"\r\nAction: failed\r\nStatus: 5.1.1\r\nDiagnostic-Code: smtp; 550 5.1.1 There is nobody of that name here\r\n\r\n"+
			"--report\r\nContent-Type: text/rfc822-headers\r\n\r\nMessage-ID: <"+original+">\r\n\r\n--report--\r\n")
}

// tracked is a newsletter that wants to know who reads it and what.
func tracked(m message) []byte {
	mark := base64.RawURLEncoding.EncodeToString([]byte(m.id + "-ines-0042"))
	page := m.asHTML() + fmt.Sprintf(`<p><a href="https://click.glasshouseletter.example/r?u=https%%3A%%2F%%2Fglasshouseletter.example%%2Fissue%%3Futm_source%%3Dletter">Read the issue</a>
		or <a href="https://glasshouseletter.example/shop?utm_campaign=winter&amp;id=7">visit the shop</a>.</p><img src="https://open.glasshouseletter.example/%s.gif" width="1" height="1" alt="">`, mark)
	return head(m, "List-Id: <"+strings.ReplaceAll(m.from.Email, "@", ".")+">\r\nList-Unsubscribe: <mailto:leave-"+m.from.Email+">\r\nContent-Type: multipart/alternative; boundary=\"both\"\r\n",
		"\r\n--both\r\n"+plainBody(m.text)+"--both\r\nContent-Type: text/html; charset=utf-8\r\nContent-Transfer-Encoding: 8bit\r\n\r\n"+crlf(page)+"\r\n--both--\r\n")
}

// oddName carries a file whose name is written by RFC 2231.
func oddName(m message) []byte {
	return head(m, "Content-Type: multipart/mixed; boundary=\"file\"\r\n", "\r\n--file\r\n"+plainBody(m.text)+
		"--file\r\nContent-Type: text/csv; charset=utf-8\r\nContent-Disposition: attachment; filename*0*=UTF-8''m%C3%A5linger%20; filename*1*=hus%203.csv\r\n\r\nhour,degrees\r\n06:00,9.4\r\n--file--\r\n")
}
