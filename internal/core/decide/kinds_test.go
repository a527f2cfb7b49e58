package decide

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/when"
)

// The tables are whole: each decision once, with words, a key of its own and a place
// to lead to; each place once, with words.
func TestTheTablesAreWhole(t *testing.T) {
	kinds, keys, decks := map[Kind]bool{}, map[string]bool{}, 0
	for i, d := range Kinds {
		assert.False(t, kinds[d.Kind], d.Kind)
		assert.False(t, keys[d.Key], d.Key)
		kinds[d.Kind], keys[d.Key] = true, true
		assert.NotEmpty(t, d.Name, d.Kind)
		assert.NotEmpty(t, d.Did, d.Kind)
		assert.Equal(t, d.To, d.To.About().Place, d.Kind)
		assert.NotEqual(t, Nowhere, d.To, d.Kind)
		assert.Contains(t, []Needs{Nothing, ALetter, ATime, AFollowUp, SomeLabels}, d.Needs, d.Kind)
		if d.Deck {
			assert.Equal(t, decks, i, "those of the deck come first")
			decks++
		}
	}
	assert.Equal(t, 7, decks)
	assert.Zero(t, Kind("put in the fire").About())
	assert.Zero(t, Place("elsewhere").About())

	places := map[Place]bool{}
	for _, p := range PlaceTable {
		assert.False(t, places[p.Place], p.Place)
		places[p.Place] = true
		assert.NotEmpty(t, p.Where, p.Place)
		assert.False(t, p.Viewed && !p.Listed, "%s: a view without a list", p.Place)
		if p.Place != Nowhere {
			assert.NotEmpty(t, p.Name, p.Place)
			assert.NotEmpty(t, p.Order, p.Place)
		}
		undecided := p.Place == Nowhere || p.Place == Inbox || p.Place == Shallows
		assert.Equal(t, !undecided, p.Back != "", "%s: what brings it back has a name", p.Place)
	}
	assert.Len(t, Places(), len(PlaceTable))
}

// state makes conversations as they can stand.
func state() *rapid.Generator[State] {
	return rapid.Custom(func(t *rapid.T) State {
		s := State{
			ID: 7, Place: rapid.SampledFrom(Places()[1:]).Draw(t, "place"), PutOffs: rapid.IntRange(0, 4).Draw(t, "put-offs"),
			Last: rapid.Int64Range(1, 9).Draw(t, "last"), Quiet: rapid.Bool().Draw(t, "quiet"),
		}
		s.Decided = rapid.Int64Range(0, s.Last).Draw(t, "decided")
		if s.Place == Later {
			at := time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC)
			s.Return = &Return{When: when.Moment{UTC: at.Add(time.Hour), Precision: when.ToMinute}, SetAt: at, Since: at}
		}
		return s
	})
}

// after is a conversation after the changes of a decision.
func after(s State, d Decision) State {
	for _, c := range Decide(s, d) {
		if place, ok := Conversation.Place.Now(c); ok {
			s.Place = place
		}
		if decided, ok := Conversation.Decided.Now(c); ok {
			s.Decided = decided
		}
	}
	return s
}

// From wherever it is made, a decision leads where the table says, or where its own
// time does; unless a letter came that it has not seen, which keeps it in the inbox.
func TestDecisionsLeadWhereTheTableSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := state().Draw(t, "state")
		d := Decision{
			Kind: rapid.SampledFrom(Kinds).Draw(t, "kind").Kind, At: time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC),
			Saw: rapid.Int64Range(1, s.Last).Draw(t, "saw"), Stay: rapid.Bool().Draw(t, "stay"),
		}
		if d.Kind == PutOff || rapid.Bool().Draw(t, "timed") && d.Kind == FollowUp {
			d.When = &when.Moment{UTC: d.At.Add(24 * time.Hour), Precision: when.ToMinute}
		}
		to := d.Kind.About().To
		if d.Stay {
			to = s.Place
		}
		if d.When != nil {
			to = Later
		}
		misses := Misses(s, d)
		if misses {
			assert.Greater(t, s.Last, d.Saw)
			to = Inbox
		}
		now := after(s, d)
		assert.Equal(t, to, now.Place)
		assert.Equal(t, max(s.Decided, d.Saw), now.Decided, "what was seen is decided, and never less than before")
		if d.Saw == s.Last {
			assert.False(t, misses, "who saw all of it misses nothing")
		}
	})
}
