package app_test

import (
	"crypto/rand"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
)

// smallWorld is one of two letters.
func smallWorld(now time.Time, me letter.Address) ([][]byte, error) {
	var out [][]byte
	for n := range 2 {
		out = append(out, load(900+n).sentTo(me.Email).bytes(now.Add(-time.Hour)))
	}
	return out, nil
}

// The made-up world can be looked around in, and goes away whole, with what was made of it;
// one's own letters stay.
func TestLookingAround(t *testing.T) {
	w := newWorld(t)
	at, err := w.app.Beginning(w.ctx, w.who)
	require.NoError(t, err)
	assert.False(t, at.Letters || at.Decided || at.MadeUp)
	_, err = w.app.LookAround(w.ctx, w.who, rand.Text())
	require.Error(t, err, "there is none")
	w.app.MadeUp = smallWorld
	_, err = w.app.LookAround(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	w.receive(mail{id: "mine@x.example", from: "bram@freight.example", subject: "My own"})
	rows := w.rows(decide.Inbox)
	require.Len(t, rows, 3)
	for _, r := range rows {
		if r.Title == load(900).subject {
			w.decide(decide.FollowUp, r, func(d *app.Deciding) { d.FollowUp = &app.FollowUpFields{} })
		}
	}
	at, err = w.app.Beginning(w.ctx, w.who)
	require.NoError(t, err)
	assert.True(t, at.Letters && at.Decided && at.MadeUp)
	require.NoError(t, w.app.Learn(w.ctx))
	assert.Len(t, w.lessons(), 1)
	_, err = w.app.ThrowAway(w.ctx, w.who, rand.Text())
	require.NoError(t, err)
	assert.Empty(t, w.lessons(), "what was made up teaches nothing")
	assert.Equal(t, []string{"My own"}, []string{w.row(decide.Inbox).Title})
	assert.Empty(t, w.rows(decide.Archive))
	assert.Empty(t, w.rows(decide.Bin))
	assert.Zero(t, w.overview().FollowUp)
	_, err = w.app.ThrowAway(w.ctx, w.who, rand.Text())
	require.Error(t, err, "it is gone")
	at, err = w.app.Beginning(w.ctx, w.who)
	require.NoError(t, err)
	assert.False(t, at.MadeUp)
}
