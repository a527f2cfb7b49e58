// Package post brings letters in and out of Ebbe: by SMTP, and as files.
package post

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"iter"
)

// MaxLetter is the largest letter taken from a file or over SMTP, in bytes.
const MaxLetter = 150 << 20

// ErrTooLarge is given for a letter over MaxLetter; the ones after it are
// still read.
var ErrTooLarge = fmt.Errorf("a letter is larger than %d MB", MaxLetter>>20)

// Mbox reads the letters of an mbox file of the mboxrd kind: a letter begins
// at a line "From " after an empty line or at the start of the file, and one
// ">" is taken off lines that were quoted (">From ", ">>From "). One letter is
// in memory at a time. An error that ends the reading comes last.
func Mbox(r io.Reader) iter.Seq2[[]byte, error] {
	return func(yield func([]byte, error) bool) {
		in := bufio.NewReaderSize(r, 64<<10)
		var letter bytes.Buffer
		open, blank, lineStart, tooLarge := false, true, true, false
		emit := func() bool {
			switch {
			case tooLarge:
				tooLarge = false
				return yield(nil, ErrTooLarge)
			case !open:
				return true
			}
			raw := letter.Bytes()
			letter = bytes.Buffer{} // handed over, not copied: it may be large
			// The empty line before the next "From " belongs to the file.
			if cut, ok := bytes.CutSuffix(raw, []byte("\r\n\r\n")); ok {
				raw = raw[:len(cut)+2]
			} else if cut, ok := bytes.CutSuffix(raw, []byte("\n\n")); ok {
				raw = raw[:len(cut)+1]
			}
			return yield(raw, nil)
		}
		for {
			line, err := in.ReadSlice('\n')
			whole := lineStart && !errors.Is(err, bufio.ErrBufferFull)
			switch {
			case lineStart && blank && bytes.HasPrefix(line, []byte("From ")):
				if !emit() {
					return
				}
				open = true
			case open && !tooLarge:
				if lineStart {
					line = unquoteFrom(line)
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
				yield(nil, fmt.Errorf("read the file: %w", err))
			}
			return
		}
	}
}

// unquoteFrom takes one ">" off a line that begins with ">"s and "From ".
func unquoteFrom(line []byte) []byte {
	if len(line) > 0 && line[0] == '>' && bytes.HasPrefix(bytes.TrimLeft(line, ">"), []byte("From ")) {
		return line[1:]
	}
	return line
}

// IsMbox tells whether a file that begins so is an mbox, rather than one letter.
func IsMbox(head []byte) bool { return bytes.HasPrefix(head, []byte("From ")) }
