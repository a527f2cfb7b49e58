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

func TestNames(t *testing.T) {
	addresses, names := []string{"bo@x.example"}, []string{"Bo", "Lise Bo", "An"}
	for text, want := range map[string]bool{
		"bo@x.example": true, `{"email":"Bo@X.example"}`: true, "Sent to bo@x.example.": true, "<bo@x.example>, and": true, "mailto:bo@x.example?subject=x": true,
		`["Bo \u003cbo@x.example\u003e"]`: true, `"To:\nbo@x.example\n"`: true, `"\"bo@x.example\""`: true,
		"lisebo@x.example": false, "nils.bo@x.example": false, "nils-bo@x.example": false, "bo@x.example.org": false, "bo@x.examples": false, "øbo@x.example": false,
		"lisebo@x.example and bo@x.example": true, "Letter from Lise Bo": true, "lise bo’s crates": true, "Lise Bohr": false, "Bo and Lise": false,
		"Answered Bo": false, "An answer": false, "": false,
	} {
		assert.Equal(t, want, Names(text, addresses, names), text)
	}
	assert.False(t, Names("anything", []string{""}, []string{""}))
}

// Whatever stands about an address, it is found, and never within a longer one.
func TestAnAddressIsFoundWherever(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		about := rapid.StringMatching(`[ "<>,;:()\[\]{}“”]{1,3}`)
		text := rapid.StringMatching(`[a-z@. ]{0,20}`).Draw(rt, "text") + about.Draw(rt, "before") + "bo@x.example" + about.Draw(rt, "after")
		assert.True(rt, Names(text, []string{"bo@x.example"}, nil), text)
		longer := rapid.StringMatching(`[a-z0-9.+_-]`).Draw(rt, "more") + "bo@x.example"
		assert.False(rt, Names(longer, []string{"bo@x.example"}, nil), longer)
	})
}
