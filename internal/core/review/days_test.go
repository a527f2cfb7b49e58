package review

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"ebbe.example/ebbe/internal/core/decide"
)

func TestDays(t *testing.T) {
	at := func(day, hour int) time.Time { return time.Date(2026, 11, day, hour, 0, 0, 0, time.UTC) }
	p := Passed{
		Came:      []Came{{At: at(23, 9), N: 4}, {At: at(24, 3), Purged: true, N: 1}, {At: at(24, 4), N: 2}},
		Moved:     []Moved{{At: at(23, 10), Was: decide.Inbox, Now: decide.Archive, Step: "decide:done", ByHand: true, Mine: true, Stands: true, N: 3}, {At: at(24, 5), Was: decide.Later, Now: decide.Inbox, Stands: true, N: 1}},
		PutOffs:   []PutOff{{At: at(23, 9), Conversation: 7, Times: 3}, {At: at(24, 9), Conversation: 7, Times: 4}, {At: at(24, 9), Conversation: 8, Times: 1}},
		Exchanges: []Exchange{{At: at(23, 9), Wait: time.Hour, Own: true}, {At: at(24, 9), Wait: 3 * time.Hour, Own: true}, {At: at(24, 9), Wait: time.Hour, BeforeOwn: true}},
		Waited:    []time.Time{at(24, 3), at(24, 4)},
		Broke:     []time.Time{at(23, 9)},
	}
	tide := Tide{Curve: []Point{{at(23, 4), 2}, {at(23, 9), 6}, {at(24, 4), 1}, {at(24, 8), 0}}, Zeros: []time.Time{at(24, 8)}}
	days := Days(p, tide, []time.Time{at(23, 4), at(24, 4), at(25, 4)})
	hours := func(n ...int) (out []time.Duration) {
		for _, h := range n {
			out = append(out, time.Duration(h)*time.Hour)
		}
		return out
	}
	assert.Equal(t, []Day{
		{Came: 5, Decided: 3, PutOffs: 1, Night: 6, Avoided: 1, Interrupted: 1, Often: []int64{7}, Mine: hours(1)},
		{Came: 3, PutOffs: 2, Zeros: 1, Avoided: 1, Often: []int64{7}, Mine: hours(3), Theirs: hours(1)},
	}, days)
	assert.Equal(t, Together{Came: 8, Decided: 3, PutOffs: 3, Often: 1, Zeros: 1, Night: 3, Avoided: 2, Interrupted: 1, Mine: Median{3 * time.Hour, 2}, Theirs: Median{time.Hour, 1}}, Over(days))
	assert.Equal(t, Together{}, Over(nil))
	assert.Equal(t, hours(1), days[0].Mine, "nothing of a day is changed by summing up")
}
