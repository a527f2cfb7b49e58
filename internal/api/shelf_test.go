package api

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What nobody asks for is let go of, and what is laid by is bounded.
func TestTheShelfIsBounded(t *testing.T) {
	var s shelf
	now := time.Now()
	first := s.lay(Shared{size: 100 << 20}, now)
	require.NotEmpty(t, first)
	assert.Empty(t, s.lay(Shared{size: 60 << 20}, now))
	_, ok := s.of(first, now.Add(sharedFor+time.Second))
	assert.False(t, ok)
	assert.NotEmpty(t, s.lay(Shared{size: 60 << 20}, now.Add(sharedFor+time.Second)))
}

// Who shares and then says nothing keeps others out only for as long as they hang.
func TestFewShareAtOnce(t *testing.T) {
	var s shelf
	var hang []func()
	for {
		done, ok := s.begin()
		if !ok {
			break
		}
		hang = append(hang, done)
	}
	require.Len(t, hang, mostSharedInAll/mostShared)
	hang[0]()
	done, ok := s.begin()
	require.True(t, ok, "one has broken off")
	done()
}
