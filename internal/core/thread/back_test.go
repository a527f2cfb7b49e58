package thread_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/thread"
)

// Letters go back only into what is still there, and no place is given to what has no letters.
func TestTakeBack(t *testing.T) {
	const gone, empty, full = 1, 2, 3 // full has two letters
	letter := func(id, from, into int64) change.Change {
		var l change.List
		kinds.Letter.Conversation.Set(&l, id, from, into)
		return l[0]
	}
	place := func(id int64, was, now decide.Place) change.Change {
		var l change.List
		decide.Conversation.Place.Set(&l, id, was, now)
		return l[0]
	}
	redirect := change.Change{Object: decide.Conversation.Kind.Of(empty), Field: decide.Conversation.Redirect.Name, Was: change.Value(full), Now: change.Value(0)}
	for name, c := range map[string]struct {
		undo, want []change.Change
		lost       []int64
	}{
		"nothing":                             {},
		"a letter into what is there":         {[]change.Change{letter(9, full, empty)}, []change.Change{letter(9, full, empty)}, nil},
		"one of two into what is gone":        {[]change.Change{letter(8, full, empty), letter(9, full, gone), place(full, decide.Inbox, decide.Nowhere)}, nil, []int64{gone}},
		"two into what is gone":               {[]change.Change{letter(8, full, gone), letter(9, full, gone)}, nil, []int64{gone}},
		"a place with its letters":            {[]change.Change{letter(9, full, empty), place(empty, decide.Nowhere, decide.Inbox), redirect}, []change.Change{letter(9, full, empty), place(empty, decide.Nowhere, decide.Inbox), redirect}, nil},
		"all letters of what keeps its place": {[]change.Change{letter(8, full, empty), letter(9, full, empty), place(empty, decide.Nowhere, decide.Inbox)}, nil, nil},
		"all letters with the place": {[]change.Change{letter(8, full, empty), letter(9, full, empty), place(full, decide.Inbox, decide.Nowhere)},
			[]change.Change{letter(8, full, empty), letter(9, full, empty), place(full, decide.Inbox, decide.Nowhere)}, nil},
		"a place without letters":           {[]change.Change{place(empty, decide.Nowhere, decide.Inbox), redirect, place(full, decide.Bin, decide.Inbox)}, []change.Change{place(full, decide.Bin, decide.Inbox)}, nil},
		"a place for what has letters now":  {[]change.Change{place(full, decide.Nowhere, decide.Inbox)}, []change.Change{place(full, decide.Nowhere, decide.Inbox)}, nil},
		"what is empty loses its place":     {[]change.Change{place(empty, decide.Inbox, decide.Nowhere)}, []change.Change{place(empty, decide.Inbox, decide.Nowhere)}, nil},
		"what is empty goes somewhere else": {[]change.Change{place(empty, decide.Bin, decide.Inbox)}, []change.Change{place(empty, decide.Bin, decide.Inbox)}, nil},
	} {
		t.Run(name, func(t *testing.T) {
			var undo []change.Recorded
			for _, u := range c.undo {
				undo = append(undo, change.Recorded{Change: u})
			}
			back, lost := thread.TakeBack(undo, func(id int64) bool { return id == gone }, func(id int64) int { return map[int64]int{full: 2}[id] })
			var got []change.Change
			for _, b := range back {
				got = append(got, b.Change)
			}
			assert.Equal(t, c.want, got)
			assert.Equal(t, c.lost, lost)
		})
	}
}
