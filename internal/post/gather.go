package post

import (
	"errors"
	"io"
	"os"
)

// inMemory is how much of a letter is gathered in memory. Beyond that it goes
// through a file, so that a large one is never there twice.
const inMemory = 4 << 20

// gatherer gathers a letter piece by piece.
type gatherer struct {
	buf  []byte
	file *os.File
	size int
	err  error
}

func (g *gatherer) write(p []byte) {
	if g.size += len(p); g.err != nil || g.size > MaxLetter {
		return
	}
	if g.file == nil && len(g.buf)+len(p) > inMemory {
		g.file, g.err = os.CreateTemp("", "ebbe-letter-*")
		if g.err == nil {
			g.err = os.Remove(g.file.Name()) // it goes with this process
		}
	}
	if g.file == nil || g.err != nil {
		g.buf = append(g.buf, p...)
		return
	}
	if len(g.buf)+len(p) > windowSize {
		g.flush()
	}
	if len(p) > windowSize {
		_, err := g.file.Write(p)
		g.err = errors.Join(g.err, err)
		return
	}
	g.buf = append(g.buf, p...)
}

func (g *gatherer) flush() {
	_, err := g.file.Write(g.buf)
	g.err, g.buf = errors.Join(g.err, err), g.buf[:0]
}

// bytes gives what was gathered; ErrTooLarge if that is over MaxLetter.
func (g *gatherer) bytes() ([]byte, error) {
	switch {
	case g.size > MaxLetter:
		return nil, ErrTooLarge
	case g.err != nil || g.file == nil:
		return g.buf, g.err
	}
	g.flush()
	g.buf = nil
	out := make([]byte, g.size)
	if _, err := g.file.ReadAt(out, 0); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	return out, g.err
}

func (g *gatherer) close() {
	if g.file != nil {
		_ = g.file.Close() // it was only read from
	}
}

// Gather reads a letter to its end without having it in memory twice. One over
// MaxLetter is ErrTooLarge.
func Gather(r io.Reader) ([]byte, error) {
	g := gatherer{}
	defer g.close()
	piece := make([]byte, windowSize)
	for {
		n, err := r.Read(piece)
		g.write(piece[:n])
		if errors.Is(err, io.EOF) {
			return g.bytes()
		}
		if err != nil {
			return nil, err
		}
		if g.size > MaxLetter {
			return nil, ErrTooLarge
		}
	}
}
