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
