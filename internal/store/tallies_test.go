package store

import (
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
)

// Whatever moves, in order or not, many at once, taken back, at this inbox or
// another: what is counted is what the history comes to, and counting all of it anew
// makes no difference.
func TestWhatMovesIsCounted(t *testing.T) {
	s, ines := open(t)
	tove, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, time.Now())
	require.NoError(t, err)
	dawn, failed := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC), errors.New("it broke off")
	entries := 0
	places := []decide.Place{decide.Inbox, decide.Shallows, decide.Archive, decide.Later, decide.Bin}
	there := map[int64]map[int64]decide.Place{ines.Inbox: {}, tove.Inbox: {}}
	count := func(t *rapid.T, tx *Tx) (counted, tides string) {
		require.NoError(t, tx.db.Raw("SELECT coalesce(json_group_array(json_array(owner, place, n)), '') FROM (SELECT * FROM place_counts ORDER BY owner, place)").Row().Scan(&counted))
		require.NoError(t, tx.db.Raw("SELECT coalesce(json_group_array(json_array(owner, minute, last_at, sum, before, top, low, low_at)), '') FROM (SELECT * FROM tides ORDER BY owner, minute)").Row().Scan(&tides))
		return counted, tides
	}
	rapid.Check(t, func(rt *rapid.T) {
		at := dawn.Add(time.Duration(rapid.IntRange(0, 400).Draw(rt, "seconds")) * time.Second)
		who := rapid.SampledFrom([]Who{ines, tove}).Draw(rt, "who")
		takenBack := rapid.IntRange(0, 3).Draw(rt, "taken back") == 0
		random := rand.New(rand.NewPCG(rapid.Uint64().Draw(rt, "seed"), 1)) // what is drawn within an attempt would be recovered from
		moved := map[int64]decide.Place{}
		err := s.Write(t.Context(), who, func(tx *Tx) error {
			err := tx.Attempt(func() error {
				entries++
				entry, err := tx.AddEntry(Entry{CommandID: fmt.Sprint("c", entries), Kind: "k", Actor: "person", Title: "t", At: at, RecordedAt: at})
				if err != nil {
					return err
				}
				for range random.IntN(7) {
					id, err := tx.AddConversation("")
					if err != nil {
						return err
					}
					place := places[random.IntN(2)]
					if err := errors.Join(tx.Settle(id, place, entry, at), tx.Settle(id, place, entry, at)); err != nil { // the second finds it there
						return err
					}
					moved[id] = place
				}
				var changes change.List
				for _, id := range slices.Sorted(maps.Keys(there[who.Inbox])) {
					was, now := there[who.Inbox][id], places[random.IntN(len(places))]
					if now != was && random.IntN(2) == 0 {
						decide.Conversation.Place.Set(&changes, id, was, now)
						moved[id] = now
					}
				}
				if err := tx.Apply(entry, at, changes); err != nil {
					return err
				}
				if takenBack {
					return failed
				}
				return nil
			})
			if !errors.Is(err, failed) {
				return err
			}
			moved = nil
			return nil
		})
		require.NoError(rt, err)
		maps.Copy(there[who.Inbox], moved)
		require.NoError(rt, s.Write(t.Context(), ines, func(tx *Tx) error {
			wrong, err := tx.differingTallies()
			assert.Empty(rt, wrong)
			for owner, conversations := range there {
				lying := map[decide.Place]int{}
				for _, p := range conversations {
					lying[p]++
				}
				for _, place := range []decide.Place{decide.Inbox, decide.Shallows} {
					kept, err := tx.at(owner).Undecided(place)
					require.NoError(rt, err)
					assert.Equal(rt, lying[place], kept)
				}
			}
			inboxes, tides := count(rt, tx)
			require.NoError(rt, recount(tx.db))
			again, tidesAgain := count(rt, tx)
			assert.Equal(rt, inboxes, again)
			assert.Equal(rt, tides, tidesAgain)
			return err
		}))
	})
}
