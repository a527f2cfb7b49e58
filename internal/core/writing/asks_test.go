package writing_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/writing"
)

func TestCovers(t *testing.T) {
	const crates, courier = "Can you confirm the four crate sizes?", "Which courier do you use for the last leg?"
	const day = "Does Monday 30 November suit you?"
	both := []string{crates, courier}
	for _, c := range []struct {
		name string
		asks []string
		text string
		want []int // the covering line; 0 for covered by none in particular, -1 for not
	}{
		{"nothing written", both, "", []int{-1, -1}},
		{"a greeting alone", both, "Dear Bram,\n", []int{-1, -1}},
		{"one of two", both, "Dear Bram,\n\nthe four crates are 62 × 62 × 96 cm.", []int{3, -1}},
		{"both", both, "The four crates are small.\nFor the last leg we use Harbour Carriers, a courier.", []int{1, 2}},
		{"half of the words are enough, a quarter is not", both, "I like leg rooms.", []int{-1, -1}},
		{"a date is taken up", []string{crates, day}, "The 30th is fine; Monday it is.", []int{-1, 1}},
		{"what is quoted is not one's own", both, "> Can you confirm the four crate sizes? Which courier do you use for the last leg?", []int{-1, -1}},
		{"nor is the signature", both, "Yours\n-- \nInes, courier of the last leg, crates confirmed in four sizes", []int{-1, -1}},
		{"below its quotation", both, "> Can you confirm the\n> four crate sizes?\n\nYes.\n\n> Which courier do you use for the last leg?\n", []int{4, -1}},
		{"a single one by any sentence", []string{courier}, "Dear Bram,\n\nI ask Tove.", []int{0}},
		{"a single one not by a greeting", []string{courier}, "Dear Bram,\n", []int{-1}},
		{"no asks", nil, "Yes.", []int{}},
	} {
		got := []int{}
		for i, a := range writing.Covers(c.asks, c.text) {
			assert.Equal(t, c.asks[i], a.Text)
			if !a.Covered {
				a.Line = -1
			}
			got = append(got, a.Line)
		}
		assert.Equal(t, c.want, got, c.name)
	}
}

// What is written on covers no less than before, and a line that covers is one of the text.
func TestMoreTextCoversNoLess(t *testing.T) {
	line := rapid.SampledFrom([]string{"", "Dear Bram,", "the four crates are small", "> Which courier is it?", "On Monday.", "Harbour is our courier.", "Yes."})
	asks := []string{"Can you confirm the four crate sizes?", "Which courier is it?", "Is Monday fine?"}
	rapid.Check(t, func(t *rapid.T) {
		lines := rapid.SliceOfN(line, 0, 8).Draw(t, "lines")
		more := append(lines, rapid.SliceOfN(line, 0, 4).Draw(t, "more")...)
		before, after := writing.Covers(asks, strings.Join(lines, "\n")), writing.Covers(asks, strings.Join(more, "\n"))
		for i := range asks {
			assert.False(t, before[i].Covered && !after[i].Covered, "%d by %q", i, more)
			assert.LessOrEqual(t, after[i].Line, len(more))
		}
	})
}
