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

// letters makes n letters, the same each time. One in three answers an earlier
// one. "the" is the common word; "zyzzyva" stands in one of 10,000.
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
			fmt.Fprintf(&b, "Subject: %s\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n", subject)
			for w := range 60 + r.IntN(160) {
				b.WriteString(vocabulary[r.IntN(len(vocabulary))])
				switch {
				case w%12 == 11:
					b.WriteString(".\r\n")
				default:
					b.WriteByte(' ')
				}
			}
			if i%10_000 == 5_000 {
				b.WriteString("zyzzyva")
			}
			b.WriteString("\r\n")
			if !yield([]byte(b.String()), nil) {
				return
			}
		}
	}
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
		fmt.Fprint(w, "From bench@x.example Mon Jan  6 08:00:00 2025\r\nFrom: a@b.example\r\nSubject: huge\r\n\r\n")
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
