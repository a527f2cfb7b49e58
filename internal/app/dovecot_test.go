package app_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/dovecot"
)

// All is so with a server that nobody here wrote.
func TestBothSidesWithAnotherServer(t *testing.T) {
	server, err := dovecot.Start(t.Context())
	if errors.Is(err, dovecot.ErrNone) {
		t.Skip(err)
	}
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, server.Stop()) })
	for name, so := range alike {
		if name == "in the end" {
			continue // a hundred times over is for our own
		}
		t.Run(name, func(t *testing.T) {
			w := &twoSides{world: newWorld(t), login: strings.ReplaceAll(name, " ", "-")}
			t.Cleanup(w.app.StopSyncing)
			w.reachedAt(server.Port)
			so(t, w)
		})
	}
}
