package main

import (
	"bufio"
	"fmt"
	"iter"
	"math/rand/v2"
	"os"
	"strings"
	"time"
)

var vocabulary = strings.Fields(`the a of to and in that we you for crate van loan garden letter please send confirm glass fern orchid house
	pupils visit rota walk print proof seed parcel invoice account board paper report water frost vent pump light bark stone path gate
	monday tuesday friday morning winter spring north island ferry boat ticket lift key door roof pane quote order price date week month`)

var began = time.Date(2025, 1, 6, 8, 0, 0, 0, time.UTC)

// letters makes n letters of about 3 kB, the same each time and as mixed as life: one
// in three answers an earlier one, one in three has HTML, one in ten a file. "the" is
// the common word; "zyzzyva" stands in one of 10,000.
func letters(n int) iter.Seq2[[]byte, error] {
	return func(yield func([]byte, error) bool) {
		r := rand.New(rand.NewPCG(1, 2)) //nolint:gosec // the same letters each time
		for i := range n {
			var b strings.Builder
			at := began.Add(time.Duration(i) * 7 * time.Minute)
			from := r.IntN(400)
			subject := fmt.Sprintf("%s %s %d", vocabulary[20+r.IntN(40)], vocabulary[20+r.IntN(40)], i)
			fmt.Fprintf(&b, "From: Person %d <p%d@x%d.example>\r\nTo: Ines <ines@norrholm.example>\r\nDate: %s\r\nMessage-ID: <%d@bench.example>\r\n", from, from, from%20, at.Format(time.RFC1123Z), i)
			if i > 10 && r.IntN(3) == 0 {
				j := i - 1 - r.IntN(10)
				subject = "Re: " + subject
				fmt.Fprintf(&b, "In-Reply-To: <%d@bench.example>\r\nReferences: <%d@bench.example>\r\n", j, j)
			}
			fmt.Fprintf(&b, "Subject: %s\r\nMIME-Version: 1.0\r\n", subject)
			text := words(r, 100+r.IntN(200))
			if i%10_000 == 5_000 {
				text += "zyzzyva\r\n"
			}
			body(&b, text, r.IntN(3) == 0, r.IntN(10) == 0)
			if !yield([]byte(b.String()), nil) {
				return
			}
		}
	}
}

// words is a text of so many words.
func words(r *rand.Rand, n int) string {
	var b strings.Builder
	for w := range n {
		b.WriteString(vocabulary[r.IntN(len(vocabulary))])
		if w%12 == 11 {
			b.WriteString(".\r\n")
		} else {
			b.WriteByte(' ')
		}
	}
	return b.String() + "\r\n"
}

// body writes the body of a letter: plain, or with HTML beside it, or with a file.
func body(b *strings.Builder, text string, html, file bool) {
	plain := "Content-Type: text/plain; charset=utf-8\r\n\r\n" + text
	if html {
		plain = "Content-Type: multipart/alternative; boundary=alt\r\n\r\n--alt\r\n" + plain +
			"--alt\r\nContent-Type: text/html; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n<html><body><p style=3D\"color:#222\">" +
			strings.ReplaceAll(text, ".\r\n", ".</p>\r\n<p>") + "</p></body></html>\r\n--alt--\r\n"
	}
	if file {
		plain = "Content-Type: multipart/mixed; boundary=mix\r\n\r\n--mix\r\n" + plain +
			"--mix\r\nContent-Type: application/pdf; name=plan.pdf\r\nContent-Disposition: attachment; filename=plan.pdf\r\nContent-Transfer-Encoding: base64\r\n\r\n" +
			strings.Repeat("JVBERi0xLjQKJcOkw7zDtsOfCjIgMCBvYmoKPDwvTGVuZ3RoIDMgMCBSL0ZpbHRlci9GbGF0ZURl\r\n", 30) + "--mix--\r\n"
	}
	b.WriteString(plain)
}

// mbox writes letters to a file, as a program that exports them would, with a
// huge one first if size is not 0.
func mbox(path string, n, size int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	if size > 0 {
		fmt.Fprint(w, "From bench@x.example Mon Jan  6 08:00:00 2025\r\nFrom: a@b.example\r\nTo: ines@norrholm.example\r\nDate: Mon, 06 Jan 2025 08:00:00 +0000\r\nMessage-ID: <huge@b.example>\r\nSubject: huge\r\n\r\n")
		for line := "a hundred megabytes of text, line after line\r\n"; size > 0; size -= len(line) {
			fmt.Fprint(w, line)
		}
		fmt.Fprint(w, "\r\n")
	}
	for raw := range letters(n) {
		fmt.Fprint(w, "From bench@x.example Mon Jan  6 08:00:00 2025\r\n")
		w.Write(raw)
		fmt.Fprint(w, "\r\n")
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Close()
}
