package thread

import (
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
)

// TakeBack leaves out of what takes a step back what would leave a letter in a conversation that is no more, or give a
// place to a conversation without letters. A step that moved letters is taken back with all of them or not at all:
// lost are the conversations, in ascending order, that a letter can't go back to. gone tells that a conversation is
// no more, empty that no letter is in it now.
func TakeBack(undo []change.Recorded, gone, empty func(conversation int64) bool) (back []change.Recorded, lost []int64) {
	filled := map[int64]bool{}
	for _, u := range undo {
		into, ok := kinds.Letter.Conversation.Now(u.Change)
		switch {
		case !ok:
		case gone(into):
			lost = append(lost, into)
		default:
			filled[into] = true
		}
	}
	if len(lost) > 0 {
		slices.Sort(lost)
		return nil, slices.Compact(lost)
	}
	void := map[change.Object]bool{}
	for _, u := range undo {
		was, ok := decide.Conversation.Place.Was(u.Change)
		if now, _ := decide.Conversation.Place.Now(u.Change); ok && was == decide.Nowhere && now != was && !filled[u.ID] && empty(u.ID) {
			void[u.Object] = true
		}
	}
	return slices.DeleteFunc(slices.Clone(undo), func(u change.Recorded) bool { return void[u.Object] }), nil
}
