package api

import "sync"

// streams ends the streams of a session along with it.
type streams struct {
	mu sync.Mutex
	by map[string]map[chan struct{}]bool // by the session's token
}

// begin registers a stream. ended is closed when its session ends.
func (s *streams) begin(token string) (ended <-chan struct{}, forget func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.by == nil {
		s.by = map[string]map[chan struct{}]bool{}
	}
	if s.by[token] == nil {
		s.by[token] = map[chan struct{}]bool{}
	}
	ch := make(chan struct{})
	s.by[token][ch] = true
	return ch, func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		delete(s.by[token], ch)
		if len(s.by[token]) == 0 {
			delete(s.by, token)
		}
	}
}

// end ends all streams of a session.
func (s *streams) end(token string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for ch := range s.by[token] {
		close(ch)
	}
	delete(s.by, token)
}
