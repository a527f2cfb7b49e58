package app_test

import (
	"context"
	"crypto/rand"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/post"
)

// offering is a mail server for sending that says what it offers.
type offering struct {
	*keeper
	post.Offers
}

func (o offering) Try(context.Context) (post.Offers, error) { return o.Offers, nil }

// An account writes no larger letters than its mail server takes, whatever was chosen before;
// a server that takes more changes nothing.
func TestALettersLimitIsThatOfItsServer(t *testing.T) {
	w := onAServer(t)
	offers := post.Offers{Most: 200 << 20, Tells: true}
	w.app.Submit = func(post.Server, post.Login) app.Sender { return offering{w.post, offers} }
	with := app.Connecting{Account: w.account, Login: w.login, Password: sesame, Incoming: w.server, Outgoing: w.server}
	tried, err := w.app.TryServers(w.ctx, w.who, with)
	require.NoError(t, err)
	assert.Equal(t, []any{offers.Most, true}, []any{tried.Outgoing.Most, tried.Outgoing.Tells})
	for _, c := range []struct{ most, want int64 }{{200 << 20, writing.UsualLimit}, {0, writing.UsualLimit}, {10 << 20, 10 << 20}} {
		offers.Most = c.most
		out, err := w.app.Connect(w.ctx, w.who, rand.Text(), with)
		require.NoError(t, err)
		accounts, err := w.app.Accounts(w.ctx, w.who)
		require.NoError(t, err)
		assert.Equal(t, c.want, accounts[1].SizeLimit)
		assert.Equal(t, c.want < writing.UsualLimit, strings.Contains(out.Title, "it takes letters up to 10.0 MB"))
	}
	w.app.StopSyncing()
}
