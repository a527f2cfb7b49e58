package thread

import (
	"slices"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
)

// TakeBack leaves out of what takes a step back what would leave a letter in a conversation that is no more, or a
// conversation in a place without letters. A step that moved letters is taken back with all of them or not at all:
// lost are the conversations, in ascending order, that a letter can't go back to. gone tells that a conversation is
// no more, letters how many are in it now.
func TakeBack(undo []change.Recorded, gone func(conversation int64) bool, letters func(conversation int64) int) (back []change.Recorded, lost []int64) {
	come, left := map[int64]int{}, map[int64]bool{}
	for _, u := range undo {
		from, ok := kinds.Letter.Conversation.Was(u.Change)
		if !ok {
			continue
		}
		into, _ := kinds.Letter.Conversation.Now(u.Change)
		if gone(into) {
			lost = append(lost, into)
		}
		come[into]++
		come[from]--
		left[from] = true
	}
	if len(lost) > 0 {
		slices.Sort(lost)
		return nil, slices.Compact(lost)
	}
	empty := func(conversation int64) bool { return letters(conversation)+come[conversation] == 0 }
	void := map[change.Object]bool{}
	for _, u := range undo {
		if was, ok := decide.Conversation.Place.Was(u.Change); ok {
			switch now, _ := decide.Conversation.Place.Now(u.Change); {
			case now == decide.Nowhere:
				delete(left, u.ID)
			case was == decide.Nowhere && empty(u.ID):
				void[u.Object] = true
			}
		}
	}
	for from := range left { // these keep their place
		if empty(from) {
			return nil, nil
		}
	}
	return slices.DeleteFunc(slices.Clone(undo), func(u change.Recorded) bool { return void[u.Object] }), nil
}
