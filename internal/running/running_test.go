package running_test

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"net/smtp"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/running"
	"ebbe.example/ebbe/internal/store"
)

func options(t *testing.T) running.Options {
	return running.Options{
		File: filepath.Join(t.TempDir(), "new", "ebbe.db"), Web: "127.0.0.1:0", Mail: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler),
	}
}

// It is reached by web and mail until it is stopped, and at the same places again
// when it is started anew.
func TestItRunsAndStops(t *testing.T) {
	o := options(t)
	e, err := running.Start(t.Context(), o)
	require.NoError(t, err)
	answer, err := http.Get("http://" + e.Web + "/api/session")
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	assert.Less(t, answer.StatusCode, 500)
	post, err := smtp.Dial(e.Mail)
	require.NoError(t, err)
	require.NoError(t, post.Hello("outside.example"))
	require.NoError(t, post.Close())
	require.NoError(t, e.Stop())

	_, err = net.Dial("tcp", e.Web)
	assert.Error(t, err)
	_, err = net.Dial("tcp", e.Mail)
	assert.Error(t, err)

	o.Web, o.Mail = e.Web, e.Mail
	again, err := running.Start(t.Context(), o)
	require.NoError(t, err)
	assert.Equal(t, e.Web, again.Web)
	require.NoError(t, again.Stop())
}

// What it can't have it leaves as it was: nothing is held that somebody else needs.
func TestAnAddressThatIsTaken(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { require.NoError(t, taken.Close()) }()
	for _, which := range []func(*running.Options){
		func(o *running.Options) { o.Web = taken.Addr().String() },
		func(o *running.Options) { o.Mail = taken.Addr().String() },
	} {
		o := options(t)
		which(&o)
		_, err := running.Start(t.Context(), o)
		require.ErrorContains(t, err, "address already in use")
		s, err := store.Open(o.File)
		require.NoError(t, err)
		require.NoError(t, s.Close())
	}
}

// Whoever waits is told when it is over, by whatever ends it.
func TestWaiting(t *testing.T) {
	e, err := running.Start(t.Context(), options(t))
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	stop()
	assert.NoError(t, e.Wait(ctx))
	require.NoError(t, e.Stop())
	assert.NoError(t, e.Wait(t.Context()), "stopped, it has ended well")
}
