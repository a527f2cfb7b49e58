package junk_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/junk"
	"ebbe.example/ebbe/internal/core/letter"
)

func ExampleFeatures() {
	l := letter.Letter{From: letter.Address{Email: "win@prize.example"}, ReplyTo: []letter.Address{{Email: "x@else.example"}}, Subject: "YOUR PRIZE WAITS", Text: "Claim it.\n"}
	fmt.Println(strings.Join(junk.Features(l), ", "))
	// Output: #a loud subject, #answers go elsewhere, #from prize.example, #no name, claim, prize, waits, your
}

// Junk speaks of one thing mostly, others of another; some words are of both.
func examples(r *rand.Rand, n int, noise float64) (out []junk.Example) {
	sort := func(isJunk bool) []string {
		f := []string{"hello", fmt.Sprintf("word%d", r.IntN(200))}
		for i := range 12 {
			of := isJunk
			if r.Float64() < noise {
				of = !of
			}
			if of {
				f = append(f, fmt.Sprintf("prize%d", (i*7+r.IntN(30))%40))
			} else {
				f = append(f, fmt.Sprintf("crate%d", (i*7+r.IntN(30))%40))
			}
		}
		return f
	}
	for i := range n {
		out = append(out, junk.Example{Features: sort(i%3 == 0), Junk: i%3 == 0})
	}
	return out
}

func TestJunkIsLearned(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	m := junk.Learn(examples(r, 600, 0.1))
	require.NotNil(t, m)
	taken, wrong, right := 0, 0, 0
	for _, e := range examples(r, 900, 0.1) {
		p, because := m.Of(e.Features)
		if p < junk.Takes {
			continue
		}
		require.Len(t, because, 3)
		taken++
		if e.Junk {
			right++
		} else {
			wrong++
		}
	}
	assert.Greater(t, right, 200, "of 300")
	assert.LessOrEqual(t, wrong, taken/50)
}

// What it says comes true about as often as it says, also where words tell little.
func TestItsChancesAreHonest(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	m := junk.Learn(examples(r, 900, 0.42))
	require.NotNil(t, m)
	var sum, came [5]float64
	var n [5]float64
	for _, e := range examples(r, 6000, 0.42) {
		p, _ := m.Of(e.Features)
		b := min(int(p*5), 4)
		n[b]++
		sum[b] += p
		if e.Junk {
			came[b]++
		}
	}
	for b := range n {
		if n[b] > 200 {
			assert.InDelta(t, sum[b]/n[b], came[b]/n[b], 0.1, "%d of %v", b, n)
		}
	}
}

// Few letters say nothing; the same letters say the same, in whatever order.
func TestFewSayNothingAndOrderIsNothing(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	list := examples(r, 120, 0.1)
	assert.Nil(t, junk.Learn(list[:30]))
	p, because := (*junk.Model)(nil).Of([]string{"prize1"})
	assert.Zero(t, p)
	assert.Empty(t, because)
	m := junk.Learn(list)
	rapid.Check(t, func(t *rapid.T) {
		other := junk.Learn(rapid.Permutation(list).Draw(t, "order"))
		of := list[rapid.IntRange(0, len(list)-1).Draw(t, "letter")].Features
		p, because := m.Of(of)
		q, also := other.Of(of)
		assert.InDelta(t, p, q, 1e-6)
		assert.Equal(t, because, also)
	})
	j, f := m.Lessons()
	assert.Equal(t, []int{40, 80}, []int{j, f})
}

// Twenty letters can't make it sure, however clear they are.
func TestFewLettersNeverTakeOne(t *testing.T) {
	var list []junk.Example
	for i := range 40 {
		list = append(list, junk.Example{Features: []string{[]string{"crate", "prize"}[i%2], fmt.Sprint(i)}, Junk: i%2 == 1})
	}
	p, _ := junk.Learn(list).Of([]string{"prize"})
	assert.Greater(t, p, 0.9)
	assert.Less(t, p, junk.Takes)
}

func FuzzFeatures(f *testing.F) {
	f.Add("From: <a@b.example>\r\nSubject: =?utf-8?q?=F0=9F=8E=81?=\r\n\r\nGift\r\n")
	f.Fuzz(func(t *testing.T, raw string) {
		got := junk.Features(letter.Parse([]byte(raw)))
		assert.LessOrEqual(t, len(got), 160)
	})
}
