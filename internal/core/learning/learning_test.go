package learning_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/sorting"
)

var began = time.Date(2026, 9, 28, 8, 0, 0, 0, time.UTC)

// life is a history in which Bram is answered where he asks, a list hardly ever and strangers at times.
func life(n int) []learning.Lesson {
	r := rand.New(rand.NewPCG(1, 2))
	var out []learning.Lesson
	for i := range n {
		l := learning.Lesson{Letter: int64(i + 1), At: began.Add(time.Duration(i) * 3 * time.Hour), Outcome: learning.Outcome(decide.Done)}
		chance := 0.0
		switch i % 4 {
		case 0:
			l.Facts, chance = learning.Facts{Sender: "bram@freight.example", Is: learning.Asks}, 0.9
		case 1:
			l.Facts, chance = learning.Facts{Sender: "bram@freight.example"}, 0.1
		case 2:
			l.Facts, chance = learning.Facts{Sender: "news@moss.example", List: "moss.example", Is: learning.Listed | learning.Long}, 0.02
		default:
			l.Facts, chance = learning.Facts{Sender: fmt.Sprintf("s%d@post%d.example", i, i), Is: learning.Asks}, 0.6
		}
		if r.Float64() < chance {
			l.Outcome = learning.Outcome(decide.Answer)
		}
		out = append(out, l)
	}
	return out
}

func TestWhatMatters(t *testing.T) {
	lessons := life(200)
	m := learning.Learn(lessons)
	now := lessons[len(lessons)-1].At.Add(time.Hour)
	of := func(f learning.Facts) learning.Chance {
		c, ok := m.Of(0, f, now)
		assert.True(t, ok)
		return c
	}
	asks := of(learning.Facts{Sender: "bram@freight.example", Is: learning.Asks})
	tells := of(learning.Facts{Sender: "bram@freight.example"})
	list := of(learning.Facts{Sender: "news@moss.example", List: "moss.example", Is: learning.Listed | learning.Long})
	stranger := of(learning.Facts{Sender: "new@nowhere.example", Is: learning.Asks})
	assert.True(t, asks.High(), "%v", asks)
	assert.Contains(t, asks.Reasons[0], "letters from them that ask something")
	assert.Regexp(t, `^you acted on \d+ of \d+ letters`, asks.Reasons[0])
	assert.False(t, tells.High(), "%v", tells)
	assert.True(t, list.Low(), "%v", list)
	assert.Greater(t, stranger.P, tells.P, "what is asked is answered, whoever asks")
	s := m.Sender("bram@freight.example")
	assert.Equal(t, 100, s.Letters)
	assert.Len(t, s.Facts, 2)
	assert.Zero(t, m.Sender("nobody@nowhere.example"))
}

// Of three letters nothing is told, nor of none.
func TestTooLittleToTell(t *testing.T) {
	for _, n := range []int{0, 3, 9} {
		_, ok := learning.Learn(life(n)).Of(0, learning.Facts{Sender: "bram@freight.example"}, began)
		assert.False(t, ok, n)
	}
	_, ok := learning.Learn(life(10)).Of(0, learning.Facts{}, began)
	assert.True(t, ok)
}

// What its owner says of a letter counts before what was learned, until it is decided.
func TestWhatIsSaidOfALetterCounts(t *testing.T) {
	lessons := life(40)
	end := lessons[39].At
	say := func(o learning.Outcome, later time.Duration) learning.Lesson {
		return learning.Lesson{Letter: 1000, At: end.Add(later), Facts: learning.Facts{Sender: "news@moss.example", List: "moss.example"}, Outcome: o}
	}
	c, _ := learning.Learn(append(lessons, say(learning.Said, 0))).Of(1000, learning.Facts{}, end)
	assert.True(t, c.High())
	c, _ = learning.Learn(append(lessons, say(learning.Said, 0), say(learning.Denied, time.Minute))).Of(1000, learning.Facts{}, end)
	assert.False(t, c.High())
	chance := func(lessons []learning.Lesson) learning.Chance {
		c, ok := learning.Learn(lessons).Of(1001, learning.Facts{Sender: "news@moss.example", List: "moss.example"}, end)
		assert.True(t, ok)
		return c
	}
	done := say(learning.Outcome(decide.Done), time.Minute)
	assert.Equal(t, chance(append(lessons, done)), chance(append(lessons, say(learning.Said, 0), done)), "only the last lesson of a letter counts")
	assert.Equal(t, chance(lessons), chance(append(lessons, say(learning.Outcome(decide.PutOff), 0))), "put off says nothing of what matters")
}

// The same history gives the same model, in whatever order it is read; and taking a lesson back
// leaves what was learned without it.
func TestTheSameHistoryGivesTheSameModel(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lessons := life(rapid.IntRange(0, 120).Draw(t, "lessons"))
		m := learning.Learn(lessons)
		mixed := rapid.Permutation(lessons).Draw(t, "mixed")
		assert.Equal(t, m, learning.Learn(mixed))
		f := learning.Facts{Sender: rapid.SampledFrom([]string{"bram@freight.example", "x@y.example", ""}).Draw(t, "from"), Is: learning.Fact(rapid.IntRange(0, 1<<11-1).Draw(t, "is"))}
		now := began.Add(time.Duration(rapid.Int64Range(-1e6, 1e9).Draw(t, "now")) * time.Millisecond)
		if c, ok := m.Of(0, f, now); ok && (!(c.P > 0 && c.P < 1) || len(c.Reasons) > 2) {
			t.Fatalf("%v", c)
		}
	})
}

func TestFactsOfALetter(t *testing.T) {
	assert.Equal(t, learning.Listed|learning.Machine|learning.Long, learning.Of(sorting.Machine|sorting.Listed|sorting.Spoofed, 301))
	assert.Equal(t, learning.Copied|learning.Short, learning.Of(sorting.Copied, 3))
	assert.Equal(t, learning.Asks, learning.Of(0, 100).With(true, learning.Asks).With(false, learning.Named))
}

// To learn anew and to look at one letter cost what they may (see bench).
func BenchmarkLearn(b *testing.B) {
	lessons := life(50_000)
	b.ResetTimer()
	for b.Loop() {
		learning.Learn(lessons)
	}
}
