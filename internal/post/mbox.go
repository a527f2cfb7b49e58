// Package post brings letters in and out of Ebbe: by SMTP, and as files.
package post

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"iter"
	"strings"
	"time"
)

// MaxLetter is the largest letter taken from a file or over SMTP, in bytes.
const MaxLetter = 150 << 20

// ErrTooLarge is given for a letter over MaxLetter; the ones after it are
// still read.
var ErrTooLarge = fmt.Errorf("the letter is larger than %d MB", MaxLetter>>20)

// Quoting is how an mbox file hides lines of letters that begin with "From ".
type Quoting int

const (
	// QuotedRD puts ">" before "From " and before ">From " alike, so that
	// nothing is lost (mboxrd).
	QuotedRD Quoting = iota
	// QuotedO puts it before "From " only (mboxo): a ">From " that was there
	// before can't be told from one that was made.
	QuotedO
)

// Enveloped is a letter from a file, with what the file says besides.
type Enveloped struct {
	Raw []byte
	// Time is when the file says that it came; zero if it does not.
	Time time.Time
}

// Mbox reads the letters of an mbox file (RFC 4155): a letter begins at a line
// "From " after an empty line or at the start of the file. One letter is in
// memory at a time. An error that ends the reading comes last.
func Mbox(r io.Reader, quoting Quoting) iter.Seq2[Enveloped, error] {
	return func(yield func(Enveloped, error) bool) {
		in := bufio.NewReaderSize(r, 64<<10)
		var letter bytes.Buffer
		var at time.Time
		open, blank, lineStart, tooLarge := false, true, true, false
		emit := func() bool {
			switch {
			case tooLarge:
				tooLarge = false
				return yield(Enveloped{}, ErrTooLarge)
			case !open:
				return true
			}
			raw := letter.Bytes()
			letter = bytes.Buffer{} // handed over, not copied: it may be large
			return yield(Enveloped{withoutGap(raw), at}, nil)
		}
		for {
			line, err := in.ReadSlice('\n')
			whole := lineStart && !errors.Is(err, bufio.ErrBufferFull)
			switch {
			case lineStart && blank && bytes.HasPrefix(line, []byte("From ")):
				if !emit() {
					return
				}
				open, at = true, fromLineTime(string(line))
			case open && !tooLarge:
				if lineStart {
					line = quoting.take(line)
				}
				if letter.Len()+len(line) > MaxLetter {
					tooLarge = true
					letter = bytes.Buffer{}
				} else {
					letter.Write(line)
				}
			}
			if len(line) > 0 {
				blank = whole && len(bytes.TrimRight(line, "\r\n")) == 0
			}
			lineStart = !errors.Is(err, bufio.ErrBufferFull)
			if err == nil || errors.Is(err, bufio.ErrBufferFull) {
				continue
			}
			if !emit() {
				return
			}
			if !errors.Is(err, io.EOF) {
				yield(Enveloped{}, fmt.Errorf("the file could not be read any further: %w", err))
			}
			return
		}
	}
}

// withoutGap takes off the empty line before the next "From ", which belongs
// to the file.
func withoutGap(raw []byte) []byte {
	if cut, ok := bytes.CutSuffix(raw, []byte("\r\n\r\n")); ok {
		return raw[:len(cut)+2]
	}
	if cut, ok := bytes.CutSuffix(raw, []byte("\n\n")); ok {
		return raw[:len(cut)+1]
	}
	return raw
}

// take takes one ">" off a line that was quoted.
func (q Quoting) take(line []byte) []byte {
	if len(line) == 0 || line[0] != '>' {
		return line
	}
	rest := line[1:]
	if q == QuotedRD {
		rest = bytes.TrimLeft(rest, ">")
	}
	if bytes.HasPrefix(rest, []byte("From ")) {
		return line[1:]
	}
	return line
}

// fromLineTime reads the time in a "From " line, with or without a zone.
func fromLineTime(line string) time.Time {
	words := strings.Fields(line)
	for i := range words {
		text := strings.Join(words[i:], " ")
		for _, layout := range []string{time.ANSIC, "Mon Jan 2 15:04:05 2006 -0700", "Mon Jan 2 15:04:05 MST 2006", "Mon Jan 2 15:04:05 -0700 2006"} {
			if t, err := time.Parse(layout, text); err == nil {
				return t.UTC()
			}
		}
	}
	return time.Time{}
}

// WriteMbox appends a letter to an mbox file of the mboxrd kind. Read again it
// is the same bytes; only a missing last line end is added.
func WriteMbox(w io.Writer, raw []byte, sender string, at time.Time) error {
	if sender = strings.Join(strings.Fields(sender), ""); sender == "" {
		sender = "MAILER-DAEMON"
	}
	out := bufio.NewWriterSize(w, 64<<10)
	fmt.Fprintf(out, "From %s %s\n", sender, at.UTC().Format(time.ANSIC))
	for len(raw) > 0 {
		line := raw
		if i := bytes.IndexByte(raw, '\n'); i >= 0 {
			line = raw[:i+1]
		}
		raw = raw[len(line):]
		if bytes.HasPrefix(bytes.TrimLeft(line, ">"), []byte("From ")) {
			_ = out.WriteByte('>')
		}
		_, _ = out.Write(line)
		if line[len(line)-1] != '\n' {
			_ = out.WriteByte('\n')
		}
	}
	_ = out.WriteByte('\n')
	return out.Flush() // tells of whatever failed above
}

// IsMbox tells whether a file that begins so is an mbox, rather than one letter.
func IsMbox(head []byte) bool { return bytes.HasPrefix(head, []byte("From ")) }
