package imap

import (
	"bytes"
	"sync"

	"ebbe.example/ebbe/internal/post"
)

// lineGuard ends a connection over which a line comes that has no end: the client keeps
// a line until it is whole. A letter may be one line, so that none is longer than the
// largest letter. It is shown all that goes over the connection and keeps nothing of it.
type lineGuard struct {
	end func()

	mu   sync.Mutex // both directions are shown
	line int
}

func (g *lineGuard) Write(p []byte) (int, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if at := bytes.LastIndexByte(p, '\n'); at >= 0 {
		g.line = len(p) - at - 1
	} else {
		g.line += len(p)
	}
	if g.line > post.MaxLetter+1 {
		g.end()
	}
	return len(p), nil
}
