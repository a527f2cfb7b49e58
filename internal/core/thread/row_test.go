package thread

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

func at(minute int) time.Time { return time.Date(2026, 11, 24, 8, minute, 0, 0, time.UTC) }

func TestTheNewestLetterFromSomebodyElseSpeaks(t *testing.T) {
	bram := Member{ID: 1, From: letter.Address{Email: "bram@x.example"}, Subject: "Crates", Ask: "When?", ReceivedAt: at(1)}
	mine := Member{ID: 2, Own: true, From: letter.Address{Email: "me@x.example"}, Subject: "Re: Crates", Ask: "Monday?", ReceivedAt: at(5), Attachments: 2}
	late := Member{ID: 3, From: letter.Address{Email: "tove@x.example"}, Subject: "Re: Crates", Ask: "Which?", ReceivedAt: at(3)}
	cases := []struct {
		name            string
		letters         []Member
		speaker, opener int64
	}{
		{"none", nil, 0, 0},
		{"one", []Member{bram}, 1, 1},
		{"mine never speaks beside another", []Member{bram, mine}, 1, 1},
		{"mine alone", []Member{mine}, 2, 2},
		{"a letter that comes late, by when it was received", []Member{mine, late, bram}, 3, 1},
		{"what is not wanted speaks least", []Member{mine, {ID: 9, Kind: sorting.TurnedAway, ReceivedAt: at(9)}}, 2, 2},
		{"unless nothing else is there", []Member{{ID: 8, Kind: sorting.Junk, ReceivedAt: at(8)}, {ID: 9, Kind: sorting.TurnedAway, ReceivedAt: at(9)}}, 9, 0},
		{"equal times: by id", []Member{{ID: 7, ReceivedAt: at(1)}, {ID: 8, ReceivedAt: at(1)}}, 8, 0},
		{"without a subject there is no opener", []Member{{ID: 7, ReceivedAt: at(1)}, {ID: 8, Subject: "x", ReceivedAt: at(2)}}, 8, 8},
	}
	for _, c := range cases {
		r := RowOf(c.letters)
		assert.Equal(t, c.speaker, r.Speaker.ID, c.name)
		assert.Equal(t, c.opener, r.Opener.ID, c.name)
		assert.Equal(t, len(c.letters), r.Letters, c.name)
	}
	assert.Equal(t, 2, RowOf([]Member{bram, mine}).Attachments)
	folded := RowOf([]Member{bram, {ID: 9, Kind: sorting.TurnedAway, ReceivedAt: at(9)}})
	assert.Equal(t, []any{2, int64(1), at(1)}, []any{folded.Letters, folded.Last, folded.LastAt}, "what is not wanted is no news")
}

func TestARowDoesNotDependOnTheOrderOfItsLetters(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "letters")
		letters := make([]Member, n)
		for i := range letters {
			letters[i] = Member{
				ID: int64(i + 1), Own: rapid.Bool().Draw(t, "own"), Subject: rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "subject"),
				Kind:       rapid.SampledFrom([]sorting.Kind{sorting.Person, sorting.Junk}).Draw(t, "kind"),
				ReceivedAt: at(rapid.IntRange(0, 4).Draw(t, "minute")), Attachments: rapid.IntRange(0, 2).Draw(t, "attachments"),
			}
		}
		assert.Equal(t, RowOf(letters), RowOf(rapid.Permutation(letters).Draw(t, "order")))
	})
}
