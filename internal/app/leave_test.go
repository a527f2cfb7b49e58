package app_test

import (
	"context"
	"crypto/rand"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/show"
)

// madeUpLists believes every signature, or none, and notes what is left.
type madeUpLists struct {
	signed bool
	err    error
	left   []string
}

func (l *madeUpLists) Signed([]byte) bool { return l.signed }
func (l *madeUpLists) Leave(_ context.Context, address string) error {
	l.left = append(l.left, address)
	return l.err
}

func (w *world) unsubscribe(id int64) (app.Decided, error) {
	return w.app.Unsubscribe(w.ctx, w.who, rand.Text(), id)
}

const (
	byClick = "List-Id: Moss <moss.list.example>\r\nList-Unsubscribe: <https://moss.example/leave?me>, <mailto:leave@moss.example?subject=leave>\r\nList-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n"
	byPage  = "List-Unsubscribe: <https://moss.example/page>\r\n"
)

// A list is left by one click only where a signature covers that; else by a letter, which waits in the
// outbox and is undone there; and never by a page, nor for junk.
func TestLeavingAList(t *testing.T) {
	w := newWorld(t)
	outside := &madeUpLists{signed: true}
	w.app.Lists = outside
	issue := func(n, extra string) show.Letter {
		w.receive(mail{id: n + "@moss.example", from: "news@moss.example", subject: "Issue " + n, extra: extra})
		opened := w.open(w.titled(decide.Shallows, "Issue "+n).ID)
		return opened.LetterList[0]
	}
	first := issue("1", byClick)
	require.NotNil(t, first.Body.Leave)
	assert.Equal(t, show.Way{By: letter.ByOneClick, To: "https://moss.example/leave?me"}, *first.Body.Leave)
	assert.Empty(t, outside.left, "never by itself")
	outside.err = errors.New("moss.example answered with 500")
	_, err := w.unsubscribe(first.ID)
	require.ErrorContains(t, err, "The list has not taken it: moss.example answered with 500")
	outside.err = nil
	out, err := w.unsubscribe(first.ID)
	require.NoError(t, err)
	assert.Equal(t, "Unsubscribed from list moss.list.example", out.Title)
	assert.Len(t, outside.left, 2)
	assert.Equal(t, decide.Shallows, w.lies("Issue 1"), "it decides nothing")

	outside.signed = false
	second := issue("2", byClick)
	assert.Equal(t, show.Way{By: letter.ByLetter, To: "leave@moss.example", Asked: second.Body.Leave.Asked, Since: 1}, *second.Body.Leave)
	w.pass(11 * 24 * time.Hour)
	assert.False(t, w.open(w.titled(decide.Shallows, "Issue 2").ID).LetterList[0].Body.Leave.Late, "nothing came after its time")
	w.receive(mail{id: "3@moss.example", from: "other@moss.example", subject: "Issue 3", extra: byClick})
	list, err := w.app.Corrections(w.ctx, w.who)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, []any{sorting.Left, 2, true}, []any{list[0].Kind, list[0].Took, list[0].Late})

	out, err = w.unsubscribe(second.ID)
	require.NoError(t, err)
	assert.Equal(t, "Unsubscribed from list moss.list.example, by a letter to leave@moss.example", out.Title)
	w.undo()
	w.pass(time.Minute)
	assert.Empty(t, w.post.sent, "it was taken back before it left")
	_, err = w.unsubscribe(second.ID)
	require.NoError(t, err)
	w.pass(time.Minute)
	require.Len(t, w.post.sent, 1)
	sent := letter.Parse(w.post.sent[0])
	assert.Equal(t, []any{"leave", "ines@norrholm.example"}, []any{sent.Subject, sent.From.Email})
	assert.Equal(t, []string{"leave@moss.example"}, w.post.to[0])
	assert.Empty(t, w.rows(decide.Archive), "it is no letter of mine")
	w.receive(mail{id: "l@moss.example", from: "leave@moss.example", subject: "Goodbye", extra: byMachine})
	assert.Equal(t, decide.Shallows, w.lies("Goodbye"), "leaving a list is not writing to somebody")

	third := issue("4", byPage)
	_, err = w.unsubscribe(third.ID)
	require.ErrorContains(t, err, "left on its page: https://moss.example/page")
	_, err = w.refuse(sorting.Junk, sorting.ByAddress, w.titled(decide.Shallows, "Issue 2"))
	require.NoError(t, err)
	_, err = w.unsubscribe(second.ID)
	require.ErrorContains(t, err, "Whoever sends junk is told nothing")
	w.receive(bramAsks)
	_, err = w.unsubscribe(w.open(w.titled(decide.Inbox, "Crates").ID).LetterList[0].ID)
	require.ErrorContains(t, err, "says of no list how it is left")
}
