package apart_test

import (
	"context"
	"encoding/gob"
	"io"
	"os"
	"os/exec"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/apart"
)

const role = "EBBE_TEST_APART"

// TestMain is also the process apart, and such as don't do what they should.
func TestMain(m *testing.M) {
	switch os.Getenv(role) {
	case "reads":
		if apart.Serve(os.Stdin, os.Stdout) != nil {
			os.Exit(1)
		}
	case "hangs":
		select {}
	case "dies":
		var any struct{ Name string }
		_ = gob.NewDecoder(os.Stdin).Decode(&any)
		os.Exit(3)
	case "eats":
		nothing, _ := io.Pipe()
		go func() { _ = apart.Serve(nothing, io.Discard) }() // it is bounded, and asked for nothing
		var kept [][]byte
		for {
			b := make([]byte, 64<<20)
			for i := range b {
				b[i] = 1
			}
			if kept = append(kept, b); len(kept) > 64 {
				os.Exit(0) // four gigabytes: it has no bound
			}
		}
	default:
		os.Exit(m.Run())
	}
}

func reader(as string, patience time.Duration) *apart.Reader {
	return &apart.Reader{Patience: patience, Command: func() *exec.Cmd {
		cmd := exec.CommandContext(context.Background(), os.Args[0])
		cmd.Env = append(os.Environ(), role+"="+as)
		return cmd
	}}
}

func TestReadsApart(t *testing.T) {
	r := reader("reads", time.Minute)
	defer r.Rest()
	for range 2 {
		says, err := r.Read(t.Context(), "a.txt", "text/plain", []byte("Ferns and moss"))
		require.NoError(t, err)
		assert.Equal(t, "Ferns and moss", says)
	}
	_, err := r.Read(t.Context(), "a.docx", "", []byte("no zip"))
	assert.EqualError(t, err, "it is damaged")
	r.Rest()
	says, err := r.Read(t.Context(), "a.html", "text/html", []byte("<p>Again</p>"))
	require.NoError(t, err)
	assert.Contains(t, says, "Again")
}

// Whatever becomes of the process, the file is given up, and the next one has a new process.
func TestAProcessThatBreaksOff(t *testing.T) {
	for as, patience := range map[string]time.Duration{"hangs": 10 * time.Millisecond, "dies": time.Minute, "eats": time.Minute} {
		r := reader(as, patience)
		for range 2 {
			_, err := r.Read(t.Context(), "a.txt", "text/plain", []byte("Ferns"))
			assert.ErrorIs(t, err, apart.ErrBroke, as)
		}
		r.Rest()
	}
	r := reader("hangs", time.Minute)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := r.Read(ctx, "a.txt", "text/plain", []byte("Ferns"))
	assert.ErrorIs(t, err, context.Canceled)
}
