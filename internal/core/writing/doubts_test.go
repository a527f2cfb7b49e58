package writing_test

import (
	"encoding/base64"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
)

func TestDoubts(t *testing.T) {
	known := []string{"freight.example", "norrholm.example"}
	tove := letter.Address{Name: "Tove", Email: "Tove@norrholm.example"}
	eleven := make([]string, 11)
	for i := range eleven {
		eleven[i] = fmt.Sprintf("p%d@freight.example", i)
	}
	for name, c := range map[string]struct {
		in   writing.Letter
		want []writing.DoubtKind
	}{
		"nothing":                          {in: writing.Letter{Text: "Yes.", Receivers: []string{"bram@freight.example"}, Known: known}},
		"a file that isn't there":          {in: writing.Letter{Text: "The plan is attached."}, want: []writing.DoubtKind{writing.NoAttachment}},
		"in another language":              {in: writing.Letter{Text: "Vedlagt er planen."}, want: []writing.DoubtKind{writing.NoAttachment}},
		"a file that is there":             {in: writing.Letter{Text: "The plan is attached.", Files: 1}},
		"another spoke of a file":          {in: writing.Letter{Text: "Thanks.\n> The plan is attached."}},
		"we are attached to you":           {in: writing.Letter{Text: "Unattached, we wait."}},
		"an ask left open":                 {in: writing.Letter{Text: "Yes.", Asks: []writing.Ask{{Text: "a?", Covered: true}, {Text: "b?"}}}, want: []writing.DoubtKind{writing.Uncovered}},
		"a colleague left out":             {in: writing.Letter{ToAll: true, Receivers: eleven[:1], Colleagues: []letter.Address{tove}, Known: known}, want: []writing.DoubtKind{writing.Missing}},
		"an answer to one leaves out many": {in: writing.Letter{Receivers: eleven[:1], Colleagues: []letter.Address{tove}, Known: known}},
		"a colleague who gets it":          {in: writing.Letter{ToAll: true, Receivers: []string{"tove@norrholm.example"}, Colleagues: []letter.Address{tove}, Known: known}},
		"a domain mistyped":                {in: writing.Letter{Receivers: []string{"bram@frieght.example"}, Known: known}, want: []writing.DoubtKind{writing.LikeAnother}},
		"a domain that is just new":        {in: writing.Letter{Receivers: []string{"bram@museum.example"}, Known: known}},
		"an answer to eleven":              {in: writing.Letter{ToAll: true, Receivers: eleven, Known: known}, want: []writing.DoubtKind{writing.ToMany}},
		"a letter to eleven":               {in: writing.Letter{Receivers: eleven, Known: known}},
		"an answer to ten":                 {in: writing.Letter{ToAll: true, Receivers: eleven[:10], Known: known}},
	} {
		var got []writing.DoubtKind
		for _, d := range writing.Doubts(c.in) {
			got = append(got, d.Kind)
			assert.NotEmpty(t, d.Words)
		}
		assert.Equal(t, c.want, got, name)
	}
}

// A word that one slip makes of another is doubted, whatever the slip; the word itself and
// one of two slips at both ends are not.
func TestOneSlip(t *testing.T) {
	doubted := func(domain string) bool {
		return len(writing.Doubts(writing.Letter{Receivers: []string{"a@" + domain}, Known: []string{"freight.example"}})) > 0
	}
	rapid.Check(t, func(t *rapid.T) {
		right := "freight.example"
		at := rapid.IntRange(0, len(right)-2).Draw(t, "at")
		other := rapid.SampledFrom([]string{"z", "0", "å"}).Draw(t, "sign")
		for _, slip := range []string{right[:at] + other + right[at:], right[:at] + right[at+1:], right[:at] + other + right[at+1:]} {
			assert.True(t, doubted(slip), slip)
		}
		if swapped := right[:at] + right[at+1:at+2] + right[at:at+1] + right[at+2:]; swapped != right {
			assert.True(t, doubted(swapped), swapped)
		}
		assert.False(t, doubted(right))
		assert.False(t, doubted("x"+right[:len(right)-1]+"x"))
	})
}

func TestSent(t *testing.T) {
	for _, n := range []int{0, 1, 2, 3, 56, 57, 58, 1000, 99_999} {
		text := base64.StdEncoding.EncodeToString(make([]byte, n))
		assert.Equal(t, int64(len(text)+(len(text)+75)/76*2), writing.Sent(int64(n)))
	}
	_, ok := writing.Fits([]int64{10 << 20, 8 << 20}, writing.UsualLimit)
	assert.True(t, ok)
	words, ok := writing.Fits([]int64{10 << 20, 9 << 20}, writing.UsualLimit)
	assert.False(t, ok)
	assert.Equal(t, "With its files the letter has 26.0 MB; this account sends up to 25.0 MB.", words)
}

func TestLimit(t *testing.T) {
	for _, c := range []struct{ chosen, taken, want int64 }{
		{25 << 20, 0, 25 << 20}, // nothing is said
		{25 << 20, 10 << 20, 10 << 20},
		{25 << 20, 35 << 20, 25 << 20},
		{25 << 20, 1000, writing.LeastLimit},
	} {
		assert.Equal(t, c.want, writing.Limit(c.chosen, c.taken), c)
	}
}

func TestColleagues(t *testing.T) {
	all := []letter.Address{{Email: "Tove@Norrholm.example"}, {Email: "ines@norrholm.example"}, {Email: "eva@x.example"}, {Name: "List"}, {Email: "a@my.norrholm.example"}}
	assert.Equal(t, all[:1], writing.Colleagues(all, []string{"ines@norrholm.example", "ines@home.example"}))
	assert.Empty(t, writing.Colleagues(all, nil))
}
