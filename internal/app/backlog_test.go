package app_test

import (
	"crypto/rand"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
)

// A backlog is decided on heap by heap, each one step and one undo; over days it says how it goes.
func TestABacklogGoesHeapByHeap(t *testing.T) {
	w := newWorld(t)
	for i := range 7 {
		w.receive(mail{id: fmt.Sprint("b", i, "@x"), from: "Bram <bram@freight.example>", subject: fmt.Sprint("Crate ", i)})
	}
	for i := range 4 {
		w.receive(mail{id: fmt.Sprint("o", i, "@x"), from: "Oda <oda@school.example>", subject: fmt.Sprint("Class ", i), text: "May we come on Monday?"})
	}
	w.receive(mail{id: "one@x", from: "anton@x.example", subject: "Panes"})
	first := w.titled(decide.Inbox, "Crate 6")
	_, err := w.app.Mark(w.ctx, w.who, app.Marking{Command: rand.Text(), On: []int64{first.ID}, Mark: "star"})
	require.NoError(t, err)
	view, err := w.app.Backlog(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, 12, view.N)
	assert.False(t, view.Many)
	require.Len(t, view.Heaps, 2)
	assert.Equal(t, "From Bram", view.Heaps[0].Words)
	assert.Equal(t, 6, view.Heaps[0].N)
	assert.Equal(t, "1 starred", view.Why)
	assert.Equal(t, 1, view.Rest)

	_, err = w.app.PlanBacklog(w.ctx, w.who, rand.Text(), 5)
	require.NoError(t, err)
	members, err := w.app.BacklogMembers(w.ctx, w.who, view.Heaps[0].Key)
	require.NoError(t, err)
	require.Len(t, members.On, 6)
	w.pass(time.Minute)
	w.receive(mail{id: "late@x", from: "Bram <bram@freight.example>", subject: "Since"})
	_, err = w.app.Decide(w.ctx, w.who, app.Deciding{Command: rand.Text(), Kind: decide.Done, On: members.On})
	require.NoError(t, err)
	view, err = w.app.Backlog(w.ctx, w.who)
	require.NoError(t, err)
	require.NotNil(t, view.Plan)
	assert.Equal(t, []int{12, 6, 6, 5}, []int{view.Plan.Of, view.Plan.Left, view.Plan.Today, view.Plan.Share}, "what came since is none of it")
	assert.Equal(t, "Wednesday 25 November", view.Plan.Cleared)
	_, err = w.app.BacklogMembers(w.ctx, w.who, "sender:bram@freight.example")
	assert.ErrorContains(t, err, "That heap is gone")
	w.undo()
	view, err = w.app.Backlog(w.ctx, w.who)
	require.NoError(t, err)
	assert.Equal(t, []int{12, 0}, []int{view.Plan.Left, view.Plan.Today})
	_, err = w.app.PlanBacklog(w.ctx, w.who, rand.Text(), 0)
	require.NoError(t, err)
	view, err = w.app.Backlog(w.ctx, w.who)
	require.NoError(t, err)
	assert.Nil(t, view.Plan)
	w.sound()
}
