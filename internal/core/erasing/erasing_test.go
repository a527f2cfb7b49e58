package erasing

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/waiting"
)

var bram = []string{"bram@freight.example", "bo@home.example"}

func TestWhatOfAConversationGoes(t *testing.T) {
	from := func(id int64, who string) Letter { return Letter{ID: id, From: who} }
	to := func(id int64, whom ...string) Letter {
		return Letter{ID: id, From: "ines@norrholm.example", Own: true, To: whom}
	}
	for _, c := range []struct {
		name    string
		letters []Letter
		goes    []int64
		whole   bool
		mine    bool // only the owner's is left
	}{
		{"between the two", []Letter{from(1, bram[0]), to(2, bram[0]), from(3, bram[1])}, []int64{1, 3, 2}, true, false},
		{"never answered", []Letter{from(1, bram[0])}, []int64{1}, true, false},
		{"never answered by them", []Letter{to(1, bram[1])}, []int64{1}, true, false},
		{"to both addresses", []Letter{to(1, bram...)}, []int64{1}, true, false},
		{"somebody else wrote", []Letter{from(1, bram[0]), from(2, "tove@norrholm.example")}, []int64{1}, false, false},
		{"to somebody else too", []Letter{from(1, bram[0]), to(2, bram[0], "tove@norrholm.example")}, []int64{1}, false, true},
		{"only to others", []Letter{from(1, "tove@norrholm.example"), to(2, "tove@norrholm.example")}, nil, false, false},
		{"to nobody who is named", []Letter{from(1, bram[0]), to(2)}, []int64{1}, false, true},
		{"a name in capitals is somebody else until it is a key", []Letter{from(1, "Bram@freight.example")}, nil, false, false},
		{"nothing", nil, nil, true, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := Of(c.letters, bram)
			assert.Equal(t, c.goes, s.Goes())
			assert.Equal(t, c.whole, s.Whole())
			assert.Equal(t, c.mine, s.Answered())
		})
	}
}

// Each letter goes or stays, and nothing that somebody else wrote or got goes.
func TestNothingOfOthersGoes(t *testing.T) {
	anybody := rapid.SampledFrom(append([]string{"tove@norrholm.example", "oda@school.example"}, bram...))
	rapid.Check(t, func(rt *rapid.T) {
		var letters []Letter
		for i := range rapid.IntRange(0, 8).Draw(rt, "letters") {
			letters = append(letters, Letter{ID: int64(i), From: anybody.Draw(rt, "from"), Own: rapid.Bool().Draw(rt, "own"), To: rapid.SliceOfN(anybody, 0, 3).Draw(rt, "to")})
		}
		s := Of(letters, bram)
		assert.Len(rt, slices.Concat(s.Goes(), s.Others, s.Shared), len(letters))
		for _, id := range s.Goes() {
			l := letters[id]
			about := l.To
			if !l.Own {
				about = []string{l.From}
			}
			for _, a := range about {
				assert.Contains(rt, bram, a)
			}
		}
	})
}

func TestWhoIsWaitedForNoMore(t *testing.T) {
	for _, c := range []struct {
		name              string
		persons, answered []string
		left              []string
		over              bool
	}{
		{"them alone", bram[:1], nil, []string{}, true},
		{"somebody else too", []string{bram[0], "oda@school.example"}, nil, []string{"oda@school.example"}, false},
		{"the others have answered", []string{bram[0], "oda@school.example"}, []string{"oda@school.example"}, []string{"oda@school.example"}, true},
		{"somebody else", []string{"oda@school.example"}, nil, []string{"oda@school.example"}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			persons, _, over := Without(waiting.Expectation{Persons: c.persons, All: true, Answered: c.answered}, bram)
			assert.Equal(t, c.left, persons)
			assert.Equal(t, c.over, over)
		})
	}
}
