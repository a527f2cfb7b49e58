package app

import (
	"errors"
	"slices"
)

// errCutsOff is why a letter is not taken in with which the server breaks off each time.
var errCutsOff = errors.New("the server breaks off with it each time")

// breaksOff is how often the connection may end with a letter before it is left.
const breaksOff = 3

// blame notes with which letters a connection may have broken off: those of a chunk that
// did not come. What comes the next time has no blame.
func (s *syncers) blame(f *seenFolder, uids []uint32, came map[uint32]bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.blamed == nil {
		s.blamed = map[copyAt]int{}
	}
	for _, uid := range uids {
		if !came[uid] {
			s.blamed[copyAt{f.ID, uid}]++
		}
	}
}

// chunks are the letters of a folder to be fetched, so many at a time; those that may have
// broken off a connection come last, each alone. given are those that did so too often.
func (s *syncers) chunks(f *seenFolder) (chunks [][]uint32, given []uint32) {
	s.mu.Lock()
	defer s.mu.Unlock()
	var plain []uint32
	var alone [][]uint32
	for _, uid := range f.fresh {
		switch n := s.blamed[copyAt{f.ID, uid}]; {
		case n == 0:
			plain = append(plain, uid)
		case n >= breaksOff:
			given = append(given, uid)
			delete(s.blamed, copyAt{f.ID, uid})
		default:
			alone = append(alone, []uint32{uid})
		}
	}
	soon := min(usableAfter, len(plain))
	chunks = slices.Collect(slices.Chunk(plain[:soon], fetchedAtOnce))
	chunks = slices.AppendSeq(chunks, slices.Chunk(plain[soon:], thenAtOnce))
	return append(chunks, alone...), given
}
