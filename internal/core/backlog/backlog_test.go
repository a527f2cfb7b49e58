package backlog_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/when"
)

var now = time.Date(2026, 11, 24, 8, 20, 0, 0, time.UTC)

func days(n int) time.Time { return now.AddDate(0, 0, -n) }

func TestHeapsAreLaidLargestFirst(t *testing.T) {
	var all []backlog.Letter
	add := func(n int, l backlog.Letter) {
		for range n {
			l.ID = int64(len(all) + 1)
			all = append(all, l)
		}
	}
	add(5, backlog.Letter{Sender: "a@news.example", List: "news", Machine: true, At: days(10)})
	add(4, backlog.Letter{Sender: "b@shop.example", Name: "Shop", Machine: true, At: days(100)})
	add(4, backlog.Letter{Sender: "a@news.example", List: "news", Machine: true, At: days(95)}) // of two heaps, the larger one
	add(3, backlog.Letter{Sender: "bram@hexa.example", Name: "Bram", At: days(2)})
	add(2, backlog.Letter{Sender: "oda@school.example", At: days(3)})
	add(1, backlog.Letter{Sender: "old@x.example", At: days(400)})
	add(2, backlog.Letter{Sender: "news", List: "news", Starred: true, Asks: true, At: days(1)})
	add(1, backlog.Letter{Sender: "bram@hexa.example", Asks: true, At: days(500)})
	add(1, backlog.Letter{Sender: "x@x.example", Ahead: true, At: days(500)})
	heaps, left := backlog.Lay(all, map[string]backlog.Habit{"sender:b@shop.example": {Kind: decide.File, Label: "bills"}}, now)
	var got []string
	for _, h := range heaps {
		got = append(got, fmt.Sprint(len(h.Letters), " ", h.Key, " ", h.Propose, " ", h.Label, " ", h.Own))
	}
	assert.Equal(t, []string{"9 list:news done  false", "4 sender:b@shop.example file bills true", "3 sender:bram@hexa.example done  false"}, got)
	assert.Equal(t, "from Shop", heaps[1].Words)
	assert.Equal(t, days(95), heaps[0].Oldest)
	assert.Equal(t, days(10), heaps[0].Newest)
	assert.Equal(t, "2 starred, 1 that ask you something, 1 with a date to come", left.InWords())
	assert.Equal(t, 4, left.N())
}

// Each letter is in one heap at most, no later heap is larger, and what is left out is in none.
func TestAnyBacklogIsLaidOnce(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var all []backlog.Letter
		for i := range rapid.IntRange(0, 60).Draw(rt, "n") {
			all = append(all, backlog.Letter{
				ID: int64(i), Sender: rapid.SampledFrom([]string{"", "a", "b", "c"}).Draw(rt, "sender"), List: rapid.SampledFrom([]string{"", "", "l"}).Draw(rt, "list"),
				Machine: rapid.Bool().Draw(rt, "machine"), At: days(rapid.IntRange(0, 300).Draw(rt, "days")),
				Starred: rapid.IntRange(0, 9).Draw(rt, "star") == 0, Ahead: rapid.IntRange(0, 9).Draw(rt, "ahead") == 0,
			})
		}
		heaps, left := backlog.Lay(all, nil, now)
		again, _ := backlog.Lay(all, nil, now)
		assert.Equal(rt, heaps, again, "the same each time")
		in, before := map[int64]bool{}, len(all)
		for _, h := range heaps {
			assert.LessOrEqual(rt, len(h.Letters), before)
			before = len(h.Letters)
			for _, id := range h.Letters {
				assert.False(rt, in[id] || all[id].Starred || all[id].Ahead)
				in[id] = true
			}
		}
		assert.LessOrEqual(rt, len(in)+left.N(), len(all))
	})
}

func TestWhenABacklogIsCleared(t *testing.T) {
	c := when.Standard(time.UTC)
	tuesday := when.DateOf(now)
	for _, x := range []struct {
		began       time.Time
		n, left, by int
		want        string
	}{
		{now, 1000, 1000, 100, "2026-12-08"},                 // nothing has gone: its share counts
		{now, 1000, 600, 100, "2026-11-26"},                  // 400 today
		{now.AddDate(0, 0, -4), 1000, 700, 10, "2026-12-03"}, // 300 in Friday, Monday and Tuesday; over a weekend
		{now, 1000, 0, 100, "2026-11-24"},
		{now, 1000, 1000, 0, ""},
	} {
		d, ok := backlog.Plan{Began: x.began, N: x.n, Share: x.by}.Cleared(x.left, tuesday, c)
		if x.want == "" {
			assert.False(t, ok)
			continue
		}
		assert.Equal(t, x.want, d.String())
	}
}
