package post

import (
	"bytes"
	"errors"
	"io"
)

// window reads a stream through a buffer that grows as far as one looks ahead.
type window struct {
	r    io.Reader
	buf  []byte
	from int // what was taken
	err  error
}

const (
	windowSize = 64 << 10
	// longLine is where a line is given in pieces.
	longLine = 64 << 10
)

func newWindow(r io.Reader) *window { return &window{r: r, buf: make([]byte, 0, windowSize)} }

// peek gives the next n bytes, or fewer at the end of the stream. They are
// valid until the next call.
func (w *window) peek(n int) []byte {
	for len(w.buf)-w.from < n && w.err == nil {
		w.fill(n)
	}
	return w.buf[w.from:min(w.from+n, len(w.buf))]
}

func (w *window) fill(n int) {
	if w.from > 0 && (w.from == len(w.buf) || cap(w.buf)-w.from < n) {
		w.buf = append(w.buf[:0], w.buf[w.from:]...)
		w.from = 0
	}
	if len(w.buf) == cap(w.buf) {
		w.buf = append(make([]byte, 0, 2*cap(w.buf)), w.buf...)
	}
	k, err := w.r.Read(w.buf[len(w.buf):cap(w.buf)])
	w.buf = w.buf[:len(w.buf)+k]
	w.err = err
}

// after gives what comes n bytes on.
func (w *window) after(n int) []byte {
	head := w.peek(n + 128)
	return head[min(n, len(head)):]
}

// line gives the next line with its end, or a piece of a long one; whole tells
// that the line ends with it. It is empty at the end of the stream.
func (w *window) line() (line []byte, whole bool) {
	for have := 0; ; {
		seen := w.peek(min(max(have*2, 512), longLine))
		if i := bytes.IndexByte(seen[min(have, len(seen)):], '\n'); i >= 0 {
			return seen[:min(have, len(seen))+i+1], true
		}
		if len(seen) == longLine {
			return seen, false
		}
		if len(seen) <= have || w.err != nil && len(seen) == len(w.buf)-w.from {
			return seen, true
		}
		have = len(seen)
	}
}

// skip takes bytes that were looked at.
func (w *window) skip(n int) { w.from = min(w.from+n, len(w.buf)) }

// failed is why the stream could not be read to its end; nil if it was.
func (w *window) failed() error {
	if errors.Is(w.err, io.EOF) {
		return nil
	}
	return w.err
}
